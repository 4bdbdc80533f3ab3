import { z } from 'zod';
import { documentKind } from '../../core/document/kinds.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line, text } from '../../core/text/input.ts';
import { transaction } from '../database/connect.ts';
import { pool } from '../database/pool.ts';
import { enterFromNotice, takeNotice } from '../inbound/notice.ts';
import { jobInput, printLabels } from '../labels/jobs.ts';
import { firmZone } from '../marks/zone.ts';
import { contextOf, draw, MOST_DRAWN } from '../numbering/draw.ts';
import { listPatterns } from '../numbering/patterns.ts';
import { parse } from '../parse.ts';
import { listItems } from '../setup/items.ts';
import { findOpenOrder } from '../sheet/state.ts';
import type { Call, Operation } from './call.ts';
import { refusals } from './refusals.ts';

const drawBody = z.strictObject({
	item: line(60, 1, 'Name the item.'),
	kind: z.enum(['lot', 'serial']).optional().describe('What of it, where it carries both; its serial where left out.'),
	pattern: line(30).optional().describe('Another pattern than the item’s.'),
	count: z.int().min(1).max(MOST_DRAWN),
	for: line(60).optional().describe('The order that they are drawn for: its site and line go into the number.')
});

/** Draws numbers: nobody else is given them. */
async function drawNumbers({ who, body, allow }: Call): Promise<Response> {
	const { item: code, kind, pattern: other, count, for: of } = parse(drawBody, body);
	const order = of ? await findOpenOrder(pool(), of) : null;
	allow(order ? documentKind(order.kind).right : 'write items');
	const [known] = await listItems(pool(), code);
	if (!known)
		throw new Problem([{ message: `There is no item ${code}. Check the code.`, at: 'item', code: 'unknown' }]);
	const drawn = kind ?? (known.tracking.includes('serial') ? 'serial' : 'lot');
	if (!known.tracking.includes(drawn))
		throw new Problem([{ message: `${code} carries ${known.tracking}: no ${drawn} is drawn for it.`, at: 'kind' }]);
	const named = other ?? (drawn === 'serial' ? known.serialPattern : known.lotPattern);
	const [pattern] = named ? await listPatterns(pool(), named) : [];
	if (!pattern)
		throw new Problem([
			{
				message: named
					? `There is no pattern ${named}. Check the code.`
					: `${code} has no number pattern for its ${drawn}s. Name one, or choose one in Setup, Items.`,
				at: 'pattern'
			}
		]);
	const place = { place: order?.place ?? null, zone: order?.zone ?? (await firmZone(pool())) };
	const numbers = await transaction(pool(), (tx) =>
		draw(tx, who.name, {
			pattern,
			item: { id: known.id, code },
			kind: drawn,
			count,
			context: contextOf(code, place),
			order: order?.id ?? null
		})
	);
	return Response.json({ kind: drawn, numbers }, { status: 201 });
}

const noticeBody = z.strictObject({
	order: line(60, 1, 'Name the delivery’s order.'),
	name: line(200, 1, 'Name the notice.').describe('What it is called, such as the name of its file.'),
	text: text(10_000_000, 1, 'The notice is empty.').describe('CSV, or EPCIS 2.0 as JSON.'),
	enter: z.boolean().optional().describe('Puts what it announces into the sheet.')
});

/** Takes a supplier's advance notice. */
async function takeNoticeOf({ who, body, allow }: Call): Promise<Response> {
	const { order: code, name, text: given, enter } = parse(noticeBody, body);
	const order = await findOpenOrder(pool(), code, 'purchase');
	allow(documentKind(order.kind).right);
	const said = await takeNotice(pool(), who.name, order, { name, text: given });
	const entered = enter ? await enterFromNotice(pool(), who.name, order, {}) : null;
	return Response.json({ order: order.code, said, entered: entered?.numbers ?? 0 }, { status: 201 });
}

const REFUSED = refusals('print labels');
/** The calls of work around the ledger: numbers drawn, deliveries announced, labels printed. */
export const workCalls: readonly Operation[] = [
	{
		method: 'POST',
		path: '/api/v1/numbers/draw',
		summary: 'Draws the next numbers of an item by its pattern. Nobody else is given them, and each is written down.',
		right: 'read',
		body: drawBody,
		answers: {
			201: {
				says: 'They are drawn.',
				schema: z.object({ kind: z.enum(['lot', 'serial']), numbers: z.array(z.string()) })
			}
		},
		refusals: {
			...REFUSED,
			404: 'There is no order MO-9. Look it up in the list.',
			409: 'MO-7 is complete since 2026-11-27. Open another order for more.',
			422: 'PROBE has no number pattern for its serials. Name one, or choose one in Setup, Items.'
		},
		run: drawNumbers
	},
	{
		method: 'POST',
		path: '/api/v1/notices',
		summary: 'Takes a supplier’s advance notice for a delivery, as CSV or EPCIS.',
		right: 'read',
		body: noticeBody,
		answers: {
			201: {
				says: 'It is read, and held against what arrives.',
				schema: z.object({
					order: z.string(),
					said: z.string(),
					entered: z.number().describe('How many numbers of it were put into the sheet.')
				})
			}
		},
		refusals: {
			...REFUSED,
			404: 'There is no delivery PO-9. Look it up in the list.',
			409: 'PO-7 is complete since 2026-11-27. Open another order for more.',
			422: 'Line 3: there is no item PROBE on PO-7. Check the notice.'
		},
		run: takeNoticeOf
	},
	{
		method: 'POST',
		path: '/api/v1/labels',
		summary:
			'Prints labels: of lots and serials by their ids, of what an event brought, of a place, a pallet or a work card.',
		right: 'print labels',
		body: jobInput,
		answers: {
			201: {
				says: 'They are on their way to the printer.',
				schema: z.object({ id: z.string(), title: z.string(), size: z.number().describe('How many labels.') })
			}
		},
		refusals: { ...REFUSED, 422: 'Choose what to print.' },
		run: async ({ who, body }) => {
			const { id, title, size } = await printLabels(pool(), who.name, body);
			return Response.json({ id, title, size }, { status: 201 });
		}
	}
];
