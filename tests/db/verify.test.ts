import { beforeAll, describe, expect, it } from 'vitest';
import { EVENT_KINDS, ROLES } from '../../src/lib/core/ledger/events.ts';
import { VIRTUAL_PLACES } from '../../src/lib/core/ledger/places.ts';
import { stepOf } from '../../src/lib/core/ledger/steps.ts';
import { connect, type Tx } from '../../src/lib/server/database/connect.ts';
import { appendChanges, setStatus } from '../../src/lib/server/ledger/changes.ts';
import { guardsAsDelivered, guardsOf, type Guards } from '../../src/lib/server/ledger/guards.ts';
import { headNow, sealAll } from '../../src/lib/server/ledger/seal.ts';
import { verify, type VerifyOptions } from '../../src/lib/server/ledger/verify.ts';
import { addPlace } from '../../src/lib/server/setup/places.ts';
import { bookTest, findingsOf, ines, makeItems, testDatabase } from './cluster.ts';

const db = testDatabase();

beforeAll(async () => {
	await makeItems(db.sql);
	const cell = (serial: string) => ({ item: 'CELL', lot: 'C-LOT', serial, qty: 1, from: '@supplier', to: 'QS/A1' });
	await bookTest(db.sql, {
		key: 'in',
		kind: 'receipt',
		at: '2026-03-01T08:00:00Z',
		partner: 'S1',
		movements: [
			{ item: 'RAW1', lot: 'R-1', qty: '10', from: '@supplier', to: 'QS/A1' },
			{ item: 'CAP', qty: '10', from: '@supplier', to: 'QS/A1' },
			...['C-1', 'C-2'].map(cell)
		]
	});
	await bookTest(db.sql, {
		kind: 'shipment',
		at: '2026-03-02T08:00:00Z',
		partner: 'C1',
		movements: [{ item: 'RAW1', lot: 'R-1', qty: '4', from: 'QS/A1', to: '@customer' }]
	});
	await bookTest(db.sql, {
		key: 'moved',
		kind: 'move',
		at: '2026-03-03T08:00:00Z',
		movements: [{ item: 'RAW1', lot: 'R-1', qty: '2', from: 'QS/A1', to: 'QS/A2' }]
	});
	await bookTest(db.sql, { kind: 'undo', at: '2026-03-04T08:00:00Z', undoes: 'moved', reason: 'for the test' });
	await bookTest(db.sql, {
		kind: 'repack',
		at: '2026-03-05T08:00:00Z',
		runs: [{ code: 'RP', planned: '1' }],
		movements: [
			{ item: 'RAW1', lot: 'R-1', qty: '1', from: 'QS/A1', to: '@process', run: 'RP', role: 'use' },
			{ item: 'PACK', lot: 'P-1', qty: '1', from: '@process', to: 'QS/A1', run: 'RP', role: 'make' }
		]
	});
	await db.owner`UPDATE item SET content_qty = 1, content_unit = 'kg' WHERE code IN ('RAW1', 'PACK')`;
	const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'P-1'`;
	await setStatus(db.sql, ines, { key: 'looked', act: 'hold', mark: id, reason: 'to look at' });
	await bookTest(db.sql, { kind: 'output', at: '2026-03-06T08:00:00Z', runs: [{ code: 'RP', closed: true }] });
	await fillCovered();
	await sealAll(db.sql);
	await correctNumber('P-1', 'P-01');
	await sealAll(db.sql);
	guards = await guardsOf(db.owner);
});

let guards: Guards;

async function correctNumber(from: string, to: string) {
	const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${from}`;
	const occasion = { key: `correct ${from}`, kind: 'correct' as const, reason: 'misread' };
	await appendChanges(db.sql, ines, occasion, [id], async () => [{ mark: id, field: 'lot_no', value: to }]);
}
/** A row in each table that entries cover, where the bookings left none. */
const fillCovered = () =>
	db.owner.unsafe(`
		INSERT INTO job (code, name, kind, created_by) VALUES ('J-1', 'Job', 'own use', 'ines');
		INSERT INTO item_kind (code, name, created_by) VALUES ('K', 'Kind', 'ines');
		INSERT INTO fact (code, name, kind, created_by) VALUES ('F', 'Fact', 'text', 'ines');
		INSERT INTO fact_rule (kind_id, fact_id, step, how) SELECT k.id, f.id, 'receipt', 'asked' FROM item_kind k, fact f;
		INSERT INTO part (item_id, part_item_id, qty) SELECT i.id, p.id, 2 FROM item i, item p WHERE i.code = 'METER' AND p.code = 'CELL';
		INSERT INTO byproduct (item_id, out_item_id, qty) SELECT i.id, p.id, 2 FROM item i, item p WHERE i.code = 'METER' AND p.code = 'CELL';
		INSERT INTO check_policy (code, strength, changed_by) VALUES ('expired', 'note', 'ines');
		INSERT INTO number_pattern (code, name, blocks, created_by) VALUES ('P', 'Pattern', '[{"kind": "text", "text": "A"}]', 'ines');
		INSERT INTO number_counter (pattern_id, scope, last) SELECT id, '2026', 2 FROM number_pattern WHERE code = 'P';
		INSERT INTO drawn_number (pattern_id, item_id, kind, number, scope, sequence, drawn_by) SELECT p.id, i.id, 'lot', 'A' || n, '2026', n, 'ines' FROM number_pattern p, item i, generate_series(1, 2) n WHERE p.code = 'P' AND i.code = 'RAW1';
		INSERT INTO person (login, name, role, password_hash) VALUES ('rhea', 'Rhea', 'auditor', 'argon');
		INSERT INTO api_token (name, role, token_hash, created_by) VALUES ('press', 'auditor', 'digest', 'ines');
		INSERT INTO orders (code, kind, created_by) VALUES ('PO-1', 'purchase', 'ines');
		INSERT INTO order_line (order_id, no, role, item_id, qty) SELECT o.id, 1, 'goods', i.id, 5 FROM orders o, item i WHERE i.code = 'RAW1';
		INSERT INTO promise (key, request, order_line_id, mark_id, qty, since, made_by) SELECT 'P-1', repeat('a', 64), l.id, k.id, 1, 0, 'ines' FROM order_line l, mark k WHERE k.number = 'R-1';
		INSERT INTO returned (event_id, mark_id, goes, found) SELECT e.id, k.id, 'hold', 'wet' FROM event e, mark k WHERE k.number = 'R-1' ORDER BY e.id LIMIT 1;
		INSERT INTO count_entry (key, order_id, place_id, mark_id, expected, counted, evidence, made_by) SELECT gen_random_uuid()::text, o.id, p.id, k.id, 1, 2, 'scanned', 'ines' FROM orders o, place p, mark k WHERE p.code = 'QS/A1' AND k.number = 'R-1';
		INSERT INTO counted (order_id, place_id, mark_id, expected, counted, counted_by, at) SELECT o.id, p.id, k.id, 1, 2, 'ines', '2026-03-07T08:00:00Z' FROM orders o, place p, mark k WHERE p.code = 'QS/A1' AND k.number = 'R-1';
		INSERT INTO todo (order_id, what, made_by) SELECT id, 'Credit it', 'ines' FROM orders;
		INSERT INTO stored_file (sha256, type, content, added_by) SELECT encode(sha256('x'), 'hex'), 'application/pdf', 'x', 'ines';
		INSERT INTO signature (order_id, meaning, signer, terms, agreed, sha256, taken_by, at) SELECT o.id, 'terms', 'Ada Brook', 'Pay first.', '{"lines": []}', f.sha256, 'ines', '2026-03-07T08:00:00Z' FROM orders o, stored_file f;
		INSERT INTO noted (key, order_id, what, number, dated, noted_by) SELECT 'N-1', id, 'invoice', 'I-1', '2026-03-07', 'ines' FROM orders;
		INSERT INTO noted_line (noted_id, order_line_id, qty) SELECT n.id, l.id, 1 FROM noted n, order_line l;
		INSERT INTO paper (kind, order_id, event_id, content, sha256, made_by) SELECT 'packing list', o.id, e.id, repeat('a', 64), f.sha256, 'ines' FROM orders o, stored_file f, event e ORDER BY e.id LIMIT 1;
		INSERT INTO paper_mark (paper_id, mark_id) SELECT p.id, k.id FROM paper p, mark k WHERE k.number = 'R-1';
		INSERT INTO mark_file (mark_id, name, sha256, added_by) SELECT k.id, 'a.pdf', f.sha256, 'ines' FROM mark k, stored_file f WHERE k.number = 'R-1';
		INSERT INTO delivery_way (code, name, divisor, rate, minimum, currency, closed_on) VALUES ('ROAD', 'Road', 5000, 1.2, 15, 'EUR', '2026-03-01');
		INSERT INTO station (code, name, place_id) SELECT 'L1', 'Line', id FROM place WHERE code = 'QS/A1';
		INSERT INTO route (item_id, operations, made_by) SELECT id, '[{"code": "A", "name": "A"}]', 'ines' FROM item WHERE code = 'CELL';
		INSERT INTO step (key, request, at, mark_id, route_id, act, operation, state, evidence, done_by, source)
			SELECT 'S-1', 'r', '2026-03-07T08:00:00Z', k.id, r.id, 'release', 'A', 'queued', 'entered', 'ines', 'screen' FROM mark k, route r WHERE k.number = 'C-1';
		INSERT INTO step (key, request, at, mark_id, route_id, act, from_operation, from_state, operation, state, evidence, done_by, source, station_id, reason)
			SELECT 'S-2', 'r', '2026-03-07T09:00:00Z', k.id, r.id, 'read', 'A', 'queued', 'A', 'in process', 'scanned', 'ines', 'station', t.id, 'x' FROM mark k, route r, station t WHERE k.number = 'C-1';
		INSERT INTO mark_note (mark_id, text, written_by) SELECT id, 'wet', 'ines' FROM mark WHERE number = 'R-1';`);

/** What a check of the whole ledger finds after something was done past every guard; nothing of it stays. */
async function after(tampering: readonly string[], options: VerifyOptions = {}) {
	let found: Awaited<ReturnType<typeof verify>>['findings'] = [];
	const undone = new Error('undone');
	await db.owner
		.begin(async (tx) => {
			// As a replica takes what is sent to it: no trigger and no reference looks.
			await tx`SET LOCAL session_replication_role = replica`;
			for (const statement of tampering) await tx.unsafe(statement);
			await tx`SET LOCAL session_replication_role = origin`;
			found = (await verify(tx, options)).findings;
			throw undone;
		})
		.catch((e: unknown) => {
			if (e !== undone) throw e;
		});
	return found;
}
const said = (found: Awaited<ReturnType<typeof after>>) => found.map((f) => `${f.rule} ${f.what}`);
const MARK = (number: string) => `(SELECT id FROM mark WHERE number = '${number}')`;
const PLACE = (code: string) => `(SELECT id FROM place WHERE code = '${code}')`;
const withoutConstraints = (table: string, types = "'c'") =>
	`DO $$ DECLARE c record; BEGIN FOR c IN SELECT conname FROM pg_constraint WHERE conrelid = '${table}'::regclass AND contype IN (${types}) LOOP
		EXECUTE format('ALTER TABLE ${table} DROP CONSTRAINT IF EXISTS %I CASCADE', c.conname); END LOOP; END $$`;

describe('each invariant by itself', () => {
	it('holds on the ledger as it was booked, with the guards as they were delivered', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
		const alone = await verify(db.owner, { guards: await guardsAsDelivered(db.url) });
		expect(alone.findings).toEqual([]);
		// On three connections it says the same.
		const others = [connect(db.url, 'owner', 1), connect(db.url, 'owner', 1)] as const;
		expect(await verify(db.owner, { beside: [...others] })).toEqual(alone);
		await Promise.all(others.map((o) => o.end()));
	});
	it.each<[rule: string, says: string, ...tampering: string[]]>([
		[
			'I2',
			'RAW1 R-1 at QS/A1: balance 6, movements 5',
			`UPDATE balance SET qty = 6 WHERE mark_id = ${MARK('R-1')} AND place_id = ${PLACE('QS/A1')}`
		],
		[
			'I2',
			'RAW1 R-1 at QS/A1: balance 5, movements 5',
			`UPDATE balance SET virtual = true WHERE mark_id = ${MARK('R-1')} AND place_id = ${PLACE('QS/A1')}`
		],
		// Far from all that are there, and of nothing at all.
		[
			'I2',
			'no item #-7 at QS/A1: balance 3, movements 0',
			`INSERT INTO balance (mark_id, place_id, qty, serial, virtual) VALUES (-7, ${PLACE('QS/A1')}, 3, false, false)`
		],
		[
			'I9',
			'mark 9000000000000000000 belongs to no event',
			`INSERT INTO mark (id, item_id, kind, lot_no) OVERRIDING SYSTEM VALUE SELECT 9000000000000000000, id, 'lot', 'FAR' FROM item WHERE code = 'RAW1'`
		],
		[
			'I9',
			'record 999999 is missing, was sealed as x',
			`INSERT INTO ledger_leaf (index, row_version_id, entry, hash, sealed_at) VALUES (9000000000000000000, 999999, 'x', leaf_hash('x'), now())`
		],
		[
			'I3',
			'R-1 at QS/A1 stands at -1',
			withoutConstraints('balance'),
			`UPDATE balance SET qty = -1 WHERE mark_id = ${MARK('R-1')} AND place_id = ${PLACE('QS/A1')}`
		],
		[
			'I4',
			'serial C-1 of CELL: 2 pieces over all places',
			'DROP INDEX serial_in_one_place',
			`INSERT INTO balance (mark_id, place_id, qty, serial, virtual) VALUES (${MARK('C-1')}, ${PLACE('QS/A2')}, 1, true, false)`
		],
		[
			'I5',
			'serial C-1 of CELL stands for 2 marks',
			'DROP INDEX mark_serial',
			'DROP INDEX mark_looks',
			`UPDATE mark SET serial_no = 'C-1' WHERE number = 'C-2'`
		],
		[
			'I5',
			'serial C-1 is used by 2 items',
			'DROP INDEX mark_looks',
			`UPDATE mark SET serial_no = 'C-1', item_id = (SELECT id FROM item WHERE code = 'METER') WHERE number = 'C-2'`,
			`UPDATE item SET serials_unique_everywhere = true WHERE code = 'METER'`
		],
		[
			'I5',
			'C-1 is kept as C-1, looking like d-l',
			'ALTER TABLE mark ALTER looks DROP EXPRESSION',
			`UPDATE mark SET looks = 'd-l' WHERE number = 'C-1'`
		],
		[
			'I5',
			'C-1 is kept as C-9, looking like c-l',
			'ALTER TABLE mark ALTER number DROP EXPRESSION',
			`UPDATE mark SET number = 'C-9' WHERE number = 'C-1'`
		],
		[
			'I5',
			'C-1 is kept as number 2 of those that look like it, of 1',
			`UPDATE mark SET lookalike = 1 WHERE number = 'C-1'`
		],
		[
			'I6',
			'event 1 books 10 of CAP without its lot',
			`UPDATE item SET tracking = 'lot' WHERE code = 'CAP'`,
			`UPDATE marking_rule SET lot = 'required', since = '2000-01-01' WHERE item_id = (SELECT id FROM item WHERE code = 'CAP') AND step = 'receipt'`
		],
		['I7', 'run RP: 1 in, 2 out', `UPDATE item SET content_qty = 2 WHERE code = 'PACK'`],
		[
			'I8',
			'event 2 does not say who, when, from where or its key',
			withoutConstraints('event'),
			`UPDATE event SET recorded_by = '' WHERE id = 2`
		],
		['I9', 'R-1 is held, and no event says so', `UPDATE mark SET status = 'held' WHERE number = 'R-1'`],
		['I10', 'undo 4 does not mirror event 3', 'UPDATE movement SET qty = 1 WHERE mirrors IS NOT NULL'],
		[
			'I11',
			'R-1 at QS/A1: -4 on 2026-02-01 08:00:00+00',
			`UPDATE movement SET at = '2026-02-01T08:00:00Z' WHERE event_id = 2`
		],
		[
			'I12',
			'C-1 is complete at A on the floor, its last step says in process at A',
			`UPDATE floor SET state = 'complete'`
		],
		['I12', 'C-1 is  at  on the floor, its last step says in process at A', `DELETE FROM floor`],
		[
			'I12',
			'step 2 of C-1 begins at held A, the one before it ended at queued A',
			`UPDATE step SET from_state = 'held' WHERE key = 'S-2'`
		]
	])('%s: %s', async (rule, says, ...tampering) => {
		expect(said(await after([`SET LOCAL TIME ZONE 'UTC'`, ...tampering]))).toContain(`${rule} ${says}`);
	});
});

describe('what was changed behind the ledger’s back is named with what it was', () => {
	it.each<[table: string, what: string, tampering: string]>([
		['event', 'event 2: note is x, was booked as nothing', `UPDATE event SET note = 'x' WHERE id = 2`],
		['movement', 'event 2: movement 5: qty is 5, was booked as 4', 'UPDATE movement SET qty = 5 WHERE event_id = 2'],
		['movement', 'event 2: movement 5 is missing', 'DELETE FROM movement WHERE event_id = 2'],
		['mark', 'event 1: mark 1: lot is R-9, was booked as R-1', `UPDATE mark SET lot_no = 'R-9' WHERE lot_no = 'R-1'`],
		['run', 'event 5: run 1: planned is 7, was booked as 1', 'UPDATE run SET planned = 7'],
		['mark_alias', 'event 8: mark alias 6 P-1 is missing', 'DELETE FROM mark_alias'],
		[
			'mark_change',
			'event 6: mark change 6 status: new is rejected, was booked as held',
			`UPDATE mark_change SET new = 'rejected' WHERE field = 'status'`
		],
		[
			'ledger_leaf',
			'entry 3 does not have the hash that it was sealed with',
			`UPDATE ledger_leaf SET hash = sha256('x') WHERE index = 3`
		],
		['ledger_leaf', 'entry 4 is missing', 'DELETE FROM ledger_leaf WHERE index = 4'],
		[
			'drawn_number',
			'the draw of number 1 is not as it was recorded',
			`UPDATE drawn_number SET number = 'A9' WHERE number = 'A1'`
		],
		['drawn_number', 'the draw of number 1 is not as it was recorded', `DELETE FROM drawn_number WHERE number = 'A2'`],
		[
			'drawn_number',
			'the draw of number 1 is not as it was recorded',
			`UPDATE drawn_number SET drawn_at = drawn_at - interval '1 day'`
		],
		[
			'drawn_number',
			'number A3 was added to the drawn ones past its record',
			`INSERT INTO drawn_number (pattern_id, item_id, kind, number, scope, sequence, drawn_by) SELECT pattern_id, item_id, kind, 'A3', scope, 3, drawn_by FROM drawn_number LIMIT 1`
		],
		['paper_mark', 'the numbers on paper 1 are not those that were recorded', 'DELETE FROM paper_mark'],
		[
			'paper_mark',
			'the numbers on paper 1 are not those that were recorded',
			`UPDATE paper_mark SET mark_id = (SELECT id FROM mark WHERE number = 'C-1')`
		],
		[
			'seal_queue',
			'row 9000 waits to be sealed and names event 2, which is sealed already',
			'INSERT INTO seal_queue (id, event_id, weight) OVERRIDING SYSTEM VALUE VALUES (9000, 2, 1)'
		],
		[
			'seal_queue',
			'row 9000 waits to be sealed and names event 9999, which is not there',
			'INSERT INTO seal_queue (id, event_id, weight) OVERRIDING SYSTEM VALUE VALUES (9000, 9999, 1)'
		],
		[
			'seal_queue',
			'row 9000 waits to be sealed and names nothing',
			'INSERT INTO seal_queue (id, weight) OVERRIDING SYSTEM VALUE VALUES (9000, 1)'
		],
		[
			'ledger_node',
			'node 1/0 is not the hash of what is below it',
			`UPDATE ledger_node SET hash = sha256('x') WHERE level = 1 AND index = 0`
		]
	])('%s: %s', async (table, what, tampering) => {
		expect(await after([tampering])).toContainEqual(expect.objectContaining({ rule: 'I9', table, what }));
	});
	it.each([
		[
			'was sealed before the one before it',
			`UPDATE ledger_leaf SET sealed_at = sealed_at - interval '1 day' WHERE index = 3`
		],
		['was sealed before it was recorded', `UPDATE ledger_leaf SET sealed_at = '2020-01-01'`]
	])('a moment of sealing: %s', async (_says, tampering) => {
		expect((await after([tampering])).map((f) => f.table)).toContain('ledger_leaf');
	});
	it('a row in the queue that names nothing, or what is sealed, stops no sealing', async () => {
		await db.owner
			.begin(async (tx) => {
				await tx`INSERT INTO seal_queue (id, event_id, weight) OVERRIDING SYSTEM VALUE VALUES (0, 2, 1), (-1, 9999, 1), (-2, NULL, 1)`;
				const [before] = await tx<{ size: string }[]>`SELECT max(index) + 1 AS size FROM ledger_leaf`;
				await tx`UPDATE item SET name = name || ' 2' WHERE code = 'RAW1'`;
				const size = await sealAll(tx);
				expect(size).toBe(Number(before.size) + 1);
				expect(await tx`SELECT id FROM seal_queue`).toHaveLength(3);
				throw new Error('undone');
			})
			.catch((e: Error) => expect(e.message).toBe('undone'));
	});
	it('with how many there are in each table', async () => {
		const found = await after([`UPDATE item SET name = name || 'x'`, 'UPDATE movement SET qty = qty + 1']);
		const items = await db.sql`SELECT 1 FROM item`;
		const movements = await db.sql`SELECT 1 FROM movement`;
		expect(found.find((f) => f.table === 'item')?.count).toBe(items.length);
		expect(found.find((f) => f.table === 'movement' && f.rule === 'I9')?.count).toBe(movements.length);
	});
});

/** Tables that hold what events wrote, and the tree over all. What the others hold stands in `record`. */
const WRITTEN = [
	'event',
	'movement',
	'mark',
	'run',
	'mark_change',
	'mark_alias',
	'row_version',
	'ledger_leaf',
	'ledger_node'
];
/** Columns that say nothing of their own, and why. */
const DERIVED = new Set([
	'mark.number', // worked out from the numbers by the table itself
	'mark.looks', // the same
	'event.prev_hash', // the former chain's; NULL for good
	'ledger_leaf.sealed_at' // when it was sealed: no part of what is proved; its order is, above
]);
/** Another value of a column's type. */
const bent = (column: string, type: string): string =>
	/^(text|rule_step)$/.test(type)
		? `coalesce(${column}, '') || 'x'`
		: type === 'boolean'
			? `NOT coalesce(${column}, false)`
			: type === 'date'
				? `coalesce(${column}, '2026-01-01') + 1`
				: type.startsWith('timestamp')
					? `coalesce(${column}, '2026-01-01') + interval '1 second'`
					: type === 'jsonb'
						? `'{"bent": "1"}'`
						: type.endsWith('[]')
							? `coalesce(${column}, '{}') || '{x}'`
							: type === 'bytea'
								? `set_byte(${column}, 0, get_byte(${column}, 0) # 1)`
								: `coalesce(${column}, 0) + 1000`;
const columnsOf = (where: string) =>
	db.owner.unsafe<{ table: string; column: string; type: string }[]>(`
	SELECT c.relname AS table, a.attname AS column, format_type(a.atttypid, a.atttypmod) AS type FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid
	WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r' AND a.attnum > 0 AND NOT a.attisdropped AND a.attgenerated = '' AND (${where}) ORDER BY 1, a.attnum`);

describe('every table and column that an entry covers, from the catalogue of the database', () => {
	const covered = async () => {
		const list = WRITTEN.map((t) => `'${t}'`).join();
		const columns = await columnsOf(
			`c.relname IN (${list}) OR EXISTS (SELECT 1 FROM sealed_table v WHERE v.name = c.relname AND a.attname <> ALL (v.without)) OR c.relname || '.' || a.attname = 'stored_file.content'`
		);
		return columns.filter((c) => !DERIVED.has(`${c.table}.${c.column}`));
	};
	it('a changed byte is found', async () => {
		const columns = await covered();
		expect(columns.length).toBeGreaterThan(140);
		const missed: string[] = [];
		for (const { table, column, type } of columns) {
			const found = await after([
				withoutConstraints(table, "'c', 'f', 'u', 'p'"),
				`DO $$ DECLARE i record; BEGIN FOR i IN SELECT indexrelid::regclass AS n FROM pg_index WHERE indrelid = '${table}'::regclass LOOP EXECUTE format('DROP INDEX %s', i.n); END LOOP; END $$`,
				`ALTER TABLE ${table} ALTER ${column} DROP IDENTITY IF EXISTS`,
				`UPDATE ${table} SET ${column} = ${bent(column, type)} WHERE ctid = (SELECT ctid FROM ${table} ORDER BY ${column} IS NULL LIMIT 1)`
			]);
			if (!found.length) missed.push(`${table}.${column}`);
		}
		console.log(`${columns.length - missed.length} of ${columns.length} changed columns were found`);
		expect(missed).toEqual([]);
	});
	it('a missing row is found, and an added one', async () => {
		const tables = [...new Set((await covered()).map((c) => c.table)), 'run_closing'];
		const missed: string[] = [];
		for (const table of tables) {
			const free = [
				withoutConstraints(table, "'c', 'f', 'u', 'p'"),
				`DO $$ DECLARE i record; BEGIN FOR i IN SELECT indexrelid::regclass AS n FROM pg_index WHERE indrelid = '${table}'::regclass LOOP EXECUTE format('DROP INDEX %s', i.n); END LOOP; END $$`
			];
			const [{ n }] = await db.owner.unsafe<{ n: number }[]>(`SELECT count(*)::int AS n FROM ${table}`);
			if (n && !(await after([...free, `DELETE FROM ${table} WHERE ctid = (SELECT min(ctid) FROM ${table})`])).length)
				missed.push(`${table} less one`);
			const columns = (await columnsOf(`c.relname = '${table}'`)).map((c) => c.column);
			const other = (c: string) =>
				/(^|_)(id|code|index|key|row|sha256|no|mark|step|number)$/.test(c) &&
				!/^(row_version_id|order_id|parent_id|kind_id|job_id|partner_id|place_id|site_id)$/.test(c)
					? ''
					: c;
			const kept = columns.map((c) => other(c) || c);
			const id = columns.find((c) => c === 'id') ?? columns[0];
			const type = (await columnsOf(`c.relname = '${table}' AND a.attname = '${id}'`))[0].type;
			const copy = `INSERT INTO ${table} (${columns.join()}) OVERRIDING SYSTEM VALUE SELECT ${kept.map((c) => (c === id ? bent(c, type) : c)).join()} FROM ${table} LIMIT 1`;
			if (n && !(await after([...free, copy])).length) missed.push(`${table} and one more`);
		}
		expect(missed).toEqual([]);
	});
});

describe('a head on a paper', () => {
	const END = `(SELECT max(id) FROM event)`;
	const SAWN = [
		`DELETE FROM ledger_leaf WHERE event_id = ${END}`,
		`DELETE FROM ledger_node n WHERE (n.index + 1) * (1::bigint << n.level) > (SELECT count(*) FROM ledger_leaf)`,
		`DELETE FROM mark_alias WHERE event_id = ${END}`,
		`UPDATE mark k SET lot_no = c.old, version = version - 1 FROM mark_change c WHERE c.mark_id = k.id AND c.event_id = ${END} AND c.field = 'lot_no'`,
		`DELETE FROM mark_change WHERE event_id = ${END}`,
		`DELETE FROM event WHERE id = ${END}`
	];
	it('is that of a ledger that has grown since', async () => {
		const { size, root } = await headNow(db.sql);
		for (const head of [
			{ size, root },
			{ size, root: root.slice(0, 16).toUpperCase() }
		])
			expect((await verify(db.owner, { head })).findings).toEqual([]);
		expect(
			(await verify(db.owner, { head: { size, root: root.replace(/^./, (c) => (c === '0' ? '1' : '0')) } })).findings
		).toMatchObject([{ what: expect.stringContaining(`the first ${size} entries are not those of the paper`) }]);
	});
	it('shows that the end was cut off, which nothing else shows', async () => {
		const head = await headNow(db.sql);
		expect(await after(SAWN)).toEqual([]);
		expect(await after(SAWN, { head })).toMatchObject([
			{ what: `the ledger has ${head.size - 1} entries and the paper says ${head.size}: its end was cut off` }
		]);
	});
	it('shows that the whole was written anew under good hashes, which nothing else shows', async () => {
		const head = await headNow(db.sql);
		const anew = [
			`UPDATE event SET note = 'never said' WHERE id = 1`,
			'DELETE FROM ledger_node',
			'DELETE FROM ledger_leaf',
			'INSERT INTO seal_queue (event_id, weight) SELECT id, 1 FROM event ORDER BY id',
			'INSERT INTO seal_queue (row_version_id, weight) SELECT id, 1 FROM row_version ORDER BY id',
			'SELECT * FROM seal(1000000, true)'
		];
		expect(await after(anew)).toEqual([]);
		expect(said(await after(anew, { head })).join()).toContain(
			`the first ${head.size} entries are not those of the paper`
		);
	});
});

describe('the guards of the database', () => {
	it.each([
		['trigger refuse_change of event is missing', 'DROP TRIGGER refuse_change ON event'],
		['trigger check_event of event is not as delivered', 'ALTER TABLE event DISABLE TRIGGER check_event'],
		[
			'function refuse_change() is not as delivered',
			`CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN RETURN NEW; END'`
		],
		['constraint below_zero of balance is missing', 'ALTER TABLE balance DROP CONSTRAINT below_zero'],
		['index serial_in_one_place is missing', 'DROP INDEX serial_in_one_place'],
		['right of earmark_app to update balance was added', 'GRANT UPDATE ON balance TO earmark_app'],
		['right of earmark_app to update event.note was added', 'GRANT UPDATE (note) ON event TO earmark_app'],
		[
			'right of anybody to execute function seal(most_weight integer, wait boolean) was added',
			'GRANT EXECUTE ON FUNCTION seal(integer, boolean) TO PUBLIC'
		],
		['column recorded_by of event is not as delivered', 'ALTER TABLE event ALTER recorded_by DROP NOT NULL'],
		[
			'view effective_movement is not as delivered',
			'CREATE OR REPLACE VIEW effective_movement AS SELECT * FROM movement'
		],
		[
			'trigger sly of event was added',
			'CREATE TRIGGER sly BEFORE INSERT ON event FOR EACH ROW EXECUTE FUNCTION refuse_change()'
		]
	])('%s', async (says, tampering) => {
		const undone = new Error('undone');
		let found: string[] = [];
		await db.owner
			.begin(async (tx: Tx) => {
				await tx.unsafe(tampering);
				found = (await verify(tx, { guards })).findings.map((f) => f.what);
				throw undone;
			})
			.catch((e: unknown) => {
				if (e !== undone) throw e;
			});
		expect(found.join()).toContain(says);
	});
});

it('the database takes a movement for the step that core takes it for', async () => {
	await addPlace(db.sql, 'ines', { code: 'HH', name: 'HH' });
	const places = await db.sql<{ code: string; site: string; id: string }[]>`
		SELECT p.code, coalesce(s.code, p.code) AS site, coalesce(p.site_id, p.id) AS id FROM place p LEFT JOIN place s ON s.id = p.site_id`;
	expect(places.map((p) => p.code)).toEqual(
		expect.arrayContaining([...Object.keys(VIRTUAL_PLACES), 'QS/A1', 'QS', 'HH'])
	);
	const cases = Object.keys(EVENT_KINDS).flatMap((kind) =>
		[null, ...ROLES].flatMap((role) => places.flatMap((from) => places.map((to) => ({ kind, role, from, to }))))
	);
	const theirs = await db.sql<{ step: string }[]>`
		SELECT step_of(c.kind, c.f, c.t, c.fs, c.ts, c.role) AS step FROM unnest(${cases.map((c) => c.kind)}::text[], ${cases.map((c) => c.from.code)}::text[],
			${cases.map((c) => c.to.code)}::text[], ${cases.map((c) => c.from.id)}::bigint[], ${cases.map((c) => c.to.id)}::bigint[], ${cases.map((c) => c.role)}::text[])
			WITH ORDINALITY c(kind, f, t, fs, ts, role, n) ORDER BY c.n`;
	expect(theirs.map((t) => t.step)).toEqual(cases.map((c) => stepOf(c)));
});
