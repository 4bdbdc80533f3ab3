import type { Db } from '../database/connect.ts';
import { group } from '../../core/group/group.ts';
import { timeIn, type Zone } from '../../core/time/clock.ts';
import type { Planned, UnitPart, UnitPage } from '../../core/pairing/unit.ts';

/** Deeper than this no unit is shown: what is made of parts of parts ends before. */
const DEEPEST = 12;

/** When a unit is looked at: as it was made, now, or at the end of a moment. */
export type AsOf = 'built' | 'now' | Date;

/**
 * A unit with what is in it, level by level: its own run, and those of the units inside it, all read at one time. As
 * built and as maintained are the same list read at two times.
 * @returns null when there is no such serial, or it has no run of its own
 */
export async function unitPage(sql: Db, mark: string, asOf: AsOf): Promise<UnitPage | null> {
	const [unit] = await sql<
		(Omit<UnitPage, 'parts' | 'planned' | 'at' | 'builtOn'> & {
			builtAt: Date | null;
			builtBy: string | null;
			zone: Zone;
		})[]
	>`
		SELECT k.id, k.number, i.code AS item, i.name AS "itemName", r.code AS run, r.id AS "runId", z.zone, b.at AS "builtAt", b.id AS "builtBy",
			(SELECT p.code FROM balance s JOIN place p ON p.id = s.place_id WHERE s.mark_id = k.id AND s.qty > 0 AND NOT s.virtual) AS place
		FROM firm z CROSS JOIN mark_now k JOIN item i ON i.id = k.item_id JOIN run r ON r.unit_mark = k.id
		LEFT JOIN LATERAL (SELECT m.at, m.id FROM effective_movement m WHERE m.run_id = r.id AND m.role = 'make' ORDER BY m.at, m.id LIMIT 1) b ON true
		WHERE k.id = ${mark}`;
	if (!unit) return null;
	const { builtAt, builtBy, zone, ...rest } = unit;
	const at = asOf === 'built' ? (builtAt ?? new Date()) : asOf === 'now' ? null : asOf;
	const until = asOf === 'built' && builtBy ? builtBy : null;
	const parts: UnitPart[] = [];
	// One statement for each level, whatever is in it.
	let level: { mark: string; into: UnitPart[]; path: ReadonlySet<string> }[] = [
		{ mark, into: parts, path: new Set([mark]) }
	];
	for (let depth = 0; level.length && depth < DEEPEST; depth++) {
		const rows = await partsOf(
			sql,
			level.map((l) => l.mark),
			at,
			until
		);
		const byUnit = group(rows, (r) => r.inside);
		level = level.flatMap(({ mark: of, into, path }) =>
			(byUnit.get(of) ?? []).flatMap(({ inside: _inside, hasRun, ...row }) => {
				const part: UnitPart = { ...row, parts: [] };
				into.push(part);
				return hasRun && !path.has(row.mark)
					? [{ mark: row.mark, into: part.parts, path: new Set([...path, row.mark]) }]
					: [];
			})
		);
	}
	const planned = await sql<Planned[]>`
		SELECT i.code AS item, i.name AS "itemName", i.unit, trim_scale(p.qty)::text AS qty FROM mark k JOIN part p ON p.item_id = k.item_id JOIN item i ON i.id = p.part_item_id
		WHERE k.id = ${mark} ORDER BY i.code`;
	return {
		...rest,
		planned: [...planned],
		builtOn: builtAt ? timeIn(zone, builtAt) : null,
		at: at ? timeIn(zone, at) : null,
		parts
	};
}

type Row = Omit<UnitPart, 'parts'> & { inside: string; hasRun: boolean };
const partsOf = (sql: Db, units: readonly string[], at: Date | null, until: string | null) => sql<Row[]>`
	SELECT r.unit_mark AS inside, k.id AS mark, k.kind, coalesce(k.number, '') AS number, i.code AS item, i.name AS "itemName", i.unit,
		trim_scale(sum(CASE m.role WHEN 'use' THEN m.qty ELSE -m.qty END))::text AS qty, k.expires_on AS "expiresOn", k.status,
		k.kind = 'serial' AND EXISTS (SELECT 1 FROM run x WHERE x.unit_mark = k.id) AS "hasRun"
	FROM run r JOIN effective_movement m ON m.run_id = r.id AND m.role IN ('use', 'detach') JOIN mark_now k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
	WHERE r.unit_mark = ANY(${[...units]}::bigint[]) AND (${at}::timestamptz IS NULL OR m.at < ${at} OR m.at = ${at} AND (${until}::bigint IS NULL OR m.id <= ${until}))
	GROUP BY r.unit_mark, k.id, k.kind, k.number, k.expires_on, k.status, i.id
	HAVING sum(CASE m.role WHEN 'use' THEN m.qty ELSE -m.qty END) > 0
	ORDER BY i.code, k.number COLLATE natural_order`;
