import { z } from 'zod';
import { PREFERENCES, REASONS } from '../../core/allocation/allocate.ts';
import { ACTS, STATES } from '../../core/floor/moves.ts';
import { EVIDENCE } from '../../core/ledger/evidence.ts';
import { eventInput } from '../../core/ledger/input.ts';
import { routeInput } from '../floor/routes.ts';
import { stepInput } from '../floor/steps.ts';
import { itemInput } from '../setup/items.ts';
import { partnerInput } from '../setup/places.ts';
import { allocationInput } from '../stock/allocations.ts';
import { promiseInput } from '../document/promises.ts';
import {
	answerAllocation,
	answerConsistency,
	answerCorrections,
	answerEntries,
	answerEvents,
	answerHead,
	answerHealth,
	answerInclusion,
	answerLife,
	answerMark,
	answerItems,
	answerPairings,
	answerPromise,
	answerRelease,
	answerRoute,
	answerStatus,
	answerStep,
	answerSteps,
	answerTrace,
	answerYield,
	makeItem,
	putPartner
} from './answers.ts';
import type { Operation } from './call.ts';
import { listings } from './listing.ts';
import { openapi } from './openapi.ts';
import { refusals } from './refusals.ts';
import { actCalls } from './acts.ts';
import { firmCalls } from './firm.ts';
import { floorCalls } from './floor.ts';
import { listCalls } from './lists.ts';
import { markCalls } from './marks.ts';
import { orderCalls } from './orders.ts';
import { setupCalls } from './setup.ts';
import { workCalls } from './work.ts';
import {
	consistencyQuery,
	correctionBody,
	createQuery,
	entriesQuery,
	inclusionQuery,
	lifeQuery,
	pairingsQuery,
	statusBody,
	traceQuery,
	unitQuery,
	yieldQuery
} from './schemas.ts';

const markNames = { item: z.string(), lot: z.string().nullable(), serial: z.string().nullable() };
/** One mark at one place; a serial has its lot beside it. */
const stockRow = { lot: z.string().nullable(), serial: z.string().nullable(), place: z.string(), qty: z.string() };
/** How many links of a trace are known how; unknown: booked before this was asked. */
const known = z.object({
	scanned: z.number(),
	entered: z.number(),
	accepted: z.number(),
	reported: z.number(),
	unknown: z.number()
});
const statusSet = z.object({
	id: z.string(),
	changed: z.array(z.object(markNames)).optional(),
	gone: z.array(z.object({ ...markNames, at: z.string(), customer: z.string().nullable() })).optional()
});
const gap = z.object({ kind: z.string(), event: z.string(), qty: z.string(), run: z.string().nullable() }).loose();
const note = z.object({ message: z.string(), code: z.string(), at: z.string() });

const stepped = z.object({ operation: z.string(), state: z.enum(STATES) });
const path = z.array(z.string()).describe('Hashes in lower-case hex, from the leaf up.');

const REFUSED = refusals('book inbound');

/** Every call there is. A route that is not here is not served. */
export const OPERATIONS: readonly Operation[] = [
	{
		method: 'GET',
		path: '/api/v1/healthz',
		summary: 'Tells whether the application and its database answer.',
		right: null,
		answers: { 200: { says: 'Both answer.', schema: z.object({ status: z.literal('ok') }) } },
		refusals: { 503: 'The database does not answer.' },
		run: answerHealth
	},
	{
		method: 'GET',
		path: '/api/v1/openapi.json',
		summary: 'This description.',
		right: null,
		answers: { 200: { says: 'An OpenAPI 3.1 document.', schema: z.looseObject({ openapi: z.string() }) } },
		refusals: {},
		run: async () => Response.json(openapi(OPERATIONS))
	},
	{
		method: 'GET',
		path: '/api/v1/items',
		summary: 'Lists the items with what their marking rules ask.',
		right: 'read',
		answers: {
			200: {
				says: 'All items.',
				schema: z.object({
					items: z.array(z.looseObject({ code: z.string(), name: z.string(), unit: z.string(), tracking: z.string() }))
				})
			}
		},
		refusals: { 401: REFUSED[401] },
		run: answerItems
	},
	{
		method: 'POST',
		path: '/api/v1/items',
		summary: 'Makes an item. The same code again with the same content changes nothing.',
		right: 'write items',
		body: itemInput,
		answers: {
			201: { says: 'The item is made.', schema: z.object({ id: z.string(), code: z.string() }) },
			200: { says: 'It is there already, just so.', schema: z.object({ id: z.string(), code: z.string() }) }
		},
		refusals: {
			...REFUSED,
			409: 'Item PROBE exists with other particulars. Take another code, or change it in Setup.',
			422: 'An item’s code has no blanks in it, and none of / ? # %.'
		},
		run: makeItem
	},
	{
		method: 'POST',
		path: '/api/v1/events',
		summary: 'Books one event, all or nothing: who names it by its key may send it again, and it is booked once.',
		right: 'read',
		query: createQuery,
		body: eventInput,
		answers: {
			201: {
				says: 'Booked. What was only noted comes with it.',
				schema: z.object({ id: z.string(), movements: z.number(), notes: z.array(note).optional() })
			},
			200: {
				says: 'Booked before under this key; nothing is booked now.',
				schema: z.object({ id: z.string(), movements: z.number() })
			}
		},
		refusals: {
			...REFUSED,
			409: 'The key R-1 stands for something else already: event 17. Give each request a key of its own.',
			422: 'Lot GEL-1 is on hold and stays here. Take another, or have it released.'
		},
		run: answerEvents
	},
	{
		method: 'POST',
		path: '/api/v1/status',
		summary: 'Puts a lot or serial on hold or into quarantine, releases or rejects it.',
		right: 'hold',
		body: statusBody,
		answers: {
			201: {
				says: 'Recorded; with contained: what is in that status now, and what has gone and stays as it is.',
				schema: statusSet
			},
			200: { says: 'Recorded before under this key.', schema: statusSet }
		},
		refusals: {
			...REFUSED,
			404: 'There is no lot GEL-9 of item GEL. Check the number.',
			409: 'The key H-1 stands for something else already: event 17. Give each request a key of its own.',
			422: 'GEL-1 is on hold already.'
		},
		run: answerStatus
	},
	{
		method: 'POST',
		path: '/api/v1/corrections',
		summary:
			'Corrects a number, a date, a supplier’s number, a serial’s lot or an extra field; the old value stays readable.',
		right: 'correct numbers',
		body: correctionBody,
		answers: {
			201: { says: 'Recorded.', schema: z.object({ id: z.string(), notes: z.array(note).optional() }) },
			200: { says: 'Recorded before under this key.', schema: z.object({ id: z.string() }) }
		},
		refusals: {
			...REFUSED,
			404: 'There is no lot GEL-9 of item GEL. Check the number.',
			409: 'The key C-1 stands for something else already: event 17. Give each request a key of its own.',
			422: 'Expires of GEL-1 is 3 Mar 2027 already. Nothing is corrected.'
		},
		run: answerCorrections
	},
	{
		method: 'GET',
		path: '/api/v1/trace',
		summary: 'Traces a lot or serial forward to where it is now, or back to its sources.',
		right: 'read',
		query: traceQuery,
		answers: {
			200: {
				says: 'The trace, of the ledger as it was with ledgerSize entries. Contents are exact, as fractions in text: "20/3".',
				schema: z.union([
					z.object({
						ledgerSize: z.number(),
						root: z.object(markNames),
						rootQty: z.string(),
						marks: z.array(z.object({ ...markNames, since: z.string(), now: z.boolean() })),
						where: z.array(z.looseObject({ state: z.string(), content: z.string() })),
						gaps: z.array(gap),
						evidence: known
					}),
					z.object({
						ledgerSize: z.number(),
						root: z.object(markNames),
						marks: z.array(z.object(markNames)),
						suppliers: z.array(z.object({ partner: z.string().nullable(), document: z.string().nullable() })),
						formerly: z.array(z.object(markNames)),
						gaps: z.array(gap),
						evidence: known
					})
				])
			}
		},
		refusals: {
			401: REFUSED[401],
			404: 'There is no lot GEL-9 of item GEL. Check the number.',
			413: 'That took too long and was stopped. Ask for less at a time.',
			422: 'Name a lot or a serial, one of the two.'
		},
		run: answerTrace
	},
	{
		method: 'GET',
		path: '/api/v1/pairings',
		summary: 'Parts in units: each use of a part with what its run made, in the order of booking, by pages.',
		right: 'read',
		query: pairingsQuery,
		answers: {
			200: {
				says: 'The uses that fit, and where the next page begins: send it as after. Quantities as decimal text.',
				schema: z.object({
					rows: z.array(
						z.object({
							order: z.string().nullable(),
							item: z.string().nullable(),
							serial: z.string().nullable(),
							lot: z.string().nullable(),
							partItem: z.string(),
							partLot: z.string().nullable(),
							partSerial: z.string().nullable(),
							qty: z.string(),
							evidence: z.enum(EVIDENCE).nullable(),
							by: z.string(),
							at: z.string(),
							formerly: z.boolean()
						})
					),
					next: z.string().nullable()
				})
			}
		},
		refusals: { 401: REFUSED[401], 422: 'Give count as a whole number from 1 to 1000.' },
		run: answerPairings
	},
	{
		method: 'PUT',
		path: '/api/v1/routes/{item}',
		summary: 'Sets the route of an item: its operations in order. It counts for units released from then on.',
		right: 'write items',
		body: routeInput,
		answers: {
			201: { says: 'The route is set.', schema: z.object({ item: z.string(), operations: z.number() }) },
			200: { says: 'It is so already.', schema: z.object({ item: z.string(), operations: z.number() }) }
		},
		refusals: {
			...REFUSED,
			404: 'There is no item METER. Check the code.',
			422: 'Operation TEST stands in the route twice. Give each a code of its own.'
		},
		run: answerRoute
	},
	{
		method: 'POST',
		path: '/api/v1/steps',
		summary:
			'Does something to a unit on the floor: releases it, moves it on by a read, holds it, sends it to rework, scraps it.',
		right: 'book production',
		body: stepInput,
		answers: {
			201: { says: 'Where the unit is now.', schema: stepped },
			200: {
				says: 'Sent before under this key; or, with again, read within the last ten seconds: nothing is done now.',
				schema: stepped.extend({ again: z.literal(true).optional() })
			}
		},
		refusals: {
			...REFUSED,
			409: 'The key S-1 stands for another step already. Give each step a key of its own.',
			422: 'WM-0207 is on hold at Assembly and does not move. Release the hold first.'
		},
		run: answerStep
	},
	{
		method: 'GET',
		path: '/api/v1/steps',
		summary: 'One unit’s way: where it is on the floor, and every step that took it there.',
		right: 'read',
		query: unitQuery,
		answers: {
			200: {
				says: 'Where it is, and its steps in their order.',
				schema: stepped.extend({
					steps: z.array(
						z.looseObject({
							at: z.string(),
							act: z.enum(ACTS),
							operation: z.string(),
							state: z.enum(STATES),
							by: z.string()
						})
					)
				})
			}
		},
		refusals: {
			401: REFUSED[401],
			404: 'WM-0207 of WM was never released to the floor. Check the number.',
			422: 'Name the item.'
		},
		run: answerSteps
	},
	{
		method: 'POST',
		path: '/api/v1/allocations',
		summary: 'Says what would be taken of an item, in which order and why, and why the rest would stay. Books nothing.',
		right: 'read',
		body: allocationInput,
		answers: {
			200: {
				says: 'What goes, in the order to take it; each row of stock that may not go; and how much is missing.',
				schema: z.object({
					picks: z.array(
						z.object({
							...stockRow,
							expiresOn: z.string().nullable(),
							why: z.enum([...PREFERENCES, 'promised', 'came back'])
						})
					),
					leftOut: z.array(z.object({ ...stockRow, reason: z.enum(REASONS), message: z.string() })),
					short: z.string().describe('Decimal text, in the item’s unit.')
				})
			}
		},
		refusals: { ...REFUSED, 422: 'There is no item NONE. Add it in Setup, or correct the code.' },
		run: answerAllocation
	},
	{
		method: 'POST',
		path: '/api/v1/promises',
		summary:
			'Promises a quantity of a lot, or a serial, to a line of an order. Nobody else is offered it then. What is promised to another order is taken over with a reason.',
		right: 'read',
		body: promiseInput,
		answers: {
			201: {
				says: 'It is promised; the same key again gives the same promise.',
				schema: z.object({
					id: z.string(),
					order: z.string(),
					line: z.number(),
					item: z.string(),
					lot: z.string().nullable(),
					serial: z.string().nullable(),
					qty: z.string()
				})
			}
		},
		refusals: {
			...REFUSED,
			409: 'The key P-1 stands for another promise already. Give each request a key of its own.',
			422: 'Lot GEL-0042: this takes what is promised to SO-3344 (4 kg). Take another, or say why it is taken over.'
		},
		run: answerPromise
	},
	{
		method: 'DELETE',
		path: '/api/v1/promises/{id}',
		summary: 'Gives a promise up. What it held is free again.',
		right: 'read',
		answers: {
			200: { says: 'It holds nothing any more.', schema: z.object({ id: z.string(), order: z.string().nullable() }) }
		},
		refusals: { ...REFUSED, 404: 'There is no promise 12. It may have been released; reload the page.' },
		run: answerRelease
	},
	...setupCalls,
	...firmCalls,
	...orderCalls,
	...actCalls,
	...floorCalls,
	...workCalls,
	...markCalls,
	...listings,
	...listCalls,
	{
		method: 'GET',
		path: '/api/v1/marks/{id}',
		summary: 'One lot or serial: what it is, where it is, what is in force, and its details.',
		right: 'read',
		answers: {
			200: {
				says: 'What is in force. Quantities as decimal text, in the item’s unit.',
				schema: z.object({
					id: z.string(),
					kind: z.enum(['lot', 'serial']),
					item: z.string(),
					number: z.string(),
					lot: z.string().nullable(),
					unit: z.string(),
					status: z.string().describe('The worse of its own and its lot’s.'),
					ownStatus: z.string(),
					expiresOn: z.string().nullable().describe('Its own, else its lot’s.'),
					noticeOn: z.string().nullable(),
					madeOn: z.string().nullable(),
					supplierLot: z.string().nullable(),
					supplierSerial: z.string().nullable(),
					supplierWarrantyUntil: z.string().nullable(),
					owner: z.string().nullable(),
					warranty: z.string().nullable().describe('In words; null before it is shipped, or without one.'),
					formerly: z.array(z.string()).describe('Numbers that it had before.'),
					serials: z.number().describe('Of a lot: how many serials belong to it.'),
					facts: z.record(z.string(), z.string()),
					where: z.array(z.object({ place: z.string(), qty: z.string(), partner: z.string().nullable() }))
				})
			}
		},
		refusals: { 401: REFUSED[401], 404: 'There is no lot or serial with id 17. Look it up in GET /api/v1/marks.' },
		run: answerMark
	},
	{
		method: 'GET',
		path: '/api/v1/marks/{id}/events',
		summary:
			'The life of a lot or serial in the order of booking, by pages: what was moved of it and of the pieces that belong to it, and what was changed.',
		right: 'read',
		query: lifeQuery,
		answers: {
			200: {
				says: 'Its events, and where the next page begins: send it as after. Null after the last.',
				schema: z.object({
					events: z.array(
						z.object({
							event: z.string(),
							key: z.string(),
							kind: z.string(),
							did: z.string().describe('What it did to this number, in words.'),
							at: z.string(),
							recordedAt: z.string(),
							by: z.string(),
							document: z.string().nullable(),
							order: z.string().nullable(),
							partner: z.string().nullable(),
							reason: z.string().nullable(),
							undone: z.boolean(),
							undoes: z.string().nullable(),
							mends: z.string().nullable(),
							qty: z.string().nullable().describe('Null of a change.'),
							pieces: z.string().nullable().describe('Of a lot: the serials that it happened to, as ranges.'),
							from: z.string().nullable(),
							to: z.string().nullable(),
							run: z.string().nullable(),
							change: z.string().nullable()
						})
					),
					next: z.string().nullable()
				})
			}
		},
		refusals: {
			401: REFUSED[401],
			404: 'There is no lot or serial with id 17. Look it up in GET /api/v1/marks.',
			422: 'Give count as a whole number from 1 to 1000.'
		},
		run: answerLife
	},
	{
		method: 'PUT',
		path: '/api/v1/partners/{partner}',
		summary: 'Makes a customer or supplier, or changes one: all of it, as given.',
		right: 'write places and partners',
		body: partnerInput.omit({ code: true }),
		answers: {
			201: { says: 'It is made.', schema: partnerInput },
			200: { says: 'It is changed.', schema: partnerInput }
		},
		refusals: { ...REFUSED, 422: 'Choose supplier, customer or both.' },
		run: putPartner
	},
	{
		method: 'GET',
		path: '/api/v1/yield',
		summary:
			'First-pass yield of an item’s operations in a period, and their product. Yields are exact fractions in text.',
		right: 'read',
		query: yieldQuery,
		answers: {
			200: {
				says: 'Each operation, in the order of the route.',
				schema: z.object({
					operations: z.array(
						z.object({
							operation: z.string(),
							started: z.number(),
							passedFirst: z.number(),
							reworked: z.number(),
							scrapped: z.number(),
							firstPassYield: z.string().nullable(),
							cycleMedian: z.number().nullable().describe('In seconds.'),
							cycle90: z.number().nullable().describe('In seconds.')
						})
					),
					rolledThroughputYield: z.string().nullable()
				})
			}
		},
		refusals: {
			401: REFUSED[401],
			404: 'There is no item METER. Check the code.',
			422: 'Give the time as 2026-03-14T09:30:00Z.'
		},
		run: answerYield
	},
	{
		method: 'GET',
		path: '/api/v1/ledger/head',
		summary:
			'The head of the ledger: its size, and the root over all its entries (RFC 9162). What is booked is sealed first.',
		right: 'see the ledger',
		answers: {
			200: { says: 'The head.', schema: z.object({ size: z.number(), root: z.string(), at: z.string().nullable() }) }
		},
		refusals: { 401: REFUSED[401] },
		run: answerHead
	},
	{
		method: 'GET',
		path: '/api/v1/ledger/entries',
		summary:
			'Entries of the ledger, in order: the exact text that was hashed. Asked from the last one on, a feed of all that is booked.',
		right: 'see the ledger',
		query: entriesQuery,
		answers: {
			200: {
				says: 'Entries from the index on; none where there are none yet.',
				schema: z.object({ entries: z.array(z.object({ index: z.number(), entry: z.string() })) })
			}
		},
		refusals: { 401: REFUSED[401], 422: 'Give count as a whole number from 1 to 1000.' },
		run: answerEntries
	},
	{
		method: 'GET',
		path: '/api/v1/ledger/inclusion',
		summary: 'What proves that an event is in the ledger (RFC 9162, 2.1.3).',
		right: 'see the ledger',
		query: inclusionQuery,
		answers: {
			200: {
				says: 'The index of its leaf, the leaf’s hash and the path from it to the root.',
				schema: z.object({ index: z.number(), size: z.number(), leaf: z.string(), path })
			}
		},
		refusals: {
			401: REFUSED[401],
			404: 'There is no event 17. Check the number.',
			422: 'Event 17 is entry 40: a ledger of 30 entries does not hold it. Give a larger size.'
		},
		run: answerInclusion
	},
	{
		method: 'GET',
		path: '/api/v1/ledger/consistency',
		summary: 'What proves that the ledger of one size begins with that of a smaller one (RFC 9162, 2.1.4).',
		right: 'see the ledger',
		query: consistencyQuery,
		answers: {
			200: { says: 'The path.', schema: z.object({ from: z.number(), to: z.number(), path }) }
		},
		refusals: {
			401: REFUSED[401],
			422: 'The ledger has 1,250 entries, not 1,300. Give at most that many.'
		},
		run: answerConsistency
	}
];

/** The parts of each call's path: a fixed word, or a name in braces. */
const PARTS = new Map(
	OPERATIONS.map((o) => [o, o.path.split('/').map((part) => ({ part, name: /^\{(\w+)\}$/.exec(part)?.[1] }))])
);
/** What a path gives for the names in an operation's; null when it is another path. */
function paramsOf(operation: Operation, given: readonly string[]): Record<string, string> | null {
	const parts = PARTS.get(operation)!;
	if (parts.length !== given.length || !parts.every(({ part, name }, i) => (name ? given[i] : part === given[i])))
		return null;
	return Object.fromEntries(parts.flatMap(({ name }, i) => (name ? [[name, decodeURIComponent(given[i])]] : [])));
}
/** The call of a method and a path, with the parts that the path names; null when there is none. */
export function operationOf(
	method: string,
	path: string
): { operation: Operation; params: Record<string, string> } | null {
	const given = path.split('/');
	for (const operation of OPERATIONS) {
		const params = operation.method === method ? paramsOf(operation, given) : null;
		if (params) return { operation, params };
	}
	return null;
}
/** The methods that a path knows. */
export const methodsOf = (path: string): string[] =>
	OPERATIONS.filter((o) => paramsOf(o, path.split('/'))).map((o) => o.method);
