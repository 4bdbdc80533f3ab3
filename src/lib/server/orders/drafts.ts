import { z } from 'zod';
import type { Db, Sql, Tx } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { MOST_STEP } from '../../core/ranges/ranges.ts';
import { parse } from '../people/people.ts';

const short = z.string().max(200, 'That is too long for a field of the sheet. Check what was pasted.');
/** One row of a sheet. What the fields mean depends on the line: numbers that arrive, or stock that is taken. */
export const rowData = z.strictObject({
	lot: short.optional(),
	/** the first of `count` serials */
	serial: short.optional(),
	count: z.number().int().min(1).max(100_000).optional(),
	/** from one serial to the next; 1 when it is left out */
	step: z.number().int().min(2).max(MOST_STEP).optional(),
	qty: short.optional(),
	expiresOn: short.optional(),
	/** the expiry was worked out before somebody typed another */
	expiryChanged: z.literal(true).optional(),
	madeOn: short.optional(),
	supplierLot: short.optional(),
	/** the supplier's serial of the first of `count` */
	supplierSerial: short.optional(),
	/** facts by their codes, as typed */
	facts: z.record(z.string().max(30), z.string().max(300)).optional(),
	/** id of a mark that is taken, from a place, for one finished serial */
	mark: z.string().regex(/^\d+$/).optional(),
	/** where it is taken from; for new numbers the bin they go to */
	place: short.optional(),
	unit: short.optional(),
	/** how much of the line goes now */
	now: short.optional()
});
export type RowData = z.output<typeof rowData>;
export interface DraftRow {
	id: string;
	lineId: string;
	data: RowData;
	version: number;
	by: string;
	at: string;
}
export const rowChange = z.strictObject({
	id: z.uuid(),
	lineId: z.string().regex(/^\d+$/),
	data: rowData,
	/** the version that was changed; 0 for a new row */
	version: z.number().int().min(0)
});
export type RowChange = z.output<typeof rowChange>;

export const readDrafts = (sql: Db, orderId: string) => sql<DraftRow[]>`
	SELECT d.id, d.line_id AS "lineId", d.data, d.version, coalesce(p.name, d.changed_by) AS by, to_char(d.changed_at, 'YYYY-MM-DD HH24:MI') AS at
	FROM draft_row d LEFT JOIN person p ON p.login = d.changed_by WHERE d.order_id = ${orderId} ORDER BY d.created_at, d.id`;

/**
 * Saves rows of a sheet as they are typed. A row that somebody else changed meanwhile is not overwritten.
 * @throws Problem 409 naming who changed the row and what it holds now; nothing is saved then
 */
export async function saveRows(
	sql: Sql,
	by: string,
	order: { id: string; code: string },
	input: unknown
): Promise<void> {
	const rows = parse(z.array(rowChange).max(2000, 'That is too much for one step. Paste it in parts of 2,000 rows.'), input); // prettier-ignore
	await sql.begin(async (raw) => {
		const tx = raw as unknown as Db;
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR SHARE`;
		const saved = new Set(
			(await tx<{ id: string }[]>`
				INSERT INTO draft_row (id, order_id, line_id, data, changed_by)
				SELECT n.id, ${order.id}::bigint, n.line, n.data::jsonb, ${by}::text
				FROM unnest(${rows.map((r) => r.id)}::uuid[], ${rows.map((r) => r.lineId)}::bigint[], ${rows.map((r) => JSON.stringify(r.data))}::text[])
					WITH ORDINALITY n(id, line, data, pos)
				JOIN order_line l ON l.id = n.line AND l.order_id = ${order.id} ORDER BY pos
				ON CONFLICT (id) DO UPDATE SET data = excluded.data, version = draft_row.version + 1, changed_by = excluded.changed_by, changed_at = now()
				WHERE draft_row.order_id = ${order.id}
					AND (draft_row.version = (SELECT v.version FROM unnest(${rows.map((r) => r.id)}::uuid[], ${rows.map((r) => r.version)}::int[]) v(id, version) WHERE v.id = draft_row.id)
						OR draft_row.data = excluded.data)
				RETURNING id`).map((r) => r.id) // prettier-ignore
		);
		const lost = rows.find((r) => !saved.has(r.id));
		if (lost) {
			const [now] = (await readDrafts(tx, order.id)).filter((d) => d.id === lost.id);
			throw new Problem(
				now
					? `${now.by} changed this row on ${now.at}, while you did. Theirs stands; look at it and type yours again if it is right.`
					: 'This line is not part of the order any more. Reload the page.',
				409
			);
		}
		await notify(tx, order.code);
	});
}

export async function removeRows(sql: Db, order: { id: string; code: string }, ids: unknown): Promise<void> {
	const list = parse(z.array(z.uuid()).max(2000), ids);
	await sql`DELETE FROM draft_row WHERE order_id = ${order.id} AND id = ANY(${list}::uuid[])`;
	await notify(sql, order.code);
}

/**
 * One at a time into one sheet, for what looks at its rows before it adds to them; ends with the transaction. Booking
 * needs no such lock: it sees afterwards whether the rows are still those it read.
 */
export const lockSheet = (tx: Tx, orderId: string) => tx`SELECT pg_advisory_xact_lock(hashtext('sheet'), ${Number(orderId) % 2 ** 31}::int)`; // prettier-ignore

/** Drops the rows that a booking has used, in its transaction. */
export const takeRows = (tx: Tx, ids: string[]) => tx`DELETE FROM draft_row WHERE id = ANY(${ids}::uuid[])`;

/** Tells everyone who has the order open that something in it changed. */
export const notify = (sql: Db, code: string) => sql`SELECT pg_notify('order', ${code})`;
