import { z } from 'zod';
import { documentKind } from '../core/document/kinds.ts';
import { group } from '../core/group/group.ts';
import type { Actor } from '../core/ledger/input.ts';
import { demand } from '../core/people/can.ts';
import { id } from '../core/text/input.ts';
import type { Mode } from '../core/sheet/sheet.ts';
import type { Sql } from './database/connect.ts';
import { closeInput, closeShort, openAgain } from './document/close.ts';
import { note, notedInput } from './document/noted.ts';
import { mustBeOpen, type Order } from './document/orders.ts';
import { makePromises, promisesInput, releasePromises } from './document/promises.ts';
import { setTodo, todoGiven } from './document/todo.ts';
import { setWay, wayGiven } from './document/way.ts';
import { putBack, putBackInput } from './outbound/putback.ts';
import { agreedInput, setAgreed } from './outbound/sale.ts';
import { sign, signatureInput } from './outbound/signature.ts';
import { swap, swapInput } from './outbound/swap.ts';
import { movedWords } from './ledger/moved.ts';
import { parse } from './parse.ts';
import { addByproduct, besideInput } from './production/beside.ts';
import { giveBack, giveBackInput } from './production/giveback.ts';
import { drawInput, drawRows } from './sheet/draw.ts';
import { endTransit, transitInput } from './stock/transit.ts';

/** Something that is done with a document beside filling its sheet and booking it. */
export interface Act {
	summary: string;
	body: z.ZodType;
	/** why it may not be done, as an example */
	refused: string;
	/** does it, and looks at who may; @returns what was done, in words, where there is more to say than what the sheet shows */
	run: (sql: Sql, who: Actor, order: Order, given: unknown, mode: Mode) => Promise<{ said?: string; added?: string[] }>;
}
const done = async (work: Promise<unknown>) => {
	await work;
	return {};
};
const ofKind = (order: Order, who: Actor) => demand(who.role, documentKind(order.kind).right);

const closeAsked = closeInput.extend({ open: z.boolean().default(false).describe('Opens it again instead.') });
const released = z.array(id).min(1, 'Name the promises.').max(20_000);

/** Every one there is, by the name that its page and programs call it. A new one is a row here. */
export const ACTS = {
	draw: {
		summary: 'Draws the next numbers for a line by its pattern and puts them into its sheet.',
		body: drawInput,
		refused: 'Washer has no number pattern for its lots. Choose one in Setup, Items, or type the numbers.',
		async run(sql, who, order, given) {
			ofKind(order, who);
			mustBeOpen(order);
			return { added: await drawRows(sql, who.name, order, given) };
		}
	},
	promises: {
		summary: 'Promises several lots or serials to a line at once: nobody else is offered them then.',
		body: promisesInput,
		refused: 'Nothing is chosen yet. Choose what is to be promised.',
		run: (sql, who, order, given) => done(makePromises(sql, who, order, given))
	},
	release: {
		summary: 'Gives promises of its lines up, by their ids.',
		body: released,
		refused: 'There is no promise 12. Reload the page.',
		run: (sql, who, _order, given) => done(releasePromises(sql, who, parse(released, given)))
	},
	close: {
		summary: 'Closes an order before all of it is booked, or opens it again.',
		body: closeAsked,
		refused: '2 rows are entered in the sheet of PO-7 and not booked. Book or remove them first.',
		async run(sql, who, { code }, given) {
			const { open, ...why } = parse(closeAsked, given);
			return done((open ? openAgain : closeShort)(sql, who, code, why));
		}
	},
	way: {
		summary: 'Says how it is sent; empty for nothing said.',
		body: wayGiven,
		refused: 'There is no way of delivery AIR. Reload the page.',
		run: (sql, who, order, given) => done(setWay(sql, who, order, given))
	},
	todo: {
		summary: 'Adds something that stays to be done of it, or ticks it off.',
		body: todoGiven,
		refused: 'Say what stays to be done, or which of it is done.',
		run: (sql, who, order, given) => done(setTodo(sql, who, order, given))
	},
	noted: {
		summary: 'Notes a payment or an invoice that another program made of it, or withdraws one.',
		body: notedInput,
		refused: 'Give the number of a payment or an invoice, or which of them is withdrawn.',
		run: (sql, who, order, given) => done(note(sql, who, order, given))
	},
	agreed: {
		summary: 'Says whom a sale is for, or what is agreed of a line: its warranty, its price.',
		body: agreedInput,
		refused: 'PO-7 sells nothing. Only a sale has a price and a warranty of its own.',
		run: (sql, who, order, given) => done(setAgreed(sql, who, order, given))
	},
	sign: {
		summary: 'Keeps a signature, drawn as strokes: to the firm’s terms of sale, or for what was handed over.',
		body: signatureInput,
		refused: 'The signature is empty. Let them sign in the field, then keep it.',
		async run(sql, who, order, given) {
			await sign(sql, who, order, given);
			return { said: 'Signed. It stands on its paper.' };
		}
	},
	swap: {
		summary: 'Puts one number in the place of another on a line that sells, before or after it has gone.',
		body: swapInput,
		refused: 'This is the number that it was already. Choose another.',
		run: async (sql, who, order, given, mode) => ({ said: await swap(sql, who, order, given, mode) })
	},
	putback: {
		summary: 'Puts what was picked and waits back to its bins, and says where each goes.',
		body: putBackInput,
		refused: 'Nothing of SO-9 waits. Reload the page.',
		async run(sql, who, { code }, given) {
			const { back } = await putBack(sql, who, code, given);
			const where = [...group(back, (b) => b.to)].map(
				([to, list]) =>
					`${to}: ${[...new Set(list.map((b) => b.number))].slice(0, 20).join(', ')}${list.length > 20 ? ' …' : ''}`
			);
			return { said: `Put back to ${where.join('; ')}.` };
		}
	},
	back: {
		summary: 'Gives back what was put into a batch and not used.',
		body: giveBackInput,
		refused: 'Nothing is chosen yet. Say of what goes back how much it is.',
		async run(sql, who, { code }, given) {
			demand(who.role, 'book production');
			const { id } = await giveBack(sql, who, code, given);
			return { said: `Given back from ${code}: ${await movedWords(sql, id)}.` };
		}
	},
	beside: {
		summary: 'Adds something that comes out of a batch beside what it is made for.',
		body: besideInput,
		refused: 'Cap stands in MO-9 already. Enter it there.',
		async run(sql, who, { code }, given) {
			demand(who.role, 'book production');
			return done(addByproduct(sql, code, given));
		}
	},
	transit: {
		summary: 'Says what became of what is in transit of a transfer and will not arrive: back, or lost.',
		body: transitInput,
		refused: 'Nothing of TR-9 is in transit. Reload the page.',
		async run(sql, who, { code }, given) {
			const { id } = await endTransit(sql, who, code, given);
			return { said: `Not in transit any more: ${await movedWords(sql, id)}.` };
		}
	}
} satisfies Record<string, Act>;

/** An act by its name; null when there is none. */
export const actOf = (name: string): Act | null => (Object.hasOwn(ACTS, name) ? ACTS[name as keyof typeof ACTS] : null);
