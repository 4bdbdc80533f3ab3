import type { Sql } from '../../../src/lib/server/database/connect.ts';

/** Lots that are traced, by how many numbers they reach: batches of 50, of which one in two is shipped. */
export const REACHED = [1_000, 20_000, 100_000] as const;
/** How many pieces of one item lie in one bin. */
export const PIECES = 30_000;
/** In one bin as many lots. */
export const IN_BIN = 20_000;

/**
 * A firm of a size, written in bulk past the doors, with balances and entries as they would be: of each million marks 110,000
 * events, four million movements, 20,000 orders. Six of ten marks are serials, each group of forty comes in one delivery, is
 * moved three times, and is shipped or goes into a batch. Rows lie in the order in which bookings would have written them. Beside
 * them stand a few large things: lots that reached many, an item of many pieces, a bin of many lots.
 * @param owner as the owner of an empty, migrated database
 * @param marks how many, in round numbers; beyond those of the large things
 */
export async function makeLargeFirm(owner: Sql, marks: number): Promise<void> {
	const large = PIECES + IN_BIN + REACHED.reduce((sum, n) => sum + n, 0);
	const groups = Math.round((marks - large) / 40.5);
	await owner.unsafe(`
		INSERT INTO item (code, name, unit, decimals, tracking)
			SELECT 'I' || to_char(n, 'FM000'), 'Item ' || n, CASE WHEN n % 5 < 3 THEN 'each' ELSE 'kg' END, CASE WHEN n % 5 < 3 THEN 0 ELSE 3 END,
				CASE WHEN n % 5 < 3 THEN 'serial' ELSE 'lot' END FROM generate_series(0, 499) n;
		INSERT INTO partner (code, name, kind) SELECT 'P' || n, 'Partner ' || n, CASE WHEN n % 2 = 0 THEN 'supplier' ELSE 'customer' END FROM generate_series(0, 199) n;
		INSERT INTO place (code, name) SELECT 'S' || n, 'Site ' || n FROM generate_series(1, 3) n;
		INSERT INTO place (code, name, site_id) SELECT s.code || '/B' || n, 'Bin ' || n, s.id FROM place s CROSS JOIN generate_series(1, 110) n WHERE s.code ~ '^S[1-3]$';
		INSERT INTO orders (code, kind, partner_id, place_id, created_by, closed_at)
			SELECT 'O' || n, CASE n % 3 WHEN 0 THEN 'purchase' WHEN 1 THEN 'production' ELSE 'sale' END, CASE WHEN n % 3 <> 1 THEN (SELECT min(id) FROM partner) + n % 200 END,
				(SELECT id FROM place WHERE code = 'S1'), 'bench', CASE WHEN n % 8 > 0 THEN now() END FROM generate_series(1, ${Math.round(marks / 50)}) n;
		INSERT INTO order_line (order_id, no, role, item_id, qty)
			SELECT o.id, x.n + 1, CASE o.kind WHEN 'production' THEN 'output' ELSE 'goods' END, i.id, 60 FROM orders o CROSS JOIN generate_series(0, 4) x(n)
			JOIN item i ON i.code = 'I' || to_char(CASE WHEN o.kind = 'production' THEN 4 ELSE ((substr(o.code, 2)::int - 1) * 5 + x.n) % 500 END, 'FM000')
			WHERE o.kind <> 'production' OR x.n = 0 ORDER BY o.id, x.n`);
	const tables = ['mark', 'movement', 'event', 'run'];
	for (const t of tables) await owner.unsafe(`ALTER TABLE ${t} DISABLE TRIGGER USER`);
	const step = 1000;
	for (let from = 0; from < groups; from += step) {
		const to = Math.min(groups, from + step) - 1;
		// Event 5g + 1 receives, 5g + 2 to 5g + 4 move, 5g + 5 ships or makes a batch of half.
		await owner.unsafe(`
			INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, document, partner_id, order_id)
				SELECT 5 * g + e, 'large-' || 5 * g + e, k, t, t, 'bench', 'import', 'D' || g, CASE WHEN k IN ('receipt', 'shipment') THEN (SELECT min(id) FROM partner) + g % 200 END, o.id
				FROM generate_series(${from}, ${to}) g CROSS JOIN generate_series(1, 5) e CROSS JOIN LATERAL (
					SELECT CASE e WHEN 1 THEN 'receipt' WHEN 5 THEN CASE WHEN g % 2 = 0 THEN 'shipment' ELSE 'output' END ELSE 'move' END AS k,
						timestamptz '2024-01-01' + make_interval(mins => 40 * g + 10 * e) AS t) x
				LEFT JOIN orders o ON o.code = 'O' || g + 1 AND o.kind = CASE k WHEN 'receipt' THEN 'purchase' WHEN 'shipment' THEN 'sale' WHEN 'output' THEN 'production' END;
			INSERT INTO mark (id, item_id, kind, lot_no, serial_no, event_id, expires_on) OVERRIDING SYSTEM VALUE
				SELECT 41 * g + i + 1, item.id, CASE WHEN s THEN 'serial' ELSE 'lot' END, CASE WHEN NOT s THEN 'L' || g || '-' || i END, CASE WHEN s THEN 'N' || g || '-' || i END,
					5 * g + CASE WHEN i = 40 THEN 5 ELSE 1 END, date '2027-01-01' + (g % 700)
				FROM generate_series(${from}, ${to}) g CROSS JOIN generate_series(0, 40) i CROSS JOIN LATERAL (SELECT i % 5 < 3 AND i < 40 AS s) x
				JOIN item ON item.code = 'I' || to_char(CASE WHEN i = 40 THEN 4 ELSE (g * 5 + i % 5) % 500 END, 'FM000') WHERE i < 40 OR g % 2 = 1;
			INSERT INTO run (id, code, event_id) OVERRIDING SYSTEM VALUE SELECT g + 1, 'R' || g, 5 * g + 5 FROM generate_series(${from}, ${to}) g WHERE g % 2 = 1;
			INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, evidence, order_line_id)
				SELECT 5 * g + e, timestamptz '2024-01-01' + make_interval(mins => 40 * g + 10 * e), 41 * g + i + 1, CASE WHEN i % 5 < 3 OR i = 40 THEN 1 ELSE 7.5 END,
					f.id, t.id, CASE WHEN e = 5 AND g % 2 = 1 THEN g + 1 END, CASE WHEN e = 5 AND g % 2 = 1 THEN CASE WHEN i = 40 THEN 'make' ELSE 'use' END END,
					(ARRAY['scanned', 'entered', 'accepted', 'reported'])[1 + (g + i) % 4],
					(SELECT l.id FROM event v JOIN order_line l ON l.order_id = v.order_id AND l.no = CASE WHEN i = 40 THEN 1 ELSE 1 + i % 5 END AND (l.role = 'output') = (i = 40) WHERE v.id = 5 * g + e)
				FROM generate_series(${from}, ${to}) g CROSS JOIN generate_series(1, 5) e CROSS JOIN generate_series(0, 40) i
				CROSS JOIN LATERAL (SELECT CASE e WHEN 1 THEN '@supplier' WHEN 2 THEN 'S1/B1' WHEN 3 THEN 'S1/B' || 2 + g % 100 WHEN 4 THEN 'S2/B' || 1 + g % 110 ELSE CASE WHEN i = 40 THEN '@process' ELSE 'S2/B' || 1 + (g + 7) % 110 END END AS f,
					CASE e WHEN 1 THEN 'S1/B1' WHEN 2 THEN 'S1/B' || 2 + g % 100 WHEN 3 THEN 'S2/B' || 1 + g % 110 WHEN 4 THEN 'S2/B' || 1 + (g + 7) % 110
						ELSE CASE WHEN i = 40 THEN 'S3/B' || 1 + g % 110 WHEN g % 2 = 0 THEN '@customer' ELSE '@process' END END AS t) x
				JOIN place f ON f.code = x.f JOIN place t ON t.code = x.t
				WHERE (i < 40 AND (e < 5 OR i < 20)) OR (i = 40 AND e = 5 AND g % 2 = 1) ORDER BY 1, i`);
	}
	await makeLargeThings(owner, groups);
	for (const t of tables) await owner.unsafe(`ALTER TABLE ${t} ENABLE TRIGGER USER`);
	await owner.unsafe(`
		SELECT setval('event_id', max(id)) FROM event; SELECT setval('mark_id_seq', max(id)) FROM mark; SELECT setval('run_id_seq', max(id)) FROM run;
		INSERT INTO balance SELECT d.mark_id, d.place_id, sum(d.qty), k.kind = 'serial', p.virtual
			FROM (SELECT mark_id, to_place AS place_id, qty FROM movement UNION ALL SELECT mark_id, from_place, -qty FROM movement) d
			JOIN mark k ON k.id = d.mark_id JOIN place p ON p.id = d.place_id GROUP BY 1, 2, 4, 5 ORDER BY 1, 2;
		INSERT INTO seal_queue (event_id, weight) SELECT e.id, 1 + (SELECT count(*) FROM movement m WHERE m.event_id = e.id) FROM event e ORDER BY e.id`);
	await owner.unsafe('VACUUM ANALYZE');
}

/** Lots that reached many numbers, an item with many pieces in one bin, and a bin with many lots: after all the rest. */
async function makeLargeThings(owner: Sql, groups: number): Promise<void> {
	await owner.unsafe(`
		INSERT INTO item (code, name, unit, decimals, tracking) VALUES ('RAW', 'Raw material', 'kg', 3, 'lot'), ('BULK', 'Bulk', 'kg', 3, 'lot'), ('PACK', 'Pack', 'each', 0, 'serial'), ('PIECE', 'Piece', 'each', 0, 'serial'), ('SACK', 'Sack', 'kg', 3, 'lot');
		INSERT INTO marking_rule (item_id, step, lot, serial) SELECT i.id, s, 'not asked', 'required' FROM item i CROSS JOIN unnest(ARRAY['receipt', 'shipment']) s WHERE i.code = 'PIECE';
		INSERT INTO place (code, name, site_id) SELECT 'S2/' || x, x, s.id FROM place s CROSS JOIN unnest(ARRAY['PIECES', 'SACKS']) x WHERE s.code = 'S2'`);
	let [event, mark, run, at] = [5 * groups + 1, 41 * groups + 1, groups + 1, 40 * groups];
	const received = (kind: string, item: string, to: string, head: string, count: number, qty: string) => `
		INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, document, partner_id)
			SELECT ${event}, 'large-${event}', 'receipt', t, t, 'bench', 'import', 'D-${head}', (SELECT min(id) FROM partner) FROM (SELECT timestamptz '2024-01-01' + make_interval(mins => ${at}) AS t) x;
		INSERT INTO mark (id, item_id, kind, ${kind}_no, event_id, expires_on) OVERRIDING SYSTEM VALUE
			SELECT ${mark} + n, i.id, '${kind}', '${head}' || CASE ${count} WHEN 1 THEN '' ELSE '-' || to_char(n, 'FM00000') END, ${event}, date '2027-06-01' + n % 700 FROM item i CROSS JOIN generate_series(0, ${count - 1}) n WHERE i.code = '${item}';
		INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, evidence)
			SELECT ${event}, timestamptz '2024-01-01' + make_interval(mins => ${at}), ${mark} + n, ${qty}, f.id, t.id, 'scanned' FROM generate_series(0, ${count - 1}) n JOIN place f ON f.code = '@supplier' JOIN place t ON t.code = '${to}' ORDER BY n`;
	const receive = async (...[kind, item, to, head, count, qty]: Parameters<typeof received>) => {
		await owner.unsafe(received(kind, item, to, head, count, qty));
		[event, mark, at] = [event + 1, mark + count, at + 10];
	};
	await receive('serial', 'PIECE', 'S2/PIECES', 'PC', PIECES, '1');
	await receive('lot', 'SACK', 'S2/SACKS', 'SK', IN_BIN, '25');
	for (const reached of REACHED) {
		const batches = reached / 50;
		const root = mark;
		await receive('lot', 'RAW', 'S1/B1', `ROOT-${reached}`, 1, String(batches));
		// A batch is made of the root, packed as 49 pieces, and 24 of these are shipped.
		const when = `timestamptz '2024-01-01' + make_interval(mins => ${at} + 30 * b + 10 * e)`;
		await owner.unsafe(`
			INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, document, partner_id)
				SELECT ${event} + 3 * b + e, 'large-' || ${event} + 3 * b + e, CASE e WHEN 2 THEN 'shipment' ELSE 'output' END, ${when}, ${when}, 'bench', 'import', 'T${reached}-' || b, CASE e WHEN 2 THEN (SELECT min(id) FROM partner) + 2 * (b % 100) + 1 END
				FROM generate_series(0, ${batches - 1}) b CROSS JOIN generate_series(0, 2) e;
			INSERT INTO mark (id, item_id, kind, lot_no, serial_no, event_id, expires_on) OVERRIDING SYSTEM VALUE
				SELECT ${mark} + 50 * b + i, item.id, CASE i WHEN 0 THEN 'lot' ELSE 'serial' END, CASE i WHEN 0 THEN 'BK${reached}-' || b END, CASE WHEN i > 0 THEN 'PK${reached}-' || b || '-' || i END, ${event} + 3 * b + CASE i WHEN 0 THEN 0 ELSE 1 END, date '2027-09-01'
				FROM generate_series(0, ${batches - 1}) b CROSS JOIN generate_series(0, 49) i JOIN item ON item.code = CASE i WHEN 0 THEN 'BULK' ELSE 'PACK' END;
			INSERT INTO run (id, code, event_id) OVERRIDING SYSTEM VALUE SELECT ${run} + 2 * b + e, 'T${reached}-' || b || CASE e WHEN 0 THEN '' ELSE '-P' END, ${event} + 3 * b + e FROM generate_series(0, ${batches - 1}) b CROSS JOIN generate_series(0, 1) e;
			INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, evidence)
				SELECT ${event} + 3 * b + e, ${when}, CASE i WHEN -1 THEN ${root} ELSE ${mark} + 50 * b + i END, 1, f.id, t.id, CASE WHEN e < 2 THEN ${run} + 2 * b + e END, CASE WHEN e < 2 THEN CASE i - e WHEN -1 THEN 'use' ELSE 'make' END END, 'scanned'
				FROM generate_series(0, ${batches - 1}) b CROSS JOIN generate_series(0, 2) e CROSS JOIN generate_series(-1, 49) i
				JOIN place f ON f.code = CASE e WHEN 2 THEN 'S3/B1' ELSE CASE i - e WHEN -1 THEN CASE e WHEN 0 THEN 'S1/B1' ELSE 'S2/B1' END ELSE '@process' END END
				JOIN place t ON t.code = CASE e WHEN 2 THEN '@customer' ELSE CASE i - e WHEN -1 THEN '@process' ELSE CASE e WHEN 0 THEN 'S2/B1' ELSE 'S3/B1' END END END
				WHERE (e = 0 AND i < 1) OR (e = 1 AND i >= 0) OR (e = 2 AND i BETWEEN 1 AND 24) ORDER BY 1, i`);
		[event, mark, run, at] = [event + 3 * batches, mark + reached, run + 2 * batches, at + 30 * batches];
	}
}
