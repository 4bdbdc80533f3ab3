import type { Db } from '../database/connect.ts';
import { first, type Check, type Progress } from './findings.ts';

/** How many marks are looked at at a time: their rows are summed up in memory. */
const MARKS = 10_000;

/**
 * I2 and I11: each balance is the sum of its movements and was never below zero in the order of time, some marks a check. One
 * pass finds where that may not be so: a sum that differs, a row that does not know what it is of, or anything that left a
 * place before the last of it came, which most things do not. Only those are looked at in full.
 */
export async function balanceChecks(sql: Db, progress: Progress): Promise<Check[]> {
	// By the marks that are there, open at both ends: whatever stands beyond them is looked at too.
	const ends = await sql<{ id: string }[]>`
		SELECT id FROM (SELECT id, row_number() OVER (ORDER BY id) AS n FROM mark) m WHERE n % ${MARKS} = 0 ORDER BY id`;
	return Array.from({ length: ends.length + 1 }, (_, part): Check => async (sql, found) => {
		progress('balances and the order of time', part, ends.length + 1);
		const [after, to] = [ends[part - 1]?.id, ends[part]?.id];
		const of = sql`true ${after ? sql`AND mark_id > ${after}` : sql``} ${to ? sql`AND mark_id <= ${to}` : sql``}`;
		const doubtful = await sql<{ mark: string }[]>`
			SELECT mark_id AS mark FROM (
				SELECT mark_id, to_place AS place_id, qty, at AS came, NULL::timestamptz AS went, mirrors IS NOT NULL AS odd FROM movement WHERE ${of}
				UNION ALL SELECT mark_id, from_place, -qty, NULL, at, NULL FROM movement WHERE ${of}
				UNION ALL SELECT b.mark_id, b.place_id, -b.qty, NULL, NULL, b.serial IS DISTINCT FROM (k.kind = 'serial') OR b.virtual IS DISTINCT FROM p.virtual
					FROM balance b LEFT JOIN mark k ON k.id = b.mark_id LEFT JOIN place p ON p.id = b.place_id WHERE ${of}) d
			GROUP BY mark_id, place_id HAVING sum(qty) <> 0 OR bool_or(odd) OR max(came) >= min(went)`;
		if (!doubtful.length) return;
		const marks = sql`mark_id = ANY(${[...new Set(doubtful.map((d) => d.mark))]}::bigint[])`;
		await found.rows(
			'I2',
			'balance',
			first(
				sql,
				sql`SELECT format('%s %s at %s: balance %s, movements %s', coalesce(i.code, 'no item'), coalesce(k.number, CASE k.kind WHEN 'unmarked' THEN 'unmarked' ELSE '#' || mark_id END), coalesce(p.code, '#' || place_id), coalesce(b.qty, 0), coalesce(s.qty, 0)) AS what
			FROM (SELECT * FROM balance WHERE ${marks}) b FULL JOIN (
				SELECT mark_id, place_id, sum(qty) AS qty FROM (SELECT mark_id, to_place AS place_id, qty FROM movement WHERE ${marks}
					UNION ALL SELECT mark_id, from_place, -qty FROM movement WHERE ${marks}) d GROUP BY 1, 2) s USING (mark_id, place_id)
			LEFT JOIN mark k ON k.id = mark_id LEFT JOIN item i ON i.id = k.item_id LEFT JOIN place p ON p.id = place_id
			WHERE coalesce(b.qty, 0) <> coalesce(s.qty, 0) OR b.mark_id IS NOT NULL AND (b.serial IS DISTINCT FROM (k.kind = 'serial') OR b.virtual IS DISTINCT FROM p.virtual)`
			)
		);
		await found.rows(
			'I11',
			'movement',
			first(
				sql,
				sql`SELECT format('%s at %s: %s on %s', k.number, p.code, t.level, t.at) AS what FROM (
				SELECT m.mark_id, s.place_id, m.at, sum(s.signed) OVER (PARTITION BY m.mark_id, s.place_id ORDER BY m.at, m.id) AS level
				FROM effective_movement m CROSS JOIN LATERAL (VALUES (m.to_place, m.qty), (m.from_place, -m.qty)) s(place_id, signed)
				WHERE ${marks} AND s.place_id IN (SELECT id FROM place WHERE NOT virtual)) t
			JOIN place p ON p.id = t.place_id JOIN mark k ON k.id = t.mark_id WHERE t.level < 0`
			)
		);
	});
}
