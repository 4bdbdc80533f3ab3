import { createHash } from 'node:crypto';
import { z } from 'zod';
import { documentKind } from '../../core/document/kinds.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { isZero } from '../../core/quantity/quantity.ts';
import { drawInk, isSigned } from '../../core/sheet/ink.ts';
import { numbersToCome } from '../../core/sheet/progress.ts';
import { id, line } from '../../core/text/input.ts';
import { transaction, type Sql } from '../database/connect.ts';
import type { Order } from '../document/orders.ts';
import { parse } from '../parse.ts';
import { notify } from '../sheet/live.ts';
import { sheetState } from '../sheet/state.ts';
import { agreedOn } from './sale.ts';

const point = z.strictObject({ x: z.number().min(-1000).max(10_000), y: z.number().min(-1000).max(10_000) });
/** The most points that a signature has: some minutes of drawing. */
const MOST_POINTS = 20_000;
/** A signature, as parsed. */
export const signatureInput = z.strictObject({
	meaning: z.enum(['terms', 'receipt']),
	/** the event by which it was handed over; of the terms none */
	event: id.nullish(),
	signer: line(100, 1, 'Type the name of who signs.', 'A name has at most 100 characters.'),
	strokes: z
		.array(z.array(point))
		.refine(
			(drawn) => drawn.reduce((n, s) => n + s.length, 0) <= MOST_POINTS,
			'This is more than a signature. Clear it, and let them sign again.'
		),
	/** to the terms: no number is promised to it yet, and it goes on without */
	withoutNumber: z.boolean().default(false)
});

/**
 * Keeps a signature: of who agrees to the firm's terms before anything goes, or of who takes what was handed over.
 * @throws Problem when it is empty, given already, or nothing is there to sign for; nothing is kept then
 */
export async function sign(sql: Sql, actor: Actor, order: Order, input: unknown, now = new Date()): Promise<void> {
	const kind = documentKind(order.kind);
	demand(actor.role, kind.right);
	if (!kind.sells) throw new Problem(`Nobody signs on a ${kind.name}. Sign on the order that the goods are sold by.`);
	const given = parse(signatureInput, input);
	if (!isSigned(given.strokes)) throw new Problem('The signature is empty. Let them sign in the field, then keep it.');
	const terms = given.meaning === 'terms' ? await termsToSign(sql, order, given.withoutNumber) : null;
	const svg = drawInk(given.strokes);
	const sha256 = createHash('sha256').update(svg).digest('hex');
	await transaction(sql, async (tx) => {
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR UPDATE`;
		if (given.meaning === 'receipt') {
			const [event] = await tx`
				SELECT 1 FROM event e WHERE e.id = ${given.event ?? null} AND e.kind = 'shipment' AND EXISTS (SELECT 1 FROM movement m JOIN order_line l ON l.id = m.order_line_id WHERE m.event_id = e.id AND l.order_id = ${order.id})
					AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id)`;
			if (!event) throw new Problem('Nothing was handed over by that, or it was undone. Reload the page.', 404);
		}
		const kept = await tx`
			WITH file AS (INSERT INTO stored_file (sha256, type, content, added_by) VALUES (${sha256}, 'image/svg+xml', ${Buffer.from(svg)}, ${actor.name}) ON CONFLICT DO NOTHING)
			INSERT INTO signature (order_id, event_id, meaning, signer, terms, agreed, without_number, sha256, taken_by, at)
			VALUES (${order.id}, ${terms ? null : (given.event ?? null)}, ${given.meaning}, ${given.signer}, ${terms}, ${terms ? tx.json({ ...agreedOn(order) }) : null}, ${given.withoutNumber}, ${sha256}, ${actor.name}, ${now}) ON CONFLICT DO NOTHING`;
		if (!kept.count)
			throw new Problem(
				`${given.meaning === 'terms' ? 'The terms are' : 'This is'} signed already. Reload the page to see by whom.`,
				409
			);
		await notify(tx, order.code);
	});
}

/** The firm's terms, which somebody signs before anything of an order goes. */
async function termsToSign(sql: Sql, order: Order, withoutNumber: boolean): Promise<string> {
	const [{ terms }] = await sql<{ terms: string }[]>`SELECT terms FROM firm`;
	if (!terms) throw new Problem('The firm has no terms to agree to. Write them in Setup, Terms of sale, first.');
	if (order.lines.some((l) => !isZero(l.done)))
		throw new Problem(
			`Some of ${order.code} has gone already: its terms were agreed to before that, or not at all.`,
			409
		);
	const { lines } = await sheetState(sql, order.code);
	const without = lines.filter((l) => !isZero(numbersToCome(l)));
	if (without.length && !withoutNumber)
		throw new Problem([
			{
				message: `No number is chosen or promised yet for ${without.map((l) => `line ${l.no}, ${l.itemName}`).join('; ')}. Choose one, or say that it goes on without.`,
				at: 'withoutNumber',
				code: 'number to come',
				level: 'reason'
			}
		]);
	return terms;
}
