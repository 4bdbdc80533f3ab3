import type { Sql } from '../../src/lib/server/database/connect.ts';

/**
 * Looks at the tables from outside, in plain SQL that shares nothing with the application: what must hold after whatever
 * was done. @returns what does not, in words
 */
export async function brokenInvariants(owner: Sql): Promise<string[]> {
	const rows = await owner<{ what: string }[]>`
		WITH sums AS (
			SELECT mark_id, place_id, sum(q) AS q FROM (SELECT mark_id, to_place AS place_id, qty AS q FROM movement UNION ALL SELECT mark_id, from_place, -qty FROM movement) d GROUP BY 1, 2)
		SELECT 'balance of mark ' || coalesce(b.mark_id, s.mark_id) || ' is not its movements' AS what FROM balance b FULL JOIN sums s USING (mark_id, place_id)
			WHERE coalesce(b.qty, 0) <> coalesce(s.q, 0)
		UNION ALL SELECT 'less than nothing of mark ' || s.mark_id FROM sums s JOIN place p ON p.id = s.place_id WHERE p.code NOT LIKE '@%' AND s.q < 0
		UNION ALL SELECT 'serial ' || k.serial_no || ' is ' || sum(s.q) || ' pieces' FROM sums s JOIN mark k ON k.id = s.mark_id JOIN place p ON p.id = s.place_id
			WHERE k.kind = 'serial' AND p.code NOT LIKE '@%' GROUP BY k.id, k.serial_no HAVING sum(s.q) NOT IN (0, 1)
		UNION ALL SELECT 'key ' || key || ' was booked twice' FROM event GROUP BY key HAVING count(*) > 1
		UNION ALL SELECT 'event ' || e.id || ' is half booked' FROM event e WHERE e.kind IN ('receipt', 'move', 'shipment') AND NOT EXISTS (SELECT 1 FROM movement m WHERE m.event_id = e.id)
		UNION ALL SELECT 'movement ' || m.id || ' belongs to no event' FROM movement m WHERE NOT EXISTS (SELECT 1 FROM event e WHERE e.id = m.event_id)
		UNION ALL SELECT 'number ' || number || ' stands for two of item ' || item_id FROM mark WHERE kind <> 'unmarked' GROUP BY item_id, kind, number HAVING count(*) > 1
		LIMIT 20`;
	return rows.map((r) => r.what);
}
