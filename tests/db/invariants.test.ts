import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { Problem } from '../../src/lib/core/problem/problem.ts';
import { connect } from '../../src/lib/server/database/connect.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { appendChanges, setStatus } from '../../src/lib/server/ledger/changes.ts';
import { sealAll } from '../../src/lib/server/ledger/seal.ts';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { forwardAnswer } from '../traced.ts';
import { findingsOf, bookTest, ines, makeItems, testDatabase } from './cluster.ts';

const db = testDatabase();
const receive = (number: string, qty: number | string = 10, at = '2026-03-01T08:00:00Z', item = 'RAW1') =>
	bookTest(db.sql, {
		kind: 'receipt',
		at,
		partner: 'S1',
		movements: [{ item, lot: number, qty, from: '@supplier', to: 'QS/A1' }]
	});
const serial = (item: string, number: string, from: string, to: string) => ({ item, serial: number, qty: 1, from, to });
const ship = (number: string, qty: number | string, at = '2026-03-02T08:00:00Z') =>
	bookTest(db.sql, {
		kind: 'shipment',
		at,
		partner: 'C1',
		movements: [{ item: 'RAW1', lot: number, qty, from: 'QS/A1', to: '@customer' }]
	});
let corrections = 0;
const correct = async (from: string, to: string) => {
	const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${from}`;
	await appendChanges(
		db.sql,
		ines,
		{ key: `correct-${++corrections}`, kind: 'correct', reason: 'misread' },
		[id],
		async () => [{ mark: id, field: 'lot_no', value: to }]
	);
};
const count = async () => (await db.sql<{ n: number }[]>`SELECT count(*)::int AS n FROM event`)[0].n;
/** Runs what must be refused; gives the sentence, and makes sure that nothing was booked. */
async function refused(work: () => Promise<unknown>): Promise<string> {
	const before = await count();
	const error = await work().then(
		() => null,
		(e) => e
	);
	expect(error, 'was not refused').toBeInstanceOf(Problem);
	expect(await count()).toBe(before);
	return (error as Problem).message;
}
const code = (work: PromiseLike<unknown>) =>
	Promise.resolve(work).then(
		() => 'done',
		(e) => e.code ?? e.message
	);

describe('the ledger under attack', () => {
	it('is set up', async () => {
		await makeItems(db.sql);
		await createItem(db.sql, 'ines', {
			code: 'UNIQ',
			name: 'Unique',
			unit: 'each',
			tracking: 'serial',
			serialsUniqueEverywhere: true
		});
		for (const [code, contentQty] of [
			['SALT', '1'],
			['JAR1', '1'],
			['JAR2', '2']
		])
			await createItem(db.sql, 'ines', {
				code,
				name: code,
				unit: 'kg',
				decimals: code === 'SALT' ? 3 : 0,
				tracking: 'lot',
				contentQty,
				contentUnit: 'kg'
			});
		await receive('R-1', 10);
		await bookTest(db.sql, {
			kind: 'use',
			at: '2026-03-02T08:00:00Z',
			runs: [{ code: 'MO-1' }],
			movements: [{ item: 'RAW1', lot: 'R-1', qty: 4, from: 'QS/A1', to: '@process', run: 'MO-1', role: 'use' }]
		});
		await bookTest(db.sql, {
			kind: 'output',
			at: '2026-03-03T08:00:00Z',
			runs: [{ code: 'MO-1', closed: true }],
			movements: [{ item: 'BULK1', lot: 'B-1', qty: 4, from: '@process', to: 'QS/A2', run: 'MO-1', role: 'make' }]
		});
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'B-1'`;
		await setStatus(db.sql, ines, { key: 'hold-1', act: 'hold', mark: id, reason: 'looks odd' });
		await setStatus(db.sql, ines, { key: 'release-1', act: 'release', mark: id, reason: 'was the light' });
		await correct('R-1', 'R-2');
		await correct('R-2', 'R-1');
	});

	describe('I1: history is never changed', () => {
		it.each(['event', 'movement', 'run', 'run_closing', 'mark_change', 'mark_alias'])(
			'%s, by the application or by the owner',
			async (table) => {
				for (const statement of [
					`UPDATE ${table} SET event_id = event_id`,
					`DELETE FROM ${table}`,
					`TRUNCATE ${table} CASCADE`
				]) {
					const text = table === 'event' ? statement.replaceAll('event_id', 'note') : statement;
					expect(await code(db.sql.unsafe(text)), text).toBe('42501');
					expect(await code(db.owner.unsafe(text)), text).toBe('EM001');
				}
			}
		);
		it('a mark keeps its identity, and its facts without a recorded change', async () => {
			expect(await code(db.owner`UPDATE mark SET lot_no = 'X' WHERE number = 'R-1'`)).toBe('EM001');
			expect(await code(db.sql`UPDATE mark SET expires_on = '2030-01-01' WHERE number = 'R-1'`)).toBe('EM001');
			expect(await code(db.owner`UPDATE mark SET item_id = item_id + 1 WHERE number = 'R-1'`)).toBe('EM001');
			expect(await code(db.owner`DELETE FROM mark WHERE number = 'R-1'`)).toBe('EM001');
		});
		it('a fact changes only by an event that records it', async () => {
			expect(await code(db.sql`UPDATE mark SET facts = '{"X": "1"}' WHERE number = 'R-1'`)).toBe('EM001');
			expect(await code(db.owner`UPDATE mark SET supplier_serial = 'X' WHERE number = 'R-1'`)).toBe('EM001');
			expect((await db.sql`SELECT facts FROM mark WHERE number = 'R-1'`)[0].facts).toEqual({});
		});
		it('a place stays for good, and a movement names two that are there', async () => {
			expect(await code(db.sql`DELETE FROM place WHERE code = 'QS/A2'`)).toBe('42501');
			expect(await code(db.owner`DELETE FROM place WHERE code = 'QS/A2'`)).toBe('EM001');
			expect(await code(db.owner`UPDATE place SET id = DEFAULT WHERE code = 'QS/A2'`)).toBe('EM001');
			expect(await code(db.owner`TRUNCATE place CASCADE`)).toBe('EM001');
			const into = (
				from: string,
				to: string
			) => db.owner`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place)
				SELECT 1, now(), m.id, 1, ${from}::bigint, ${to}::bigint FROM mark m WHERE m.number = 'R-1'`;
			for (const [from, to] of [
				['1', '99999'],
				['99999', '1'],
				['99998', '99999']
			])
				expect(await code(into(from, to))).toBe('23503');
		});
		it('a file is kept as it is, however many lots and serials it belongs to', async () => {
			await db.sql`INSERT INTO stored_file (sha256, type, content, added_by) SELECT encode(sha256('x'), 'hex'), 'application/pdf', 'x', 'ines'`;
			const other = db.sql`INSERT INTO stored_file (sha256, type, content, added_by) VALUES (${'a'.repeat(64)}, 'application/pdf', 'x', 'ines')`;
			expect(await code(other)).toBe('23514');
			expect(await code(db.sql`UPDATE stored_file SET content = 'y'`)).toBe('42501');
			expect(await code(db.owner`UPDATE stored_file SET content = 'y'`)).toBe('EM001');
			expect(await code(db.owner`DELETE FROM stored_file`)).toBe('EM001');
			expect(
				await code(
					db.sql`INSERT INTO mark_file (mark_id, name, sha256, added_by) SELECT id, 'x', ${'b'.repeat(64)}, 'ines' FROM mark LIMIT 1`
				)
			).toBe('23503');
		});
		it('what marks, runs and movements name is there, and stays', async () => {
			const mark = (item: string, parent: string) =>
				db.sql`INSERT INTO mark (item_id, kind, serial_no, parent_id, event_id) SELECT ${item}::bigint, 'serial', 'LOOSE-1', ${parent}::bigint, nextval('event_id')`;
			const [{ id }] = await db.sql<{ id: string }[]>`SELECT item_id AS id FROM mark WHERE number = 'R-1'`;
			expect(await code(mark('99999', '1'))).toBe('23503');
			expect(await code(mark(id, '99999999'))).toBe('23503');
			// Of an event that never comes.
			expect(
				await code(
					db.sql`INSERT INTO mark (item_id, kind, serial_no, event_id) SELECT ${id}, 'serial', 'LOOSE-2', nextval('event_id')`
				)
			).toBe('23503');
			expect(
				await code(db.sql`INSERT INTO run (code, unit_mark, event_id) SELECT 'LOOSE', 99999999, nextval('event_id')`)
			).toBe('23503');
			expect(
				await code(db.sql`INSERT INTO run (code, order_id, event_id) SELECT 'LOOSE', 99999999, nextval('event_id')`)
			).toBe('23503');
			expect(
				await code(
					db.sql`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role) SELECT nextval('event_id'), now(), id, 1, 1, 2, 99999999, 'use' FROM mark LIMIT 1`
				)
			).toBe('23503');
			expect(await code(db.owner`DELETE FROM item WHERE id = ${id}`)).toBe('23503');
			expect((await db.owner`SELECT 1 FROM unfinished_event`).length).toBe(0);
		});
		it('nothing is written past book(): no balance, no head, no loose movement, no empty event', async () => {
			expect(await code(db.sql`UPDATE balance SET qty = 99`)).toBe('42501');
			const change = (sql: typeof db.sql) => code(sql`UPDATE former_chain SET hash = 'x'`);
			expect([await change(db.sql), await change(db.owner)]).toEqual(['42501', 'EM001']);
			expect(
				await code(
					db.sql`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place) SELECT 999, now(), id, 1, 1, 2 FROM mark LIMIT 1`
				)
			).toBe('23503');
			expect(
				await code(
					db.sql`INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source) SELECT nextval('event_id'), 'loose', 'move', now(), now(), 'x', 'api'`
				)
			).toBe('EM008');
		});
		it('an event is whole: nothing is added to it, and its leaf and its record are nobody’s to write', async () => {
			for (const sql of [db.sql, db.owner]) {
				const late = [
					sql`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place) SELECT 1, now(), id, 1, 1, 2 FROM mark LIMIT 1`,
					sql`INSERT INTO mark (item_id, kind, lot_no, event_id) SELECT item_id, 'lot', 'LATE', 1 FROM mark LIMIT 1`,
					sql`INSERT INTO run (code, event_id) VALUES ('LATE', 1)`,
					sql`INSERT INTO mark_alias (mark_id, number, event_id) SELECT id, 'LATE', 1 FROM mark LIMIT 1`,
					sql`INSERT INTO mark_change (event_id, mark_id, field, new) SELECT 1, id, 'status', 'held' FROM mark LIMIT 1`
				];
				for (const insert of late) expect(await code(insert)).toBe('EM001');
			}
			await sealAll(db.sql);
			for (const table of ['row_version', 'ledger_leaf', 'ledger_node']) {
				expect(await code(db.sql.unsafe(`DELETE FROM ${table}`))).toBe('42501');
				expect(await code(db.owner.unsafe(`DELETE FROM ${table}`))).toBe('EM001');
				expect(await code(db.owner.unsafe(`TRUNCATE ${table} CASCADE`))).toBe('EM001');
				expect(await code(db.sql.unsafe(`INSERT INTO ${table} DEFAULT VALUES`))).toBe('42501');
			}
			expect(await code(db.sql`DELETE FROM seal_queue`)).toBe('42501');
		});
	});

	it('I3: of two who ship the last piece at once, one is told who took it and when', async () => {
		await receive('LAST', 1);
		const other = connect(db.url, 'app', 2);
		const rhea = { ...ines, name: 'rhea' };
		const event = (key: string) => ({
			key,
			kind: 'shipment',
			at: '2026-03-02T09:00:00Z',
			document: `SO-${key}`,
			partner: 'C1',
			movements: [{ item: 'RAW1', lot: 'LAST', qty: 1, from: 'QS/A1', to: '@customer' }]
		});
		const opts = { create: { partners: true } };
		const both = await Promise.allSettled([
			book(db.sql, ines, event('last-a'), opts),
			book(other, rhea, event('last-b'), opts)
		]);
		await other.end();
		expect(both.map((r) => r.status).sort()).toEqual(['fulfilled', 'rejected']);
		const winner = both[0].status === 'fulfilled' ? ['ines', 'SO-last-a'] : ['rhea', 'SO-last-b'];
		const lost = both.find((r) => r.status === 'rejected')!.reason as Problem;
		expect(lost.message).toContain(`${winner[0]} took from it on `);
		expect(lost.message).toContain(winner[1]);
	});
	it('I3: less than nothing is refused by the database itself', async () => {
		await receive('ZERO', 1);
		expect(
			await code(db.owner`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place)
			SELECT 999, now(), m.id, 5, p.id, 2 FROM mark m, place p WHERE m.number = 'ZERO' AND p.code = 'QS/A1'`)
		).toBe('23514');
		expect(await refused(() => ship('ZERO', '1.001'))).toContain('Lot ZERO: 1 kg at QS/A1, 1.001 asked for.');
	});

	it('I4: a serial is one piece in one place', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: [{ ...serial('CELL', 'S-1', '@supplier', 'QS/A1'), lot: 'L-1' }]
		});
		const again = { ...serial('CELL', 'S-1', '@supplier', 'QS/A2'), lot: 'L-1' };
		expect(await refused(() => bookTest(db.sql, { kind: 'receipt', partner: 'S1', movements: [again] }))).toContain(
			'Serial S-1 is already on hand at QS/A1 since 1 Mar 2026.'
		);
		expect(
			await refused(() =>
				bookTest(db.sql, { kind: 'move', movements: [{ ...serial('CELL', 'S-1', 'QS/A1', 'QS/A2'), qty: 2 }] })
			)
		).toContain('is one piece; 2 were given');
		expect(
			await refused(() =>
				bookTest(db.sql, {
					kind: 'move',
					movements: [serial('CELL', 'S-1', 'QS/A1', 'QS/A2'), serial('CELL', 'S-1', 'QS/A1', 'QS/A3')]
				})
			)
		).toContain('stands here twice');
		expect(
			await code(db.owner`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place)
			SELECT 999, now(), m.id, 1, s.id, p.id FROM mark m, place s, place p WHERE m.number = 'S-1' AND s.code = '@adjust' AND p.code = 'QS/A2'`)
		).toBe('23505');
	});

	it('I5: a number stands for one mark, also when two make it at once', async () => {
		expect(
			await code(
				db.owner`INSERT INTO mark (item_id, kind, lot_no, event_id) SELECT item_id, 'lot', lot_no, 1 FROM mark WHERE number = 'R-1'`
			)
		).toBe('23505');
		expect(
			await code(
				db.owner`INSERT INTO mark (item_id, kind, serial_no, event_id) SELECT item_id, 'serial', serial_no, 1 FROM mark WHERE number = 'S-1'`
			)
		).toBe('23505');
		const make = (item: string) =>
			bookTest(db.sql, { kind: 'receipt', partner: 'S1', movements: [serial(item, 'EVERY-1', '@supplier', 'QS/A1')] });
		const both = await Promise.allSettled([make('UNIQ'), make('METER')]);
		expect(both.map((r) => r.status).sort()).toEqual(['fulfilled', 'rejected']);
		expect((both.find((r) => r.status === 'rejected')!.reason as Problem).message).toContain('EVERY-1');
	});

	it('I6: a number that the rule requires cannot be left out, one that it asks for only with a reason', async () => {
		const bare = {
			kind: 'receipt',
			partner: 'S1',
			movements: [{ item: 'RAW1', qty: 3, from: '@supplier', to: 'QS/A1' }]
		};
		expect(await refused(() => bookTest(db.sql, bare))).toContain(
			'RAW1 needs a lot at receipt. Scan or type it from the label.'
		);
		await db.owner`UPDATE marking_rule SET lot = 'asked' WHERE step = 'receipt' AND item_id = (SELECT id FROM item WHERE code = 'RAW1')`;
		expect(await refused(() => bookTest(db.sql, bare))).toContain('or say why there is none');
		await bookTest(db.sql, { ...bare, reason: 'label torn off' });
		await db.owner`UPDATE marking_rule SET lot = 'required', since = now() WHERE step = 'receipt' AND item_id = (SELECT id FROM item WHERE code = 'RAW1')`;
	});

	it('I7: repacking conserves content; a loss is recorded as one', async () => {
		await receive('SALT-1', 10, undefined, 'SALT');
		const repack = (n: number, use: number, ones: number, twos: number, loss = 0, reason?: string) =>
			bookTest(db.sql, {
				kind: 'repack',
				at: '2026-03-04T08:00:00Z',
				runs: [{ code: `RP-${n}` }],
				movements: [
					{ item: 'SALT', lot: 'SALT-1', qty: use, from: 'QS/A1', to: '@process', run: `RP-${n}`, role: 'use' },
					...(ones
						? [
								{
									item: 'JAR1',
									lot: 'SALT-1',
									qty: ones,
									from: '@process',
									to: 'QS/A2',
									run: `RP-${n}`,
									role: 'make' as const
								}
							]
						: []),
					...(twos
						? [
								{
									item: 'JAR2',
									lot: 'SALT-1',
									qty: twos,
									from: '@process',
									to: 'QS/A2',
									run: `RP-${n}`,
									role: 'make' as const
								}
							]
						: []),
					...(loss
						? [
								{
									...{ item: 'SALT', lot: 'SALT-1', qty: loss, from: '@process', to: '@scrap' },
									...{ run: `RP-${n}`, role: 'make' as const }
								}
							]
						: [])
				],
				reason
			});
		expect(await refused(() => repack(1, 3, 1, 0))).toMatch(/3 kg.*1 kg|3.*1/);
		await repack(2, 3, 1, 1);
		await db.owner`UPDATE item SET loss_tolerance = 2 WHERE code = 'SALT'`;
		expect(await refused(() => repack(3, 5, 0, 2, 1))).toContain('1 kg lost, 20 %, where 2 % are usual: say why');
		expect(await refused(() => repack(3, 1, 0, 0, 1, 'Spilled'))).toContain('Nothing comes out in run RP-3');
		await repack(3, 5, 0, 2, 1, 'The sack was torn');
	});

	it('I8: the same key books once, also in parallel', async () => {
		const event = {
			key: 'once',
			kind: 'receipt',
			at: '2026-03-05T08:00:00Z',
			partner: 'S1',
			movements: [{ item: 'RAW1', lot: 'ONCE', qty: 1, from: '@supplier', to: 'QS/A1' }]
		};
		const results = await Promise.all(Array.from({ length: 6 }, () => book(db.sql, ines, event)));
		expect(new Set(results.map((r) => r.id)).size).toBe(1);
		expect(results.filter((r) => !r.again)).toHaveLength(1);
		const [{ qty }] = await db.sql<
			{ qty: string }[]
		>`SELECT sum(b.qty)::text AS qty FROM balance b JOIN mark m ON m.id = b.mark_id WHERE m.number = 'ONCE' AND NOT b.virtual`;
		expect(qty).toBe('1');
		await refused(() => book(db.sql, ines, { ...event, key: '' }));
		expect(
			await code(
				db.owner`INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source) SELECT nextval('event_id'), 'nobody', 'hold', now(), now(), '', 'api'`
			)
		).toBe('23514');
	});

	it('I10: an undo mirrors the whole event once, stays out of the trace and in the history', async () => {
		await receive('UNDO-R', 5);
		await bookTest(db.sql, {
			kind: 'shipment',
			key: 'undo-me',
			at: '2026-03-02T08:00:00Z',
			partner: 'C1',
			movements: [{ item: 'RAW1', lot: 'UNDO-R', qty: 2, from: 'QS/A1', to: '@customer' }]
		});
		const undo = (key: string, undoes = 'undo-me') =>
			book(db.sql, ines, { key, kind: 'undo', at: '2026-03-03T08:00:00Z', undoes, reason: 'wrong customer' });
		await undo('undo-1');
		const trace = (await forwardAnswer(db.sql, { item: 'RAW1', lot: 'UNDO-R' }, {}))!;
		expect(trace.where.map((w) => w.state)).toEqual(['on hand']);
		const [{ n }] = await db.sql<
			{ n: number }[]
		>`SELECT count(*)::int AS n FROM movement m JOIN mark k ON k.id = m.mark_id WHERE k.number = 'UNDO-R'`;
		expect(n).toBe(3);
		expect(await refused(() => undo('undo-2'))).toContain('undid this already, on');
		expect(await refused(() => undo('undo-3', 'undo-1'))).toContain('An undo cannot be undone');
		expect(await refused(() => undo('undo-4', 'never'))).toContain('no event with the key never');
		// A half undo, written past book() by the owner, is refused by the database.
		await receive('UNDO-H', 5);
		const half = db.owner.begin(async (tx) => {
			const [{ next, last }] = await tx<
				{ next: string; last: string }[]
			>`SELECT nextval('event_id') AS next, max(id) AS last FROM event`;
			await tx`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, mirrors)
				SELECT ${next}, '2026-03-09', mark_id, 1, to_place, from_place, id FROM movement WHERE event_id = ${last}`;
			await tx`INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, undoes) VALUES (${next}, 'half', 'undo', '2026-03-09', now(), 'x', 'api', ${last})`;
		});
		expect(await code(half)).toBe('EM010');
	});
	it('I10: what has moved on must be undone first', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			key: 'undo-r2',
			at: '2026-03-01T08:00:00Z',
			partner: 'S1',
			movements: [{ item: 'RAW1', lot: 'UNDO-R2', qty: 5, from: '@supplier', to: 'QS/A1' }]
		});
		await ship('UNDO-R2', 3);
		expect(
			await refused(() =>
				book(db.sql, ines, { key: 'u-r2', kind: 'undo', at: '2026-03-05T08:00:00Z', undoes: 'undo-r2' })
			)
		).toMatch(
			/^UNDO-R2: 5 came to QS\/A1 and 2 are left there\. shipment took from it on 2 Mar 2026 08:00 \(event \d+\)\. Undo what took it first, or book an adjustment that names event \d+ as the one it mends\.$/
		);
	});

	it('I11: nothing is used, moved or shipped before it was there; both dates are named', async () => {
		await receive('EARLY', 5, '2026-04-10T08:00:00Z');
		const message = await refused(() => ship('EARLY', 1, '2026-04-09T08:00:00Z'));
		expect(message).toContain('9 Apr 2026');
		expect(message).toContain('10 Apr 2026');
		await ship('EARLY', 3, '2026-04-20T08:00:00Z');
		// Back-dated between: 3 of 5 leave later, so only 2 may leave before.
		expect(await refused(() => ship('EARLY', '2.5', '2026-04-15T08:00:00Z'))).toContain('EARLY');
		await ship('EARLY', 2, '2026-04-15T08:00:00Z');
		expect(
			await refused(() =>
				bookTest(db.sql, {
					kind: 'receipt',
					partner: 'S1',
					at: '2999-01-01T00:00:00Z',
					movements: [{ item: 'RAW1', lot: 'F', qty: 1, from: '@supplier', to: 'QS/A1' }]
				})
			)
		).toContain('is in the future');
	});

	it('I11: an undo that would leave something shipped before it came says what, where and when', async () => {
		const first = { item: 'RAW1', lot: 'U-EARLY', from: '@supplier', to: 'QS/A1' };
		const came = { kind: 'receipt', partner: 'S1' } as const;
		await bookTest(db.sql, { ...came, key: 'u-early', at: '2026-04-01T08:00:00Z', movements: [{ ...first, qty: 3 }] });
		await bookTest(db.sql, { ...came, at: '2026-04-05T08:00:00Z', movements: [{ ...first, qty: 5 }] });
		await ship('U-EARLY', 2, '2026-04-03T08:00:00Z');
		const undo = { key: 'u-early-undo', kind: 'undo', at: '2026-06-01T08:00:00Z', undoes: 'u-early' };
		const wrong = await book(db.sql, ines, undo as never).catch((e) => e);
		expect(wrong).toBeInstanceOf(Problem);
		expect(wrong.message).toContain(
			'U-EARLY arrived at QS/A1 on 5 Apr 2026 09:00; it cannot leave there on 3 Apr 2026 09:00'
		);
		// Where some of it had come in time, it says how much was missing.
		await bookTest(db.sql, { ...came, at: '2026-04-02T08:00:00Z', movements: [{ ...first, qty: 1 }] });
		const short = await book(db.sql, ines, { ...undo, key: 'u-early-again' } as never).catch((e) => e);
		expect(short).toBeInstanceOf(Problem);
		expect(short.message).toContain(
			'U-EARLY: less than 2 stood at QS/A1 on 3 Apr 2026 09:00 (first arrival 2 Apr 2026 09:00)'
		);
	});

	it('a crash between the lines of an event leaves nothing of it, and the next booking works', async () => {
		const other = connect(db.url, 'app', 1);
		const before = await db.sql`SELECT max(id) AS last, count(*) AS n FROM event`;
		const crash = book(
			other,
			ines,
			{
				key: 'crash',
				kind: 'receipt',
				at: '2026-03-05T08:00:00Z',
				movements: [{ item: 'RAW1', lot: 'CRASH', qty: 1, from: '@supplier', to: 'QS/A1' }]
			},
			{
				after: async (tx) => {
					expect(
						await tx`SELECT 1 FROM movement m JOIN mark k ON k.id = m.mark_id WHERE k.number = 'CRASH'`
					).toHaveLength(1);
					const [{ pid }] = await tx<{ pid: number }[]>`SELECT pg_backend_pid() AS pid`;
					await db.owner`SELECT pg_terminate_backend(${pid})`;
					await tx`SELECT 1`;
				}
			}
		);
		await expect(crash).rejects.toThrow();
		await other.end({ timeout: 1 });
		expect(await db.sql`SELECT max(id) AS last, count(*) AS n FROM event`).toEqual(before);
		expect(await db.sql`SELECT 1 FROM mark WHERE number = 'CRASH'`).toHaveLength(0);
		await receive('AFTER-CRASH', 1);
	});

	it('a connection that ends once in a booking is opened again, and the event is booked once', async () => {
		const other = connect(db.url, 'app', 1);
		let ended = 0;
		const booked = await book(
			other,
			ines,
			{
				key: 'ended-once',
				kind: 'receipt',
				at: '2026-03-05T08:00:00Z',
				movements: [{ item: 'RAW1', lot: 'ENDED-ONCE', qty: 1, from: '@supplier', to: 'QS/A1' }]
			},
			{
				after: async (tx) => {
					if (ended++) return;
					const [{ pid }] = await tx<{ pid: number }[]>`SELECT pg_backend_pid() AS pid`;
					await db.owner`SELECT pg_terminate_backend(${pid})`;
					await tx`SELECT 1`;
				}
			}
		);
		await other.end({ timeout: 1 });
		expect(booked).toMatchObject({ again: false, movements: 1 });
		expect(await db.sql`SELECT 1 FROM event WHERE key = 'ended-once'`).toHaveLength(1);
		expect(await findingsOf(db.sql)).toEqual([]);
	});

	it('connections that end under load lose nothing and book nothing twice', async () => {
		const pool = connect(db.url, 'app', 4);
		let going = true;
		const ending = (async () => {
			while (going) {
				await db.owner`
					SELECT pg_terminate_backend(pid) FROM pg_stat_activity
					WHERE datname = current_database() AND application_name = 'earmark' AND pid <> pg_backend_pid()
						AND usename = current_user AND state <> 'idle' ORDER BY random() LIMIT 1`.catch(() => {});
				await new Promise((done) => setTimeout(done, 60));
			}
		})();
		const keys = Array.from({ length: 40 }, (_, i) => `load-${i}`);
		const once = (key: string) =>
			book(pool, ines, {
				key,
				kind: 'receipt',
				at: '2026-03-05T08:00:00Z',
				partner: 'S1',
				movements: [{ item: 'RAW1', lot: key.toUpperCase(), qty: 1, from: '@supplier', to: 'QS/A1' }]
			});
		const answers = await Promise.allSettled(keys.map(once));
		going = false;
		await ending;
		// Whoever was told that it failed asks again with the same key, as every door does.
		for (const [i, answer] of answers.entries()) if (answer.status === 'rejected') await once(keys[i]);
		await pool.end({ timeout: 1 });
		const [{ events, pieces }] = await db.sql<{ events: number; pieces: string }[]>`
			SELECT count(DISTINCT e.id)::int AS events, sum(m.qty)::text AS pieces
			FROM event e JOIN movement m ON m.event_id = e.id WHERE e.key LIKE 'load-%'`;
		expect(events).toBe(40);
		expect(Number(pieces)).toBe(40);
		expect(await findingsOf(db.sql)).toEqual([]);
	});

	it('a held lot cannot be used or shipped, an expired one only with a reason', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			at: '2026-03-01T08:00:00Z',
			partner: 'S1',
			movements: [{ item: 'RAW1', lot: 'OLD', qty: 5, from: '@supplier', to: 'QS/A1', expiresOn: '2026-03-10' }]
		});
		expect(await refused(() => ship('OLD', 1, '2026-03-11T08:00:00Z'))).toContain('Lot OLD expired on 10 Mar 2026.');
		await bookTest(db.sql, {
			kind: 'shipment',
			at: '2026-03-11T08:00:00Z',
			partner: 'C1',
			reason: 'agreed with the customer',
			movements: [{ item: 'RAW1', lot: 'OLD', qty: 1, from: 'QS/A1', to: '@customer' }]
		});
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'OLD'`;
		await setStatus(db.sql, ines, { key: 'hold-old', act: 'hold', mark: id, reason: 'asked for' });
		expect(await refused(() => ship('OLD', 1, '2026-03-09T08:00:00Z'))).toContain('Lot OLD is on hold and stays here.');
	});

	it('one event with 10,000 serials takes as many statements as one with ten', async () => {
		const statements = async (n: number) => {
			let seen = 0;
			const sql = connect(db.url, 'app', 1, () => seen++);
			await book(sql, ines, {
				key: `many-${n}`,
				kind: 'receipt',
				at: '2026-03-05T08:00:00Z',
				partner: 'S1',
				movements: Array.from({ length: n }, (_, i) => ({
					...serial('CELL', `M${n}-${i}`, '@supplier', 'QS/A1'),
					lot: `M${n}`
				}))
			});
			await sql.end();
			return seen;
		};
		expect(await statements(10_000)).toBe(await statements(10));
	});

	it('I2: whatever is tried, the balances are the sums of the movements, and every invariant holds', async () => {
		const act = fc.record({
			lot: fc.constantFrom('P1', 'P2'),
			what: fc.constantFrom('receive', 'move', 'back', 'ship', 'return', 'undo'),
			qty: fc.integer({ min: 1, max: 6 }),
			day: fc.integer({ min: 1, max: 28 })
		});
		let n = 0;
		const ways: Record<string, [string, string, string]> = {
			receive: ['receipt', '@supplier', 'QS/A1'],
			move: ['move', 'QS/A1', 'QS/A2'],
			back: ['move', 'QS/A2', 'QS/A1'],
			ship: ['shipment', 'QS/A2', '@customer'],
			return: ['return', '@customer', 'QS/A1']
		};
		await fc.assert(
			fc.asyncProperty(fc.array(act, { minLength: 5, maxLength: 14 }), async (acts) => {
				const keys: string[] = [];
				const round = n++;
				for (const a of acts) {
					const key = `prop-${round}-${keys.length}-${Math.random()}`;
					const at = `2026-05-${String(a.day).padStart(2, '0')}T08:00:00Z`;
					const event =
						a.what === 'undo'
							? {
									key,
									kind: 'undo',
									at: '2026-06-01T08:00:00Z',
									undoes: keys[a.qty % Math.max(1, keys.length)] ?? 'none'
								}
							: {
									key,
									kind: ways[a.what][0],
									at,
									partner: 'S1',
									movements: [
										{ item: 'RAW2', lot: `${a.lot}-${round}`, qty: a.qty, from: ways[a.what][1], to: ways[a.what][2] }
									]
								};
					await book(db.sql, ines, event as never, { create: { places: true } }).then(
						() => keys.push(key),
						(e) => expect(e).toBeInstanceOf(Problem)
					);
				}
			}),
			{ numRuns: 12 }
		);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
