import { z } from 'zod';
import { documentKind } from '../../core/document/kinds.ts';
import { line } from '../../core/text/input.ts';
import { pool } from '../database/pool.ts';
import { firmToday } from '../list/page.ts';
import { parse } from '../parse.ts';
import { drawForCards, findMade } from '../production/cards.ts';
import { pairsInput, putPairs } from '../production/pairs.ts';
import { backInput, bookReviewed, bookUnitsInput, handToDesk, sendBack, takeAsItIs } from '../production/review.ts';
import { buyInput, buyMissing, shortage } from '../production/shortage.ts';
import { findStation, scanAtStation, stationScan, undoAtStation, undoInput } from '../production/station.ts';
import { floorNow } from '../floor/report.ts';
import {
	bookCount,
	bookCountInput,
	countInput,
	countState,
	countTotal,
	entryInput,
	makeCount,
	restInput,
	restNotThere,
	takeCount,
	totalInput
} from '../stock/count.ts';
import { emptyInput, emptyInto } from '../stock/empty.ts';
import { numberStock } from '../stock/number.ts';
import { moveInput, putAway } from '../stock/putaway.ts';
import type { Operation } from './call.ts';
import { asBooked, booked, doing } from './doing.ts';
import { NO_ACCESS } from './refusals.ts';

const answered = z.looseObject({ id: z.string(), taken: z.boolean(), said: z.string() });
const count = z.looseObject({
	code: z.string(),
	place: z.string(),
	at: z.string().describe('The place that is shown.'),
	rows: z.array(z.looseObject({})).describe('At most 300 of that place; more says how many else there are.'),
	more: z.number(),
	differences: z.array(z.looseObject({})),
	missing: z.array(z.string()).describe('Why it cannot be booked, in sentences.'),
	stamp: z.string().describe('Stands for what was seen: booking sends it back.')
});
const unit = z.strictObject({ order: line(60), serial: line(60) });
const NO_COUNT = { 404: 'There is no count CT-9. Look it up in the list.' };
const CLOSED = { 409: 'CT-9 is closed since 2026-11-27. Make another count.' };
const drawBody = z.strictObject({
	more: z.int().min(0).max(1000).default(0).describe('Beyond what is planned.')
});
const ofItem = z.strictObject({ item: line(60).optional() });
const atPlace = z.strictObject({ at: line(45).optional().describe('The place that is shown.') });
const itemBody = z.strictObject({ item: line(60, 1, 'Name the item.') });
const until = z.strictObject({
	of: line(60).optional().describe('Only what this order asks.'),
	until: z.iso
		.date('Give a day, such as 2027-03-31.')
		.optional()
		.describe('What is expected by then counts; today where left out.')
});

/** The calls of the floor and of the shelves: stations, reviews, shortages; counts, moves, stock that gets numbers. */
export const floorCalls: readonly Operation[] = [
	doing({
		path: '/api/v1/stations/{station}/scans',
		summary:
			'Takes what is scanned at a station: a card brings its unit, a bin counts for the part after it, a part goes in.',
		right: 'book production',
		body: stationScan,
		refused: {
			404: 'There is no station L9. Choose another one, or set it up in Setup, Stations.',
			422: 'Scan it again.'
		},
		says: 'Whether it was taken, what was said, and what stands before the person then.',
		answers: answered,
		run: async ({ who, params, body }) => scanAtStation(pool(), who, await findStation(pool(), params.station), body)
	}),
	doing({
		path: '/api/v1/stations/{station}/undo',
		summary: 'Takes the part that was put in last back out of a unit that is not booked yet, or one that is named.',
		right: 'book production',
		body: undoInput,
		refused: {
			404: 'There is no station L9. Choose another one, or set it up in Setup, Stations.',
			409: 'Nothing was put in here that can be taken back.'
		},
		says: 'What was said, and what stands before the person then.',
		answers: answered,
		run: async ({ who, params, body }) => undoAtStation(pool(), who, await findStation(pool(), params.station), body)
	}),
	doing({
		path: '/api/v1/orders/{order}/pairs',
		summary:
			'Puts parts into units of an order as somebody says them at a desk: each pair by itself, with why it was refused.',
		right: 'book production',
		body: pairsInput,
		refused: {
			404: 'There is no production order MO-9. Look it up in the list.',
			422: 'Type or paste a pair: the unit, and the part that went into it.'
		},
		says: 'What came of each pair, and which units have all their parts now.',
		answers: z.object({
			rows: z.array(z.object({ taken: z.boolean(), said: z.string() })),
			ready: z.array(z.string())
		}),
		run: ({ who, params, body }) => putPairs(pool(), who, params.order, body)
	}),
	doing({
		path: '/api/v1/orders/{order}/cards',
		summary:
			'Draws the serials of an order’s work cards that are not drawn yet. The cards are printed by POST /api/v1/labels.',
		right: 'book production',
		body: drawBody,
		refused: {
			404: 'There is no production order MO-9. Look it up in the list.',
			422: 'METER has no pattern that serials are drawn by. Give it one in Setup, Items, or type the serials in the order’s sheet.'
		},
		says: 'They are drawn.',
		answers: z.object({ drawn: z.number() }),
		async run({ who, params, body }) {
			const { more } = parse(drawBody, body);
			return { drawn: await drawForCards(pool(), who.name, await findMade(pool(), params.order), more) };
		}
	}),
	doing({
		path: '/api/v1/reviews',
		summary: 'Books units that are put together and wait for their review: those of each order as one event.',
		right: 'book production',
		body: bookUnitsInput,
		refused: { 404: 'There is no production order MO-9. Reload the page.', 422: 'Choose an order.' },
		says: 'What came of each order.',
		answers: z.object({
			orders: z.array(
				z.object({
					order: z.string(),
					units: z.number(),
					event: z.string().nullable(),
					faults: z.array(z.looseObject({ message: z.string() }))
				})
			)
		}),
		run: async ({ who, body }) => ({ orders: await bookReviewed(pool(), who, body) })
	}),
	doing({
		path: '/api/v1/reviews/back',
		summary: 'Sends units back to their station, with why.',
		right: 'review units',
		body: backInput,
		refused: { 422: 'Say why, so that whoever made it knows what to mend.' },
		answers: z.object({ units: z.number().describe('How many were sent back.') }),
		run: async ({ who, body }) => ({ units: await sendBack(pool(), who, body) })
	}),
	doing({
		path: '/api/v1/reviews/take',
		summary: 'Takes a unit that was sent back as it is: it is ready again.',
		right: 'review units',
		body: unit,
		refused: { 404: 'There is no production order MO-9. Reload the page.' },
		answers: z.object({ units: z.number() }),
		async run({ who, body }) {
			const { order, serial } = parse(unit, body);
			return { units: await takeAsItIs(pool(), who, order, serial) };
		}
	}),
	doing({
		path: '/api/v1/reviews/desk',
		summary: 'Hands a unit to the desk: it is a row of the order’s sheet from now on.',
		right: 'book production',
		body: unit,
		refused: { 404: 'There is no production order MO-9. Reload the page.' },
		answers: z.object({ units: z.number() }),
		async run({ who, body }) {
			const { order, serial } = parse(unit, body);
			return { units: await handToDesk(pool(), who, order, serial) };
		}
	}),
	{
		method: 'GET',
		path: '/api/v1/floor',
		summary: 'The floor now: each operation with the units at it.',
		right: 'read',
		query: ofItem,
		answers: {
			200: { says: 'The operations in their order.', schema: z.object({ operations: z.array(z.looseObject({})) }) }
		},
		refusals: { 401: NO_ACCESS, 422: 'There is no “colour” here. Remove it, or correct the name.' },
		run: async ({ query }) => {
			const { item } = parse(ofItem, query);
			return Response.json({ operations: await floorNow(pool(), item ?? null) });
		}
	},
	{
		method: 'GET',
		path: '/api/v1/shortages',
		summary: 'What is missing for the open production orders: needed, less what is free, less what is expected.',
		right: 'read',
		query: until,
		answers: {
			200: {
				says: 'Each item; what is missing first. Quantities as decimal text.',
				schema: z.object({
					items: z.array(z.looseObject({ item: z.string(), needed: z.string(), missing: z.string() }))
				})
			}
		},
		refusals: { 401: NO_ACCESS, 422: 'Give a day, such as 2027-03-31.' },
		async run({ query }) {
			const { of, until: day } = parse(until, query);
			return Response.json({ items: await shortage(pool(), of ?? null, day ?? (await firmToday(pool()))) });
		}
	},
	doing({
		path: '/api/v1/shortages',
		summary: 'Makes the purchase orders for what is missing, one for each supplier; all of them, or none.',
		right: documentKind('purchase').create,
		body: buyInput,
		refused: { 422: 'Nothing is chosen to be bought.' },
		says: 'They are made.',
		answers: z.object({ orders: z.array(z.string()) }),
		run: async ({ who, body }) => ({ orders: await buyMissing(pool(), who, body) })
	}),
	doing({
		path: '/api/v1/counts',
		summary:
			'Makes a count: what the ledger has at a place now, of some items, not counted since a day, or in a random sample.',
		right: 'count stock',
		body: countInput,
		refused: { 422: 'Choose where is counted.' },
		says: 'It is made.',
		answers: z.object({ code: z.string() }),
		run: async ({ who, body }) => ({ code: await makeCount(pool(), who, body) })
	}),
	{
		method: 'GET',
		path: '/api/v1/counts/{count}',
		summary:
			'A count as it stands: its places, the rows of one of them, the differences, and why it cannot be booked yet.',
		right: 'read',
		query: atPlace,
		answers: { 200: { says: 'The count.', schema: count } },
		refusals: { 401: NO_ACCESS, ...NO_COUNT, 422: 'There is no “colour” here. Remove it, or correct the name.' },
		async run({ params, query }) {
			const { at } = parse(atPlace, query);
			return Response.json(await countState(pool(), params.count, at ?? null));
		}
	},
	doing({
		path: '/api/v1/counts/{count}/entries',
		summary: 'Takes what was counted: the quantity of a lot, a serial that was seen, or a bin whose turn it is.',
		right: 'count stock',
		body: entryInput,
		refused: { ...NO_COUNT, 422: 'Scan it again.' },
		says: 'Whether it was taken, and what was said.',
		answers: answered,
		run: ({ who, params, body }) => takeCount(pool(), who.name, params.count, body)
	}),
	doing({
		path: '/api/v1/counts/{count}/rest',
		summary: 'Says of everything at a place that was asked for and not counted that it is not there.',
		right: 'count stock',
		body: restInput,
		refused: { ...NO_COUNT, ...CLOSED, 422: 'QS/A9 is no place of QS/A1, where CT-9 counts.' },
		answers: z.object({ added: z.number() }),
		run: async ({ who, params, body }) => ({ added: await restNotThere(pool(), who.name, params.count, body) })
	}),
	doing({
		path: '/api/v1/counts/{count}/total',
		summary: 'Proposes how a total of an item is laid on its lots, or lays it.',
		right: 'count stock',
		body: totalInput,
		refused: { ...NO_COUNT, ...CLOSED, 422: 'Of PROBE each serial is counted by itself.' },
		says: 'How it is laid, and whether it is entered so.',
		answers: z.object({
			expected: z.string(),
			lots: z.array(z.object({ mark: z.string(), number: z.string(), expected: z.string(), change: z.string() })),
			entered: z.boolean()
		}),
		run: ({ who, params, body }) => countTotal(pool(), who.name, params.count, body)
	}),
	doing({
		path: '/api/v1/counts/{count}/book',
		summary: 'Books what was counted: one event with a movement for each difference, each with its reason.',
		right: 'adjust stock',
		body: bookCountInput,
		refused: {
			...NO_COUNT,
			409: 'Something was counted or booked while you looked at it. The page shows what there is; look at it and press again.',
			422: 'Nothing is counted yet. Scan the first number.'
		},
		says: 'It is booked; no event where nothing differed.',
		answers: z.object({ id: z.string().nullable(), movements: z.number() }),
		async run({ who, params, body }) {
			const done = await bookCount(pool(), who, params.count, body);
			return { id: done?.id ?? null, movements: done?.movements ?? 0 };
		}
	}),
	doing({
		path: '/api/v1/moves',
		summary: 'Puts away from one place to bins, all in one event.',
		right: 'move stock',
		body: moveInput,
		refused: { 422: 'Say where at least one of them goes.' },
		says: 'It is moved.',
		answers: booked,
		run: ({ who, body }) => asBooked(putAway(pool(), who, body))
	}),
	doing({
		path: '/api/v1/moves/all',
		summary: 'Moves all that lies at a place to another one, in one event.',
		right: 'move stock',
		body: emptyInput,
		refused: { 422: 'Choose where all of it goes.' },
		says: 'It is moved.',
		answers: booked,
		run: ({ who, body }) => asBooked(emptyInto(pool(), who, body))
	}),
	doing({
		path: '/api/v1/numberings',
		summary: 'Makes a document for each bin where something of an item lies with fewer numbers than the item carries.',
		right: 'adjust stock',
		body: itemBody,
		refused: { 422: 'Nothing of PROBE is to be numbered.' },
		says: 'They are made.',
		answers: z.object({ orders: z.array(z.string()) }),
		run: async ({ who, body }) => ({ orders: await numberStock(pool(), who, parse(itemBody, body).item) })
	})
];
