import { z } from 'zod';
import { DOCUMENT_NAMES, documentKind, namesStock, type Kind } from '../../core/document/kinds.ts';
import { Problem } from '../../core/problem/problem.ts';
import { MODES, pickState } from '../../core/sheet/sheet.ts';
import { key, line, quantity, text } from '../../core/text/input.ts';
import { createDocument, MOST_LINES } from '../document/create.ts';
import type { Order } from '../document/orders.ts';
import { pool } from '../database/pool.ts';
import { parse } from '../parse.ts';
import { MOST_ROWS, readDrafts, replaceRows } from '../sheet/drafts.ts';
import { bookNow, findOpenOrder, findOrder, sheetState } from '../sheet/state.ts';
import type { Call, Operation } from './call.ts';
import { refusals } from './refusals.ts';
import { rowBody, rowsOf } from './rows.ts';

/** What programs call a kind of document besides its own name. */
const ALSO: Record<string, Kind> = { job: 'issue' };
const kinds = z
	.enum([...DOCUMENT_NAMES, ...Object.keys(ALSO)] as [string, ...string[]])
	.transform((k): Kind => ALSO[k] ?? (k as Kind));
const orderBody = z.strictObject({
	code: line(60).nullish().describe('Its number; the next one of its kind where it is left out.'),
	kind: kinds,
	partner: line(60, 0).nullish().describe('Code of the customer or supplier.'),
	job: line(60, 0).nullish(),
	site: line(45, 0).nullish().describe('The site or bin where it arrives, is made, or goes from.'),
	to: line(45, 0).nullish().describe('Of a transfer: where it goes.'),
	due: line(40, 0).nullish().describe('A day, such as 2027-03-31.'),
	reason: line(100, 0).nullish().describe('Of an adjustment or a return: by its name in the firm’s list.'),
	note: text(1000, 0).nullish(),
	way: line(20, 0).nullish().describe('Code of the way of delivery.'),
	theirs: z.boolean().nullish().describe('Of a purchase: what comes stays the property of its partner.'),
	from: line(60, 0).nullish().describe('The item that goes in, of what is repacked or reworked.'),
	lines: z
		.array(
			z.strictObject({
				item: line(60),
				qty: quantity,
				for: line(60, 0).nullish().describe('Of a purchase: the customer that it is bought for.'),
				warranty: line(20, 0).nullish().describe('Of a sale: as P24M.'),
				price: line(40, 0).nullish()
			})
		)
		.max(MOST_LINES)
});
const rowsBody = z.strictObject({
	rows: z.array(rowBody).max(MOST_ROWS),
	over: z.boolean().optional().describe('Replaces what somebody else entered, too.'),
	mode: z
		.enum(MODES)
		.optional()
		.describe('Of a transfer or of an order whose site picks first: the rows name what leaves, or what arrives.')
});
const bookBody = z.strictObject({
	key,
	mode: z
		.enum(MODES)
		.optional()
		.describe('Of a production or a transfer: record only what goes in, or only what comes out.'),
	suggested: z
		.boolean()
		.optional()
		.describe('Of a document that takes stock: what is suggested goes too. Without it only what the rows name.'),
	reason: text(1000).optional().describe('Why, where a check asks for it.')
});

const some = z.string().nullable();
const rowShown = z.object({
	line: z.number(),
	lot: some,
	serial: some,
	count: z.number().nullable(),
	qty: some,
	place: some,
	expiresOn: some,
	unit: some,
	goes: some,
	found: some
});
/** An order as programs see it. */
export const orderShown = z.object({
	code: z.string(),
	kind: z.enum(DOCUMENT_NAMES),
	partner: some,
	job: some,
	site: some,
	to: some,
	due: some,
	note: z.string(),
	theirs: z.boolean().describe('What comes stays the property of its partner.'),
	closed: some.describe('The day since which it is complete.'),
	lines: z.array(
		z.object({
			id: z.string().describe('What acts of the order name it by.'),
			line: z.number(),
			role: z.string(),
			item: z.string(),
			qty: z.string().describe('Decimal text, in the item’s unit.'),
			done: z.string().describe('Booked so far.'),
			unit: z.string(),
			takes: z.boolean().describe('It takes from stock: its rows name a lot or serial that is there.')
		})
	),
	rows: z.array(rowShown).describe('What is entered and not booked yet.'),
	picks: z
		.array(
			z.object({
				line: z.number(),
				unit: some,
				item: z.string(),
				lot: some,
				serial: some,
				qty: z.string(),
				place: z.string(),
				state: z.enum(['suggested', 'chosen', 'picked'])
			})
		)
		.describe('What is taken from stock: suggested by Earmark, chosen by its number, or picked.'),
	missing: z.array(z.object({ line: z.number(), level: z.string(), code: z.string(), message: z.string() })),
	ready: z.boolean(),
	events: z.array(
		z.object({
			id: z.string(),
			kind: z.string(),
			at: z.string(),
			by: z.string(),
			undone: z.boolean(),
			papers: z.array(z.object({ id: z.string(), at: z.string() })).describe('As they were printed.')
		})
	)
});

/** A problem with the names that programs use for two fields. */
function named(e: unknown): never {
	if (!(e instanceof Problem)) throw e;
	const names: Record<string, string> = { place: 'site', dueOn: 'due' };
	throw new Problem(
		e.faults.map((f) => ({ ...f, ...(f.at && names[f.at] ? { at: names[f.at] } : {}) })),
		e.status
	);
}

/** Makes a document. */
async function makeOrder({ who, body, allow }: Call): Promise<Response> {
	const { site, due, lines, ...given } = parse(orderBody, body);
	allow(documentKind(given.kind).create);
	const code = await createDocument(pool(), who.name, {
		...given,
		place: site,
		dueOn: due,
		lines: lines.map((l) => ({ ...l, warranty: l.warranty || null }))
	}).catch(named);
	return Response.json({ code }, { status: 201 });
}

/** A document with its sheet. */
async function answerOrder({ params }: Call): Promise<Response> {
	const order = await findOrder(pool(), params.order);
	return Response.json(await shown(order));
}
/** An order with its sheet, as programs see it. */
export async function shown(order: Order): Promise<z.output<typeof orderShown>> {
	const [sheet, drafts] = await Promise.all([sheetState(pool(), order.code), readDrafts(pool(), order.id)]);
	const taken = drafts.flatMap((d) => d.data.mark ?? []);
	const marks = new Map(
		(
			await pool()<{ id: string; lot: string | null; serial: string | null }[]>`
				SELECT k.id, k.of_lot AS lot, CASE WHEN k.kind = 'serial' THEN k.number END AS serial FROM mark_now k WHERE k.id = ANY(${taken}::bigint[]) AND k.kind = 'serial'
				UNION ALL SELECT m.id, m.lot_no, NULL FROM mark m WHERE m.id = ANY(${taken}::bigint[]) AND m.kind <> 'serial'`
		).map((m) => [m.id, m])
	);
	const numbers = new Map(order.lines.map((l) => [l.id, l.no]));
	const times = new Map(
		(
			await pool()<
				{ id: string; at: Date }[]
			>`SELECT id, at FROM event WHERE id = ANY(${sheet.events.map((e) => e.id)}::bigint[])`
		).map((e) => [e.id, e.at.toISOString()])
	);
	return {
		...{ code: order.code, kind: order.kind, partner: order.partner, job: order.job, site: order.place, to: order.to },
		...{ due: order.dueOn, note: order.note, theirs: order.theirs, closed: order.closedAt, ready: sheet.ready },
		lines: order.lines.map((l) => ({
			...{
				id: l.id,
				line: l.no,
				role: l.role,
				item: l.item,
				qty: l.qty,
				done: l.done,
				unit: l.unit,
				takes: namesStock(order.kind, l.role)
			}
		})),
		rows: drafts.map(({ lineId, data }) => {
			const mark = marks.get(data.mark ?? '');
			return {
				line: numbers.get(lineId) ?? 0,
				lot: mark?.lot ?? data.lot ?? null,
				serial: mark?.serial ?? data.serial ?? null,
				count: data.count ?? null,
				qty: data.qty ?? null,
				place: data.place ?? null,
				expiresOn: data.expiresOn ?? null,
				unit: data.unit ?? null,
				goes: data.goes ?? null,
				found: data.found ?? null
			};
		}),
		picks: sheet.lines.flatMap((l) =>
			l.cells.flatMap((c) =>
				c.picks.map((p) => ({
					...{ line: l.no, unit: c.unit, item: l.item, qty: p.qty, place: p.place, state: pickState(p) },
					lot: p.kind === 'lot' ? p.number : p.lot,
					serial: p.kind === 'serial' ? p.number : null
				}))
			)
		),
		missing: sheet.missing.map(({ line: no, level, code, message }) => ({ line: no, level, code, message })),
		events: sheet.events.map(({ id, kind, by, undone, papers }) => ({
			id,
			kind,
			at: times.get(id)!,
			by,
			undone,
			papers
		}))
	};
}

/** Fills the sheet of a document: what stood in it before goes. */
async function fillSheet({ who, params, body, allow }: Call): Promise<Response> {
	const order = await findOpenOrder(pool(), params.order);
	allow(documentKind(order.kind).right);
	const { rows, over = false, mode } = parse(rowsBody, body);
	await replaceRows(pool(), who.name, order, await rowsOf(pool(), order, rows, mode), over);
	return Response.json(await shown(await findOrder(pool(), order.code)));
}
/** Books what the sheet comes to. */
async function bookOrder({ who, params, body }: Call): Promise<Response> {
	const booked = await bookNow(pool(), who, params.order, parse(bookBody, body));
	return Response.json({ id: booked.id, movements: booked.movements }, { status: booked.again ? 200 : 201 });
}

const REFUSED = {
	...refusals('book outbound'),
	404: 'There is no order SO-9. Look it up in the list.'
};

/** The calls of orders: made, looked at, filled and booked, with the same checks as their pages. */
export const orderCalls: readonly Operation[] = [
	{
		method: 'POST',
		path: '/api/v1/orders',
		summary:
			'Makes an order: a purchase, a production, a sale, an issue to a job, a transfer, a return, an adjustment, a repacking.',
		right: 'read',
		body: orderBody,
		answers: { 201: { says: 'It is made.', schema: z.object({ code: z.string() }) } },
		refusals: {
			...refusals('write orders'),
			422: 'Order SO-9 is there already. Open it, or take another number.'
		},
		run: makeOrder
	},
	{
		method: 'GET',
		path: '/api/v1/orders/{order}',
		summary: 'An order: its lines, what is entered and not booked, what is missing, and what was booked.',
		right: 'read',
		answers: { 200: { says: 'The order as it stands.', schema: orderShown } },
		refusals: { 401: REFUSED[401], 404: REFUSED[404] },
		run: answerOrder
	},
	{
		method: 'PUT',
		path: '/api/v1/orders/{order}/rows',
		summary:
			'Fills the sheet of an order; what this program entered before goes. Books nothing: what is missing comes back. Of a line that takes from stock its rows name what is there.',
		right: 'read',
		body: rowsBody,
		answers: { 200: { says: 'The order as it stands.', schema: orderShown } },
		refusals: {
			...REFUSED,
			409: 'Tobi Marsh entered rows in PO-7 that are not booked yet. Have them booked or taken out, or say over to replace them.',
			422: 'There is no lot GEL-9 of item GEL. Check the number.'
		},
		run: fillSheet
	},
	{
		method: 'POST',
		path: '/api/v1/orders/{order}/book',
		summary:
			'Books what the rows of an order say, all of it or nothing; of a document that takes stock what is suggested too, where that is said.',
		right: 'read',
		body: bookBody,
		answers: {
			201: { says: 'It is booked.', schema: z.object({ id: z.string(), movements: z.number() }) },
			200: {
				says: 'Booked before under this key; nothing is booked now.',
				schema: z.object({ id: z.string(), movements: z.number() })
			}
		},
		refusals: {
			...REFUSED,
			409: 'The key B-1 stands for something else already: event 17. Give each request a key of its own.',
			422: 'Line 1: 3 pcs not entered yet. Enter them, or say that fewer go now.'
		},
		run: bookOrder
	}
];
