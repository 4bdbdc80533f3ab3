import { grouped } from '../../core/quantity/sign.ts';
import { randomUUID } from 'node:crypto';
import { z } from 'zod';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import type { Fragment } from '../database/fragment.ts';
import { GOES } from '../../core/document/kinds.ts';
import { Problem } from '../../core/problem/problem.ts';
import { before, expand, MOST, MOST_STEP } from '../../core/ranges/ranges.ts';
import { factValues, id, line } from '../../core/text/input.ts';
import { showWhen } from '../../core/dates/dates.ts';
import { timeIn } from '../../core/time/clock.ts';
import { parse } from '../parse.ts';
import { notify, telling } from './live.ts';

const short = line(200, 0, undefined, 'That is too long for a field of the sheet. Check what was pasted.');
const rowFields = z.strictObject({
	lot: short.optional(),
	/** the first of `count` serials */
	serial: short.optional(),
	count: z.number().int().min(1).max(MOST).optional(),
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
	/** what one of it costs */
	cost: short.optional(),
	/** facts by their codes, as typed */
	facts: factValues.optional(),
	/** id of a mark that is taken, from a place, for one finished serial */
	mark: id.optional(),
	/** where it is taken from; for new numbers the bin they go to */
	place: short.optional(),
	unit: short.optional(),
	/** of what is picked to wait: where it does, where its site has several places for that */
	to: short.optional(),
	/** of what comes back: what becomes of it, and what was found when it was looked over */
	goes: z.enum(GOES).optional(),
	found: short.optional(),
	/** it was suggested, and nobody looked at it when something beside it was changed */
	accepted: z.literal(true).optional(),
	/** whoever fetched it confirmed it, without a scan */
	confirmed: z.literal(true).optional(),
	/** how much of the line goes now */
	now: short.optional(),
	/** content of a lot or serial that is lost, and whose */
	loss: short.optional(),
	lossOf: id.optional(),
	/** what is done with packs that no single lot can fill */
	mixing: z.enum(['apart', 'rest', 'all']).optional()
});
const known = {
	/** which of its numbers were scanned, as positions from 0 */
	scanned: z.string().max(100_000).optional(),
	/** a notice said so */
	reported: z.literal(true).optional()
};
const runs = (row: z.output<typeof rowFields>, ctx: z.core.$RefinementCtx) => {
	if (!row.serial || !row.count || row.count === 1) return;
	try {
		expand(row.serial.slice(0, 60), Math.min(row.count, 2), row.step);
	} catch (e) {
		ctx.addIssue({ code: 'custom', message: (e as Error).message, path: ['serial'] });
	}
};
/** One row of a sheet as it is typed. What the fields mean depends on the line: numbers that arrive, or stock that is taken. */
export const typedRow = rowFields.superRefine(runs);
/** One row of a sheet as it is kept: as typed, and how its numbers became known. */
export const rowData = rowFields.extend(known).superRefine(runs);
/** A row of a draft as it is kept. */
export type RowData = z.output<typeof rowData>;
/** A row of a sheet as it is kept. */
export interface DraftRow {
	id: string;
	lineId: string;
	data: RowData;
	version: number;
	by: string;
}
/** A change to rows of a draft, as parsed. */
export const rowChange = z.strictObject({
	id: z.uuid(),
	lineId: id,
	data: typedRow,
	/** the version that was changed; 0 for a new row */
	version: z
		.number()
		.int()
		.min(0)
		.max(2 ** 31 - 2)
});
/** The most rows that one request brings. */
export const MOST_ROWS = 2000;

/**
 * The rows of an order's sheet in the order they were entered. A row that cannot be read is empty: it breaks only itself.
 * @param ids only these; all of them where it is left out
 */
export const readDrafts = (sql: Db, orderId: string, ids?: readonly string[]): Promise<DraftRow[]> =>
	readRows(sql, sql`d.order_id = ${orderId} ${ids ? sql`AND d.id = ANY(${[...ids]}::uuid[])` : sql``}`);
/** @param which of all rows (d), as a WHERE; and how many at most */
async function readRows(sql: Db, which: Fragment, most: number | null = null): Promise<DraftRow[]> {
	const rows = await sql<(Omit<DraftRow, 'data'> & { data: unknown })[]>`
		SELECT d.id, d.line_id AS "lineId", d.data, d.version, coalesce(p.name, d.changed_by) AS by
		FROM draft_row d LEFT JOIN person p ON p.login = d.changed_by
		WHERE ${which} ORDER BY d.created_at, d.id LIMIT ${most}`;
	return rows.map((r) => ({ ...r, data: rowData.safeParse(r.data).data ?? {} }));
}

/** The rows of an order's sheet; null where there are more of them than asked. */
export async function readDraftsUpTo(sql: Db, orderId: string, most: number): Promise<DraftRow[] | null> {
	const rows = await readRows(sql, sql`d.order_id = ${orderId}`, most + 1);
	return rows.length > most ? null : rows;
}

/**
 * Of a long sheet the rows that a scanned number may have to do with: those that hold it, or several, or the one before it;
 * those of the supplier's number; or those that take marks.
 */
export function readNear(
	sql: Db,
	orderId: string,
	{ serial = '', lot = '', marks = [] }: { serial?: string; lot?: string; marks?: readonly string[] }
): Promise<DraftRow[]> {
	// Each by an index of its own, number by number: asked together, each of ten thousand rows is read.
	const near = sql`
		SELECT d.id FROM draft_row d WHERE d.order_id = ${orderId} AND d.data ? 'mark' AND d.data ->> 'mark' = ANY(${[...marks]})
		UNION SELECT d.id FROM unnest(${serial ? [serial, ...before(serial)] : []}::text[]) w(serial)
			CROSS JOIN LATERAL (SELECT x.id FROM draft_row x
				WHERE x.order_id = ${orderId} AND x.data ? 'serial' AND x.data ->> 'serial' = w.serial OFFSET 0) d
		UNION SELECT d.id FROM draft_row d
			WHERE d.order_id = ${orderId} AND d.data ? 'supplierSerial' AND d.data ->> 'supplierSerial' = nullif(${serial}, '')
		UNION SELECT d.id FROM draft_row d WHERE d.order_id = ${orderId} AND d.data ->> 'count' <> '1' AND ${serial}::text <> ''
		${
			lot
				? sql`UNION SELECT n.id FROM (SELECT DISTINCT ON (s.line_id) s.id FROM draft_row s WHERE s.order_id = ${orderId}
					AND s.data ->> 'supplierLot' = ${lot} AND s.data ? 'lot' ORDER BY s.line_id, s.created_at, s.id) n`
				: sql``
		}`;
	return readRows(sql, sql`d.id = ANY(ARRAY(${near}))`);
}

/** How much is entered in a line, of what can be read: pieces by their serials, or quantities. */
export const enteredIn = async (sql: Db, orderId: string, lineId: string): Promise<string> =>
	(
		await sql<{ sum: string }[]>`
			SELECT trim_scale(coalesce(sum(coalesce((d.data ->> 'count')::int, 1)) FILTER (WHERE d.data ? 'serial'), 0)
				+ coalesce(sum((d.data ->> 'qty')::numeric)
					FILTER (WHERE NOT d.data ? 'serial' AND d.data ->> 'qty' ~ '^[0-9]{1,13}([.][0-9]{1,6})?$'), 0))::text AS sum
			FROM draft_row d WHERE d.order_id = ${orderId} AND d.line_id = ${lineId}`
	)[0].sum;

/**
 * Saves rows of a sheet as they are typed. A row that somebody else changed meanwhile is not overwritten.
 * @returns their ids
 * @throws Problem naming what cannot be read; 409 naming who changed the row; nothing is saved then
 */
export async function saveRows(
	sql: Sql,
	by: string,
	order: { id: string; code: string },
	input: unknown
): Promise<string[]> {
	const rows = parse(
		z.array(rowChange).max(MOST_ROWS, {
			error: () => `That is too much for one step. Paste it in parts of ${grouped(MOST_ROWS)} rows.`
		}),
		input
	);
	if (new Set(rows.map((r) => r.id)).size < rows.length)
		throw new Problem('A row is given twice. Reload the page.', 400);
	await transaction(sql, async (tx) => {
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR SHARE`;
		const kept = await tx<{ id: string }[]>`
			WITH kept AS (INSERT INTO draft_row (id, order_id, line_id, data, changed_by)
			SELECT n.id, ${order.id}::bigint, n.line, n.data::jsonb, ${by}::text
			FROM unnest(${rows.map((r) => r.id)}::uuid[], ${rows.map((r) => r.lineId)}::bigint[], ${rows.map((r) => JSON.stringify(r.data))}::text[])
				WITH ORDINALITY n(id, line, data, pos)
			JOIN order_line l ON l.id = n.line AND l.order_id = ${order.id} ORDER BY pos
			-- What was scanned stays so while its number stays: it is the server's to say, nobody types it.
			ON CONFLICT (id) DO UPDATE SET data = excluded.data || CASE
				WHEN (SELECT bool_and(draft_row.data -> f IS NOT DISTINCT FROM excluded.data -> f) FROM unnest(ARRAY['lot', 'serial', 'step', 'mark']) f)
				THEN jsonb_strip_nulls(jsonb_build_object('scanned', draft_row.data -> 'scanned', 'reported', draft_row.data -> 'reported')) ELSE '{}' END, version = draft_row.version + 1, changed_by = excluded.changed_by, changed_at = now()
			WHERE draft_row.order_id = ${order.id}
				AND (draft_row.version = (SELECT v.version FROM unnest(${rows.map((r) => r.id)}::uuid[], ${rows.map((r) => r.version)}::int[]) v(id, version) WHERE v.id = draft_row.id)
					OR draft_row.data - ARRAY['scanned', 'reported'] = excluded.data)
			RETURNING id)
			-- Told once, however many rows.
			SELECT k.id FROM kept k WHERE (SELECT count(*) FROM (SELECT ${telling(tx, order.code)} OFFSET 0) told) = 1`;
		const saved = new Set(kept.map((r) => r.id));
		const lost = rows.find((r) => !saved.has(r.id));
		if (lost) throw await changedMeanwhile(tx, order.id, lost.id);
	});
	return rows.map((r) => r.id);
}
async function changedMeanwhile(tx: Tx, orderId: string, row: string): Promise<Problem> {
	const [now] = await tx<{ by: string; at: Date; zone: string }[]>`
		SELECT coalesce(p.name, d.changed_by) AS by, d.changed_at AS at, f.zone FROM firm f CROSS JOIN draft_row d
		LEFT JOIN person p ON p.login = d.changed_by WHERE d.id = ${row} AND d.order_id = ${orderId}`;
	return new Problem(
		now
			? `${now.by} changed this row on ${showWhen(timeIn(now.zone, now.at))}, while you did. Theirs stands; look at it and type yours again if it is right.`
			: 'This line is not part of the order any more. Reload the page.',
		409
	);
}

/** Adds rows to a sheet, as somebody's. @returns their ids */
export async function insertRows(
	tx: Db,
	by: string,
	orderId: string,
	rows: readonly { lineId: string; data: RowData }[]
): Promise<string[]> {
	const ids = rows.map((): string => randomUUID());
	if (rows.length)
		await tx`INSERT INTO draft_row (id, order_id, line_id, data, changed_by)
			SELECT n.id, ${orderId}::bigint, n.line, n.data::jsonb, ${by}::text
			FROM unnest(${ids}::uuid[], ${rows.map((r) => r.lineId)}::bigint[], ${rows.map((r) => JSON.stringify(r.data))}::text[]) WITH ORDINALITY n(id, line, data, pos) ORDER BY pos`;
	return ids;
}
/**
 * Puts rows in the place of all that a sheet has.
 * @param over what others entered goes too
 * @throws Problem 409 naming who entered some of it; nothing is changed then
 */
export async function replaceRows(
	sql: Sql,
	by: string,
	order: { id: string; code: string },
	rows: readonly { lineId: string; data: RowData }[],
	over: boolean
): Promise<void> {
	await transaction(sql, async (tx) => {
		// The order before its rows, as a booking takes them: neither waits for what the other holds.
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR SHARE`;
		await lockSheet(tx, order.id);
		const gone = await tx<{ login: string; name: string }[]>`
			WITH gone AS (DELETE FROM draft_row WHERE order_id = ${order.id} RETURNING changed_by)
			SELECT DISTINCT g.changed_by AS login, coalesce(p.name, g.changed_by) AS name FROM gone g LEFT JOIN person p ON p.login = g.changed_by ORDER BY 2`;
		const others = gone.filter((g) => g.login !== by).map((g) => g.name);
		if (others.length && !over)
			throw new Problem(
				`${others.join(' and ')} entered rows in ${order.code} that are not booked yet. Have them booked or taken out, or say over to replace them.`,
				409
			);
		await insertRows(tx, by, order.id, rows);
		await notify(tx, order.code);
	});
}
/** Changes one row, unless it was changed since. @returns whether it was */
export async function changeRow(
	tx: Db,
	by: string,
	row: { id: string; version: number; data: RowData }
): Promise<boolean> {
	const done = await tx`
		UPDATE draft_row SET data = ${JSON.stringify(row.data)}::text::jsonb, version = version + 1, changed_by = ${by}, changed_at = now()
		WHERE id = ${row.id} AND version = ${row.version}`;
	return done.count > 0;
}
/** Sets one field of some rows. */
export const setField = (tx: Db, by: string, ids: readonly string[], field: Partial<RowData>) => tx`
	UPDATE draft_row SET data = data || ${JSON.stringify(field)}::text::jsonb, version = version + 1, changed_by = ${by}, changed_at = now()
	WHERE id = ANY(${ids}::uuid[])`;
/** Puts a row back to what it held, where it still holds what it was given. @returns whether it did */
export async function putBack(
	tx: Db,
	by: string,
	orderId: string,
	row: { id: string; before: RowData | null; after: RowData }
): Promise<boolean> {
	const after = JSON.stringify(row.after);
	const done = row.before
		? await tx`UPDATE draft_row SET data = ${JSON.stringify(row.before)}::text::jsonb, version = version + 1, changed_by = ${by}, changed_at = now()
			WHERE id = ${row.id} AND order_id = ${orderId} AND data = ${after}::text::jsonb`
		: await tx`DELETE FROM draft_row WHERE id = ${row.id} AND order_id = ${orderId} AND data = ${after}::text::jsonb`;
	return done.count > 0;
}

/** Takes rows out of a sheet. @returns their ids */
export async function removeRows(sql: Db, order: { id: string; code: string }, ids: unknown): Promise<string[]> {
	const list = parse(z.array(z.uuid()).max(MOST_ROWS), ids);
	await sql`DELETE FROM draft_row WHERE order_id = ${order.id} AND id = ANY(${list}::uuid[])`;
	await notify(sql, order.code);
	return list;
}

/**
 * One at a time into one sheet, for what looks at its rows before it adds to them; ends with the transaction. Booking
 * needs no such lock: it sees afterwards whether the rows are still those it read.
 */
export const lockSheet = (tx: Tx, orderId: string) =>
	tx`SELECT pg_advisory_xact_lock(hashtext('sheet'), ${Number(orderId) % 2 ** 31}::int)`;

/** Drops the rows of an order that a booking has used, in its transaction, and tells everyone who has it open. */
export const takeRows = (tx: Tx, code: string, ids: readonly string[]) => tx`
	WITH gone AS (DELETE FROM draft_row WHERE id = ANY(${ids}::uuid[]))
	SELECT ${telling(tx, code)}`;

/** Takes the parts of some units out of a sheet, to book them. @returns each row as "id version" */
export const takeUnitRows = async (tx: Tx, orderId: string, serials: readonly string[]): Promise<string[]> =>
	(
		await tx<{ taken: string }[]>`
	WITH gone AS (DELETE FROM draft_row WHERE order_id = ${orderId} AND data ? 'unit' AND data ->> 'unit' = ANY(${[...serials]}) RETURNING id, version)
	SELECT coalesce(string_agg(id || ' ' || version, ','), '') AS taken FROM gone`
	)[0].taken
		.split(',')
		.filter(Boolean);
