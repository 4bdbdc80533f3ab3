import { z } from 'zod';
import { Problem } from '../../core/problem/problem.ts';
import { documentKind } from '../../core/document/kinds.ts';
import { id, key, text } from '../../core/text/input.ts';
import { ACTS, type Act } from '../acts.ts';
import { pool } from '../database/pool.ts';
import { undoEvent } from '../document/undo.ts';
import { readPromises } from '../document/promises.ts';
import { PAPERS, pickList, printer, shippingPaper, termsPaper } from '../outbound/packing.ts';
import { parse } from '../parse.ts';
import { countSheets } from '../stock/count.ts';
import { scanInput, scanInto, undoScan } from '../sheet/scan.ts';
import { bookTogether, bookTogetherInput, findOpenOrder, findOrder } from '../sheet/state.ts';
import type { Operation } from './call.ts';
import { asBooked, booked, doing } from './doing.ts';
import { fileAnswer } from './files.ts';
import { NO_ACCESS } from './refusals.ts';
import { orderShown, shown } from './orders.ts';

const NONE = { 404: 'There is no order SO-9. Look it up in the list.' };

/** What is done with an order beside filling and booking its sheet, as on its page. */
const acts = Object.entries(ACTS as Record<string, Act>).map(([name, act]): Operation =>
	doing({
		path: `/api/v1/orders/{order}/${name}`,
		summary: act.summary,
		right: 'read',
		body: act.body,
		refused: { ...NONE, 422: act.refused },
		says: 'Done; the order as it stands.',
		answers: z.object({ said: z.string().optional().describe('What was done, in words.'), order: orderShown }),
		async run({ who, params, body }) {
			const order = await findOrder(pool(), params.order);
			const { said } = await act.run(pool(), who, order, body, 'both');
			return { ...(said ? { said } : {}), order: await shown(await findOrder(pool(), order.code)) };
		}
	})
);

const COUNT = 'Give count as a whole number from 1 to 1000.';
const pageQuery = z.strictObject({
	after: id.optional().describe('What the page before gave as next.'),
	count: z.coerce.number(COUNT).int(COUNT).min(1, COUNT).max(1000, COUNT).default(200)
});
const paperQuery = z.strictObject({
	paper: z.enum([...PAPERS, 'pick list', 'terms', 'count sheets'], 'Choose the paper.'),
	event: id.optional().describe('Of a packing list or delivery note: the event that it is of.')
});
const undoBody = z.strictObject({ key, event: id, reason: text(1000, 1, 'Say why.') });

/** The calls of what is done with an order. */
export const actCalls: readonly Operation[] = [
	...acts,
	doing({
		path: '/api/v1/orders/{order}/scans',
		summary: 'Takes a scan into the sheet of an order, as a scanner does: the code, and where the cursor stands.',
		right: 'read',
		body: scanInput,
		refused: { ...NONE, 409: 'SO-9 is complete since 2026-11-27. Open another order for more.', 422: 'Scan it again.' },
		says: 'Whether it was taken, and what was said: a refused scan changes nothing.',
		answers: z.object({ taken: z.boolean(), said: z.string() }),
		async run({ who, params, body, allow }) {
			const order = await findOpenOrder(pool(), params.order);
			allow(documentKind(order.kind).right);
			const { scan } = await scanInto(pool(), who.name, order, body);
			return { taken: scan.taken, said: scan.said };
		}
	}),
	doing({
		method: 'DELETE',
		path: '/api/v1/orders/{order}/scans/{scan}',
		summary: 'Takes a scan back: its row as it was before.',
		right: 'read',
		refused: { 404: NONE[404], 409: 'Its row was changed after that scan. Change the row itself.' },
		async run({ who, params, allow }) {
			const order = await findOpenOrder(pool(), params.order);
			allow(documentKind(order.kind).right);
			await undoScan(pool(), who.name, order, parse(z.uuid('This is no id of a scan.'), params.scan));
		}
	}),
	doing({
		path: '/api/v1/orders/{order}/undo',
		summary: 'Takes an event of an order back.',
		right: 'undo',
		body: undoBody,
		refused: { 404: 'Event 17 does not belong to SO-9. Reload the page.', 422: 'Event 17 is undone already.' },
		says: 'It is taken back; the order as it stands.',
		answers: z.object({ id: z.string().describe('The event that takes it back.'), order: orderShown }),
		async run({ who, params, body }) {
			const { event, ...given } = parse(undoBody, body);
			const order = await findOrder(pool(), params.order);
			const { id } = await undoEvent(pool(), who, { ...given, undo: event }, order);
			return { id, order: await shown(await findOrder(pool(), order.code)) };
		}
	}),
	doing({
		path: '/api/v1/shipments',
		summary:
			'Ships several orders to the same customer together, as one event: what their sheets come to as they were seen.',
		right: 'book outbound',
		body: bookTogetherInput,
		refused: {
			404: NONE[404],
			409: 'The sheet changed while you looked at it. It now shows what is there; check it and press again.',
			422: 'SO-9 does not go with SO-8: it is for somebody else, or from another place. Send it by itself.'
		},
		says: 'They are booked.',
		answers: booked,
		run: ({ who, body }) => asBooked(bookTogether(pool(), who, body))
	}),
	{
		method: 'GET',
		path: '/api/v1/orders/{order}/paper',
		summary:
			'A paper of an order: the packing list or delivery note of an event, its pick list, its terms, or the sheets of a count.',
		right: 'read',
		query: paperQuery,
		answers: { 200: { says: 'A PDF.', schema: z.string().describe('The bytes.'), type: 'application/pdf' } },
		refusals: {
			401: NO_ACCESS,
			404: 'There is no such paper of SO-9. See its events in GET /api/v1/orders/SO-9.',
			422: 'Choose the paper.'
		},
		async run({ who, params, query }) {
			const { paper, event } = parse(paperQuery, query);
			const { code, kind } = await findOrder(pool(), params.order);
			const content =
				paper === 'terms'
					? await termsPaper(pool(), printer(who), code)
					: paper === 'pick list'
						? await pickList(pool(), code)
						: paper === 'count sheets'
							? kind === 'count' && (await countSheets(pool(), code, true))
							: event && (await shippingPaper(pool(), printer(who), code, event, paper));
			if (!content)
				throw new Problem(`There is no such paper of ${code}. See its events in GET /api/v1/orders/${code}.`, 404);
			return fileAnswer({ content, type: 'application/pdf', name: `${code}.pdf` });
		}
	},
	{
		method: 'GET',
		path: '/api/v1/promises',
		summary: 'Lists what is promised and not gone yet, by pages: to which line of which order, and until when.',
		right: 'read',
		query: pageQuery,
		answers: {
			200: {
				says: 'Open promises, the first first, and where the next page begins: send it as after. Null after the last.',
				schema: z.object({
					promises: z.array(
						z.object({
							id: z.string(),
							order: z.string().nullable(),
							line: z.number().nullable(),
							item: z.string(),
							number: z.string(),
							qty: z.string().describe('Decimal text, in the item’s unit.'),
							rest: z.string().describe('What has not gone yet.'),
							until: z.string().nullable()
						})
					),
					next: z.string().nullable()
				})
			}
		},
		refusals: { 401: NO_ACCESS, 422: 'Give count as a whole number from 1 to 1000.' },
		async run({ query }) {
			const { after = '0', count } = parse(pageQuery, query);
			const promises = await readPromises(pool(), after, count);
			return Response.json({ promises, next: promises.length < count ? null : promises[promises.length - 1].id });
		}
	}
];
