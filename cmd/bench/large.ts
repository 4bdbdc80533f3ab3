import { cpus } from 'node:os';
import type { Sql } from '../../src/lib/server/database/connect.ts';
import { sealAll } from '../../src/lib/server/ledger/seal.ts';
import { count, verifyRun } from './ledger.ts';
import { time } from './measure.ts';

/**
 * A firm of a size, written in bulk past the doors, with balances and entries as they would be: of each million marks 70,000
 * events, four million movements, 20,000 orders. Six of ten marks are serials, each group of forty comes in one delivery, is
 * moved twice, and is shipped or goes into a batch. Rows lie in the order in which bookings would have written them.
 * @param owner as the owner of an empty, migrated database
 * @param marks how many, in round numbers
 */
export async function makeLargeFirm(owner: Sql, marks: number): Promise<void> {
	const groups = Math.round(marks / 40);
	await owner.unsafe(`
		INSERT INTO item (code, name, unit, decimals, tracking)
			SELECT 'I' || to_char(n, 'FM000'), 'Item ' || n, CASE WHEN n % 5 < 3 THEN 'each' ELSE 'kg' END, CASE WHEN n % 5 < 3 THEN 0 ELSE 3 END,
				CASE WHEN n % 5 < 3 THEN 'serial' ELSE 'lot' END FROM generate_series(0, 499) n;
		INSERT INTO partner (code, name, kind) SELECT 'P' || n, 'Partner ' || n, CASE WHEN n % 2 = 0 THEN 'supplier' ELSE 'customer' END FROM generate_series(0, 199) n;
		INSERT INTO place (code, name) SELECT 'S' || n, 'Site ' || n FROM generate_series(1, 3) n;
		INSERT INTO place (code, name, site_id) SELECT s.code || '/B' || n, 'Bin ' || n, s.id FROM place s CROSS JOIN generate_series(1, 110) n WHERE s.code ~ '^S[1-3]$';
		INSERT INTO orders (code, kind, partner_id, place_id, created_by, closed_at)
			SELECT 'O' || n, CASE n % 3 WHEN 0 THEN 'purchase' WHEN 1 THEN 'production' ELSE 'sale' END, CASE WHEN n % 3 <> 1 THEN (SELECT min(id) FROM partner) + n % 200 END,
				(SELECT id FROM place WHERE code = 'S1'), 'bench', CASE WHEN n % 20 > 0 THEN now() END FROM generate_series(1, ${Math.round(groups * 0.8)}) n`);
	const tables = ['mark', 'movement', 'event', 'run'];
	for (const t of tables) await owner.unsafe(`ALTER TABLE ${t} DISABLE TRIGGER USER`);
	const step = 1000;
	for (let from = 0; from < groups; from += step) {
		const to = Math.min(groups, from + step) - 1;
		// Event 4g + 1 receives, 4g + 2 and 4g + 3 move, 4g + 4 ships or makes a batch of half.
		await owner.unsafe(`
			INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, document, partner_id)
				SELECT 4 * g + e, 'large-' || 4 * g + e, k, t, t, 'bench', 'import', 'D' || g, CASE WHEN k IN ('receipt', 'shipment') THEN (SELECT min(id) FROM partner) + g % 200 END
				FROM generate_series(${from}, ${to}) g CROSS JOIN generate_series(1, 4) e CROSS JOIN LATERAL (
					SELECT CASE e WHEN 1 THEN 'receipt' WHEN 4 THEN CASE WHEN g % 2 = 0 THEN 'shipment' ELSE 'output' END ELSE 'move' END AS k,
						timestamptz '2024-01-01' + make_interval(mins => 40 * g + 10 * e) AS t) x;
			INSERT INTO mark (id, item_id, kind, lot_no, serial_no, event_id, expires_on) OVERRIDING SYSTEM VALUE
				SELECT 41 * g + i + 1, item.id, CASE WHEN s THEN 'serial' ELSE 'lot' END, CASE WHEN NOT s THEN 'L' || g || '-' || i END, CASE WHEN s THEN 'N' || g || '-' || i END,
					4 * g + CASE WHEN i = 40 THEN 4 ELSE 1 END, date '2027-01-01' + (g % 700)
				FROM generate_series(${from}, ${to}) g CROSS JOIN generate_series(0, 40) i CROSS JOIN LATERAL (SELECT i % 5 < 3 AND i < 40 AS s) x
				JOIN item ON item.code = 'I' || to_char(CASE WHEN i = 40 THEN 4 ELSE (g * 5 + i % 5) % 500 END, 'FM000') WHERE i < 40 OR g % 2 = 1;
			INSERT INTO run (id, code, event_id) OVERRIDING SYSTEM VALUE SELECT g + 1, 'R' || g, 4 * g + 4 FROM generate_series(${from}, ${to}) g WHERE g % 2 = 1;
			INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, evidence)
				SELECT 4 * g + e, timestamptz '2024-01-01' + make_interval(mins => 40 * g + 10 * e), 41 * g + i + 1, CASE WHEN i % 5 < 3 OR i = 40 THEN 1 ELSE 7.5 END,
					f.id, t.id, CASE WHEN e = 4 AND g % 2 = 1 THEN g + 1 END, CASE WHEN e = 4 AND g % 2 = 1 THEN CASE WHEN i = 40 THEN 'make' ELSE 'use' END END,
					(ARRAY['scanned', 'entered', 'accepted', 'reported'])[1 + (g + i) % 4]
				FROM generate_series(${from}, ${to}) g CROSS JOIN generate_series(1, 4) e CROSS JOIN generate_series(0, 40) i
				CROSS JOIN LATERAL (SELECT CASE e WHEN 1 THEN '@supplier' WHEN 2 THEN 'S1/B1' WHEN 3 THEN 'S1/B' || 2 + g % 100 WHEN 4 THEN CASE WHEN i = 40 THEN '@process' ELSE 'S2/B' || 1 + g % 110 END END AS f,
					CASE e WHEN 1 THEN 'S1/B1' WHEN 2 THEN 'S1/B' || 2 + g % 100 WHEN 3 THEN 'S2/B' || 1 + g % 110
						WHEN 4 THEN CASE WHEN i = 40 THEN 'S3/B' || 1 + g % 110 WHEN g % 2 = 0 THEN '@customer' ELSE '@process' END END AS t) x
				JOIN place f ON f.code = x.f JOIN place t ON t.code = x.t
				WHERE (i < 40 AND (e < 4 OR i < 20)) OR (i = 40 AND e = 4 AND g % 2 = 1) ORDER BY 1, i`);
	}
	for (const t of tables) await owner.unsafe(`ALTER TABLE ${t} ENABLE TRIGGER USER`);
	await owner.unsafe(`
		SELECT setval('event_id', max(id)) FROM event; SELECT setval('mark_id_seq', max(id)) FROM mark; SELECT setval('run_id_seq', max(id)) FROM run;
		INSERT INTO balance SELECT d.mark_id, d.place_id, sum(d.qty), k.kind = 'serial', p.virtual
			FROM (SELECT mark_id, to_place AS place_id, qty FROM movement UNION ALL SELECT mark_id, from_place, -qty FROM movement) d
			JOIN mark k ON k.id = d.mark_id JOIN place p ON p.id = d.place_id GROUP BY 1, 2, 4, 5 ORDER BY 1, 2;
		INSERT INTO unsealed (event_id, weight) SELECT e.id, 1 + (SELECT count(*) FROM movement m WHERE m.event_id = e.id) FROM event e ORDER BY e.id`);
	await owner.unsafe('VACUUM ANALYZE');
}

/** How many marks the large firm has. */
const MARKS = 1_000_000;

/** Makes the large firm, and measures what grows with it. */
export async function measureLarge(url: string, sql: Sql, owner: Sql): Promise<void> {
	const made = await time(() => makeLargeFirm(owner, MARKS));
	const [n] = await sql<{ marks: number; movements: number; events: number; runs: number; orders: number }[]>`
		SELECT (SELECT count(*)::int FROM mark) AS marks, (SELECT count(*)::int FROM movement) AS movements, (SELECT count(*)::int FROM event) AS events,
			(SELECT count(*)::int FROM run) AS runs, (SELECT count(*)::int FROM orders) AS orders`;
	console.log(
		`${count(n.marks)} marks, ${count(n.movements)} movements, ${count(n.events)} events, ${count(n.runs)} runs, ${count(n.orders)} orders, written in bulk in ${Math.round(made / 1000)} s; ${cpus().length} cores`
	);
	const sealed = await time(() => sealAll(sql));
	console.log(
		`sealing all of it: ${Math.round(sealed / 1000)} s, ${count((n.movements / sealed) * 1000)} movements a second`
	);
	await owner.unsafe('VACUUM ANALYZE');
	const { took, memory, said } = await verifyRun(url);
	console.log(
		`verify: ${(took / 1000).toFixed(1)} s (wanted: at most 81), ${count((n.events / took) * 1000)} events a second, ${Math.round(memory)} MB; it said: ${said.trim().split('\n').at(-1)}`
	);
}
