import { z } from 'zod';
import type { ListRow } from '../../core/list/list.ts';
import { pool } from '../database/pool.ts';
import { eventList } from '../ledger/list.ts';
import { listQuery, viewOf } from '../list/query.ts';
import { firmToday } from '../list/page.ts';
import { listRows } from '../list/read.ts';
import type { ListSource } from '../list/source.ts';
import { parse } from '../parse.ts';
import { registerList } from '../register/list.ts';
import { stockList } from '../stock/list.ts';
import type { Operation } from './call.ts';
import { NO_ACCESS } from './refusals.ts';

const text = z.string();
const some = z.string().nullable();
const amount = z.string().describe('Decimal text, in the item’s unit.');

/** A list that programs read by pages: its rows as they are given, by names that are the same in every call. */
interface Listing {
	path: string;
	/** what the answer calls its rows */
	rows: string;
	summary: string;
	source: ListSource;
	schema: z.ZodObject;
	row: (r: ListRow) => Record<string, unknown>;
	/** what holds where the program leaves it open */
	standing?: Record<string, string>;
}

const LISTINGS: readonly Listing[] = [
	{
		path: '/api/v1/marks',
		rows: 'marks',
		summary: 'Lists lots and serials, by pages, with the filters of the register. All of them, unless show says which.',
		source: registerList,
		standing: { show: 'all' },
		schema: z.object({
			id: text,
			kind: z.enum(['lot', 'serial']),
			item: text,
			number: text,
			lot: some.describe('Of a serial: the lot that it belongs to.'),
			onHand: amount,
			unit: text,
			places: z.array(text).describe('Where it is on hand.'),
			state: text.describe('On hand, shipped, used, scrapped, issued, adjusted, sent back, or only started.'),
			status: text.describe('In force: its own, or its lot’s where that is worse.'),
			expiresOn: some,
			madeOn: some,
			supplierLot: some,
			supplierSerial: some
		}),
		row: (r) => ({
			...{ id: r.id, kind: r.kind, item: r.itemCode, number: r.number, lot: r.lot, onHand: r.qty, unit: r.unit },
			...{ places: r.place?.split(', ') ?? [], state: r.state, status: r.status, expiresOn: r.expires, madeOn: r.made },
			...{ supplierLot: r.supplierLot, supplierSerial: r.supplierSerial }
		})
	},
	{
		path: '/api/v1/stock',
		rows: 'stock',
		summary:
			'Lists what is on hand, by pages: each lot, serial and stock without a number at each place; now, or asOf.',
		source: stockList,
		schema: z.object({
			id: text,
			mark: text.describe('Id of the lot or serial, or of what lies there without a number.'),
			kind: z.enum(['lot', 'serial', 'unmarked']),
			item: text,
			number: some,
			lot: some,
			place: text,
			qty: amount,
			unit: text,
			free: some.describe('What nobody else holds; null of a moment of the past.'),
			heldBy: some.describe('Who holds the rest: promised to SO-1, picked for SO-2.'),
			status: text,
			expiresOn: some
		}),
		row: (r) => ({
			...{ id: r.id, mark: r.mark, kind: r.markKind, item: r.itemCode, number: r.number, lot: r.lot, place: r.place },
			...{ qty: r.qty, unit: r.unit, free: r.free, heldBy: r.held, status: r.statusNow, expiresOn: r.expires }
		})
	},
	{
		path: '/api/v1/events',
		rows: 'events',
		summary: 'Lists what was booked, by pages, the last first. What an event moved is in the ledger’s entries.',
		source: eventList,
		schema: z.object({
			id: text,
			kind: text,
			at: text.describe('When it happened.'),
			recordedAt: text,
			by: text,
			source: text,
			document: some,
			order: some,
			partner: some.describe('Its code.'),
			job: some.describe('Its code.'),
			reason: some,
			numbers: z.number().describe('How many lots and serials it is about, with stock without number.'),
			undoes: some.describe('The event that it takes back.'),
			undone: z.boolean()
		}),
		row: (r) => ({
			...{ id: r.id, kind: r.kind, at: r.happened, recordedAt: r.bookedAt, by: r.by, source: r.source },
			...{ document: r.document, order: r.order, partner: r.partnerCode, job: r.jobCode, reason: r.reason },
			...{ numbers: Number(r.numbers), undoes: r.undoes, undone: r.undone === 'yes' }
		})
	}
];

/** The calls that list by pages. */
export const listings: readonly Operation[] = LISTINGS.map((l): Operation => {
	const query = listQuery(l.source);
	return {
		method: 'GET',
		path: l.path,
		summary: l.summary,
		right: l.source.right,
		query,
		answers: {
			200: {
				says: 'The rows that fit, and where the next page begins: send it as after. Null after the last.',
				schema: z.object({ [l.rows]: z.array(l.schema), next: some })
			}
		},
		refusals: {
			401: NO_ACCESS,
			422: 'There is no “colour” here. Remove it, or correct the name.'
		},
		run: async (call) => {
			const view = await viewOf(pool(), l.source, parse(query, { ...l.standing, ...call.query }));
			const { rows, next } = await listRows(pool(), l.source, view, await firmToday(pool()));
			return Response.json({ [l.rows]: rows.map(l.row), next });
		}
	};
});
