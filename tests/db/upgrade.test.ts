import { cpSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { connect } from '../../src/lib/server/database/connect.ts';
import { migrate } from '../../src/lib/server/database/migrate.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { guardsAsDelivered } from '../../src/lib/server/ledger/guards.ts';
import { entriesFrom, sealAll } from '../../src/lib/server/ledger/seal.ts';
import { verify } from '../../src/lib/server/ledger/verify.ts';
import { findingsOf, ines, testDatabase } from './cluster.ts';

const db = testDatabase();

it('a ledger that was sealed as a chain of hashes becomes entries of the tree, and what it proved stays provable', async () => {
	const old = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
	const url = new URL(db.url);
	url.pathname += '_old';
	for (const file of readdirSync('db/migrations').filter((f) => f < '0007'))
		cpSync(`db/migrations/${file}`, join(old, file));
	await migrate(url.href, old);
	const owner = connect(url.href, 'owner', 1);
	const sql = connect(url.href, 'app', 4);
	try {
		// As events were written then: the row last, sealed by its trigger into the chain.
		await owner.unsafe(`
			INSERT INTO partner (code, name, kind) VALUES ('S1', 'S1', 'supplier');
			INSERT INTO item (code, name, unit, decimals, tracking) VALUES ('RAW', 'Raw', 'kg', 3, 'lot');
			INSERT INTO place (code, name) VALUES ('QS', 'QS'); INSERT INTO place (code, name, site_id) SELECT 'QS/A1', 'A1', id FROM place WHERE code = 'QS';
			INSERT INTO person (login, name, role, password_hash) VALUES ('ines', 'Ines', 'coordinator', 'x')`);
		const event = (id: number, more: string, row: string) =>
			owner.begin(async (tx) => {
				await tx.unsafe(more);
				await tx.unsafe(
					`INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, partner_id, reason, prev_hash, hash) SELECT ${id}, 'old-${id}', ${row}, now(), 'ines', 'screen', p.id, 'because', '', '' FROM partner p`
				);
			});
		await event(
			1,
			`INSERT INTO mark (item_id, kind, lot_no, event_id) SELECT id, 'lot', 'A-1', 1 FROM item;
			INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place) SELECT 1, '2026-01-05', k.id, 5, f.id, t.id FROM mark k, place f, place t WHERE f.code = '@supplier' AND t.code = 'QS/A1'`,
			`'receipt', '2026-01-05'`
		);
		await event(
			2,
			`INSERT INTO mark_change (event_id, mark_id, field, old, new) SELECT 2, id, 'lot_no', 'A-1', 'A-2' FROM mark;
			INSERT INTO mark_alias (mark_id, number, event_id) SELECT id, 'A-1', 2 FROM mark; UPDATE mark SET lot_no = 'A-2'`,
			`'correct', '2026-01-06'`
		);
		const [{ hash }] = await owner<{ hash: string }[]>`SELECT hash FROM ledger_head`;

		await migrate(url.href);
		const entries = await sealAll(sql).then((n) => entriesFrom(sql, 0, n));
		const events = entries.map((e) => JSON.parse(e.entry)).filter((e) => e.kind !== 'record');
		expect(events.map((e) => [e.event, e.key])).toEqual([
			['1', 'old-1'],
			['2', 'old-2']
		]);
		expect(events[1].chain).toBe(hash);
		expect(events[0].movements[0]).toMatchObject({ item: 'RAW', lot: 'A-1', qty: '5' });
		expect(events[1].changes[0]).toMatchObject({ old: 'A-1', new: 'A-2' });
		expect(await findingsOf(sql)).toEqual([]);
		expect((await verify(owner, { guards: await guardsAsDelivered(url.href) })).findings).toEqual([]);

		// Work goes on, with numbers after the old ones and without a chain.
		const next = await book(sql, ines, {
			...{ key: 'new', kind: 'move', at: '2026-01-07T00:00:00Z' },
			movements: [{ item: 'RAW', lot: 'A-2', qty: '1', from: 'QS/A1', to: 'QS' }]
		});
		expect(Number(next.id)).toBe(3);
		expect(await findingsOf(sql)).toEqual([]);
		expect(await owner`SELECT hash FROM event WHERE id = 3`).toMatchObject([{ hash: null }]);

		// What the chain said of its events is looked at for good.
		await owner.unsafe(
			`ALTER TABLE event DISABLE TRIGGER USER; UPDATE event SET reason = 'another' WHERE id = 2; ALTER TABLE event ENABLE TRIGGER USER`
		);
		expect((await findingsOf(sql)).map((f) => f.what)).toContain('event 2: reason is another, was booked as because');
		expect((await findingsOf(sql)).find((f) => f.table === 'event')!.count).toBe(2);
	} finally {
		await owner.end();
		await sql.end();
		rmSync(old, { recursive: true, force: true });
	}
});

it('a migration that reads otherwise than when it was applied is named, and changes nothing', async () => {
	const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
	const url = new URL(db.url);
	url.pathname += '_edited';
	writeFileSync(join(folder, '0001_first.sql'), 'CREATE TABLE first (n integer)');
	await migrate(url.href, folder);
	const owner = connect(url.href, 'owner', 1);
	try {
		// Before hashes were kept: the text of today is taken for the one that was applied.
		await owner`UPDATE migration SET hash = NULL`;
		await migrate(url.href, folder);
		const [{ hash }] = await owner<{ hash: string | null }[]>`SELECT hash FROM migration`;
		expect(hash).toMatch(/^[0-9a-f]{64}$/);
		writeFileSync(join(folder, '0001_first.sql'), 'CREATE TABLE first (n bigint)');
		writeFileSync(join(folder, '0002_second.sql'), 'CREATE TABLE second (n integer)');
		await expect(migrate(url.href, folder)).rejects.toThrow(
			'0001_first.sql reads otherwise than when it was applied to this database.'
		);
		expect(await owner`SELECT to_regclass('second') AS made`).toMatchObject([{ made: null }]);
	} finally {
		await owner.end();
		rmSync(folder, { recursive: true, force: true });
	}
});
