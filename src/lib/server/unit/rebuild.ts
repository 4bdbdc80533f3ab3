import { z } from 'zod';
import type { Sql, Tx } from '../database/connect.ts';
import { subjectOf } from '../../core/checks/check.ts';
import { group } from '../../core/group/group.ts';
import { demand } from '../../core/people/can.ts';
import { EVENT_KINDS, type Kind } from '../../core/ledger/events.ts';
import type { Actor, EventInput } from '../../core/ledger/input.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import type { UnitPage, UnitPart } from '../../core/pairing/unit.ts';
import { isZero, least, less, parseQty, sub } from '../../core/quantity/quantity.ts';
import { id, key, line, quantity, text } from '../../core/text/input.ts';
import { bookedUnder, digest } from '../ledger/append.ts';
import { book, type Booked } from '../ledger/book.ts';
import { setStatusWithin } from '../ledger/changes.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import { parse } from '../parse.ts';
import { unitPage } from './contents.ts';

/** What is done with the parts of a unit, as parsed. */
export const rebuildInput = z.strictObject({
	key,
	reason: text(1000, 1, 'Say why, in one line. It is kept in the ledger.'),
	parts: z
		.array(
			z.strictObject({
				/** id of what is in it */
				mark: id,
				/** how much of it comes out; all of it when it is left out */
				qty: quantity.nullish(),
				/** where it goes: to a bin, to a bin on hold, or to scrap */
				to: z.enum(['bin', 'hold', 'scrap']),
				place: line(45, 0).nullish(),
				/** number of what is put in its place; empty for nothing */
				instead: line(60, 0).nullish()
			})
		)
		.max(1000)
		.default([]),
	/** what is left of the unit goes to scrap */
	scrapRest: z.boolean().default(false)
});
/** The most decimals of a quantity; the item’s own are looked at when it is booked. */
const FINEST = 6;
type Rebuild = z.output<typeof rebuildInput>;

/**
 * Takes parts out of a finished unit, puts others in their place, and scraps what is left of it where that is asked: one
 * event in the unit's own run. Only what is really in it comes out, as maintained; each part keeps its number.
 * @param mark id of the unit
 * @throws Problem naming each part, with the reason; nothing is booked then
 */
export async function rebuildUnit(
	sql: Sql,
	actor: Actor,
	mark: string,
	input: unknown,
	now = new Date()
): Promise<Booked> {
	const given = parse(rebuildInput, input);
	const request = { unit: mark, ...given };
	const known = await bookedUnder(sql, given.key, digest(request));
	if (known) return known;
	const unit = await unitPage(sql, mark, 'now');
	if (!unit) throw new Problem('There is no unit with parts of its own under this number.', 404);
	if (!given.parts.length && !given.scrapRest)
		throw new Problem('Nothing is chosen yet. Say of a part where it goes, or scrap the rest.');
	if (!unit.place)
		throw new Problem(`${unit.number} is not here. Enter its return first, or look on its page where it is.`);
	const event = { ...(await eventOf(sql, unit, given)), at: now.toISOString() };
	demand(actor.role, EVENT_KINDS[event.kind as Kind].right);
	const holds = given.parts
		.filter((p) => p.to === 'hold')
		.map((p) => ({
			key: `${given.key.slice(0, 150)} hold ${p.mark}`,
			mark: p.mark,
			act: 'hold' as const,
			reason: `out of ${unit.number}: ${given.reason}`.slice(0, 1000)
		}));
	// On hold as it comes out: at no moment may anybody take it, and where nothing comes out nothing is held.
	const before = holds.length ? (tx: Tx) => setStatusWithin(tx, actor, holds) : undefined;
	return book(sql, actor, { ...event, key: given.key }, { request, before });
}

/** The event of a rebuilding. @throws Problem naming what cannot be done with a part */
async function eventOf(sql: Sql, unit: UnitPage, given: Rebuild): Promise<Omit<EventInput, 'key' | 'at'>> {
	const faults: Fault[] = [];
	const inside = new Map(unit.parts.map((p) => [p.mark, p]));
	const wanted = given.parts.filter((p) => p.instead);
	const items = wanted.flatMap((p) => inside.get(p.mark)?.item ?? []);
	const ids = items.length
		? await sql<{ id: string; code: string }[]>`SELECT id, code FROM item WHERE code = ANY(${items})`
		: [];
	const stock = group(
		[
			...(ids.length
				? await onHand(
						sql,
						ids.map((i) => i.id),
						'0'
					)
				: [])
		],
		(s) => ids.find((i) => i.id === s.itemId)!.code
	);
	const out: NonNullable<EventInput['movements']> = [];
	const into: NonNullable<EventInput['movements']> = [];
	for (const [n, p] of given.parts.entries()) {
		const at = `parts[${n}]`;
		const part = inside.get(p.mark);
		if (!part) {
			faults.push({ message: `This part is not in ${unit.number} any more. Reload the page.`, at });
			continue;
		}
		const read = p.qty ? parseQty(p.qty, FINEST, part.unit) : { qty: part.qty };
		if ('problem' in read) {
			faults.push({ message: `${nameOf(part)}: ${read.problem}`, at });
			continue;
		}
		const { qty } = read;
		if (p.to !== 'scrap' && !p.place) faults.push({ message: `${nameOf(part)}: choose the bin that it goes to.`, at });
		if (p.to === 'hold' && part.kind !== 'serial')
			faults.push({
				message: `${nameOf(part)} is no serial: a hold would stop all of its lot. Put it to a bin, or to scrap.`,
				at
			});
		out.push({
			item: part.item,
			...(part.kind === 'unmarked' ? {} : { mark: part.mark }),
			qty,
			from: '@process',
			to: p.to === 'scrap' ? '@scrap' : (p.place ?? ''),
			run: unit.run,
			role: 'detach'
		});
		if (p.instead) into.push(...replacing(unit, part, p.instead, qty, stock.get(part.item) ?? [], faults, at));
	}
	if (faults.length) throw new Problem(faults);
	const rest = given.scrapRest
		? [{ item: unit.item, serial: unit.number, qty: '1', from: unit.place!, to: '@scrap' }]
		: [];
	return {
		// Where nothing is saved of it, it is scrapped like any other piece.
		kind: out.length ? 'service' : 'scrap',
		document: unit.number.slice(0, 60),
		reason: given.reason,
		movements: [...out, ...into, ...rest]
	};
}
const nameOf = (p: UnitPart) => (p.kind === 'unmarked' ? p.itemName : subjectOf([p]).text);

/** What is put in the place of a part: from the unit's own site before others, from as many places as it takes. */
function replacing(
	unit: UnitPage,
	part: UnitPart,
	number: string,
	qty: string,
	stock: readonly OnHand[],
	faults: Fault[],
	at: string
): NonNullable<EventInput['movements']> {
	const site = unit.place!.split('/')[0];
	const there = stock
		.filter((s) => s.number === number.trim())
		.sort((a, b) => Number(b.place.startsWith(site)) - Number(a.place.startsWith(site)));
	let need = qty;
	const moves: NonNullable<EventInput['movements']> = [];
	for (const s of there) {
		if (isZero(need)) break;
		const take = least(need, s.qty);
		moves.push({ item: part.item, mark: s.mark, qty: take, from: s.place, to: '@process', run: unit.run, role: 'use' });
		need = sub(need, take);
	}
	if (less('0', need))
		faults.push({
			message: there.length
				? `${number} of ${part.itemName}: ${qty} are to go in, ${sub(qty, need)} lie here. Take another.`
				: `${number} of ${part.itemName} lies nowhere here. Check the label, or find it in the register.`,
			at
		});
	return moves;
}
