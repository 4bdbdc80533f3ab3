import type { Sql } from '../../src/lib/server/database/connect.ts';
import { allocationFor } from '../../src/lib/server/stock/allocations.ts';
import { inTurn, ms } from './measure.ts';

/** How many lots of one item lie there. */
const LOTS = 100_000;

/** Many lots of one item, in a hundred bins, each with its own expiry; one in fifty is held. Written in bulk past the doors. */
async function makeLots(owner: Sql): Promise<void> {
	await owner.unsafe(`
		INSERT INTO item (code, name, unit, decimals, tracking) VALUES ('MANY', 'Many lots', 'kg', 3, 'lot');
		INSERT INTO place (code, name) VALUES ('QS', 'Works');
		INSERT INTO place (code, name, site_id) SELECT 'QS/B' || n, 'Bin ' || n, s.id FROM place s CROSS JOIN generate_series(1, 100) n WHERE s.code = 'QS';
`);
	const tables = ['event', 'mark', 'movement'];
	for (const t of tables) await owner.unsafe(`ALTER TABLE ${t} DISABLE TRIGGER USER`);
	await owner.unsafe(`
		INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source) SELECT 1, 'many', 'receipt', t, t, 'bench', 'import' FROM (SELECT timestamptz '2026-01-01' AS t) x;
		INSERT INTO mark (id, item_id, kind, lot_no, event_id, expires_on, status) OVERRIDING SYSTEM VALUE
			SELECT n, i.id, 'lot', 'L' || n, 1, date '2027-06-01' + (n * 7919 % 900), CASE WHEN n % 50 = 0 THEN 'held' ELSE 'released' END FROM item i CROSS JOIN generate_series(1, ${LOTS}) n;
		INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, evidence)
			SELECT 1, timestamptz '2026-01-01', n, 7.5, f.id, t.id, 'scanned' FROM generate_series(1, ${LOTS}) n JOIN place f ON f.code = '@supplier' JOIN place t ON t.code = 'QS/B' || 1 + n % 100 ORDER BY n;
		INSERT INTO balance SELECT m.mark_id, m.to_place, m.qty, false, false FROM movement m`);
	for (const t of tables) await owner.unsafe(`ALTER TABLE ${t} ENABLE TRIGGER USER`);
	await owner.unsafe('VACUUM ANALYZE');
}

/** Makes the lots, and measures what would be taken of them beside the bare read of the same picks. */
export async function measureStock(sql: Sql, owner: Sql): Promise<void> {
	await makeLots(owner);
	const [{ id }] = await sql<{ id: string }[]>`SELECT id FROM item WHERE code = 'MANY'`;
	const answer = (qty: number) =>
		allocationFor(sql, { item: 'MANY', qty: String(qty), purpose: 'shipment', site: 'QS' });
	// What goes, in the order in which it is taken: by expiry, then as it came, then by number as people count.
	const bare = () => sql`
		SELECT k.id AS mark, k.lot_no AS number, k.expires_on AS "expiresOn", p.code AS place, b.qty::text AS qty FROM mark k JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual
		JOIN place p ON p.id = b.place_id JOIN event e ON e.id = k.event_id WHERE k.item_id = ${id} AND k.status = 'released' ORDER BY k.expires_on, e.at, k.number COLLATE natural_order`;
	const [all, some, read] = await inTurn(3, [() => answer(LOTS * 7.5), () => answer(75), bare]);
	const { picks, leftOut } = await answer(LOTS * 7.5);
	console.log(
		`allocation over ${LOTS} lots of one item: all of it ${ms(all)} (${picks.length} picks, ${leftOut.length} left out), ten lots ${ms(some)}; the bare read of its picks in their order ${ms(read)} (wanted: at most 3 times, ${ms(3 * read)})`
	);
}
