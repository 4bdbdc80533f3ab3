import { beforeAll, describe, expect, it } from 'vitest';
import { EVENT_KINDS, ROLES } from '../../src/lib/core/ledger/events.ts';
import { VIRTUAL_PLACES } from '../../src/lib/core/ledger/places.ts';
import { stepOf } from '../../src/lib/core/ledger/steps.ts';
import { verify } from '../../src/lib/server/ledger/verify.ts';
import { addPlace } from '../../src/lib/server/setup/places.ts';
import { bookTest, makeItems, testDatabase } from './cluster.ts';

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
});

const GUARDED = ['event', 'movement', 'mark', 'balance', 'mark_change', 'ledger_head'];
/** What a check of the whole ledger says after something was done past every guard; nothing of it stays. */
async function after(...tampering: string[]): Promise<string[]> {
	let said: string[] = [];
	const undone = new Error('undone');
	await db.owner
		.begin(async (tx) => {
			for (const t of GUARDED) await tx.unsafe(`ALTER TABLE ${t} DISABLE TRIGGER USER`);
			for (const statement of tampering) await tx.unsafe(statement);
			for (const t of GUARDED) await tx.unsafe(`ALTER TABLE ${t} ENABLE TRIGGER USER`);
			said = (await verify(tx)).findings.map((f) => `${f.rule} ${f.what}`);
			throw undone;
		})
		.catch((e: unknown) => {
			if (e !== undone) throw e;
		});
	return said;
}
const MARK = (number: string) => `(SELECT id FROM mark WHERE number = '${number}')`;
const PLACE = (code: string) => `(SELECT id FROM place WHERE code = '${code}')`;
const withoutConstraints = (column: 'conrelid' | 'confrelid', table: string, type: 'c' | 'f') =>
	`DO $$ DECLARE c record; BEGIN FOR c IN SELECT conname, conrelid::regclass AS t FROM pg_constraint WHERE ${column} = '${table}'::regclass AND contype = '${type}' LOOP
		EXECUTE format('ALTER TABLE %s DROP CONSTRAINT %I', c.t, c.conname); END LOOP; END $$`;

describe('each invariant by itself', () => {
	it('holds on the ledger as it was booked', async () => {
		expect((await verify(db.sql)).findings).toEqual([]);
	});
	it.each<[rule: string, says: string, ...tampering: string[]]>([
		['I1', 'the guard of event is missing or off', 'DROP TRIGGER refuse_change ON event'],
		[
			'I2',
			'RAW1 R-1 at QS/A1: balance 6, movements 5',
			`UPDATE balance SET qty = 6 WHERE mark_id = ${MARK('R-1')} AND place_id = ${PLACE('QS/A1')}`
		],
		[
			'I3',
			'R-1 at QS/A1 stands at -1',
			withoutConstraints('conrelid', 'balance', 'c'),
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
			`UPDATE mark SET serial_no = 'C-1' WHERE number = 'C-2'`
		],
		[
			'I5',
			'serial C-1 is used by 2 items',
			`UPDATE mark SET serial_no = 'C-1', item_id = (SELECT id FROM item WHERE code = 'METER') WHERE number = 'C-2'`,
			`UPDATE item SET serials_unique_everywhere = true WHERE code = 'METER'`
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
			withoutConstraints('conrelid', 'event', 'c'),
			`UPDATE event SET recorded_by = '' WHERE id = 2`
		],
		['I9', 'event 2 is not as it was booked', `UPDATE event SET note = 'x' WHERE id = 2`],
		[
			'I9',
			'event 3 stands in place 2: an event is missing before it',
			withoutConstraints('confrelid', 'event', 'f'),
			'DELETE FROM event WHERE id = 2'
		],
		['I9', 'event 3 does not follow the event before it', `UPDATE event SET hash = repeat('b', 64) WHERE id = 2`],
		['I9', 'the head of the chain is not its last event', 'UPDATE ledger_head SET last_event = 3'],
		['I9', 'R-1 is held, and no event says so', `UPDATE mark SET status = 'held' WHERE number = 'R-1'`],
		['I10', 'undo 4 does not mirror event 3', 'UPDATE movement SET qty = 1 WHERE mirrors IS NOT NULL'],
		[
			'I11',
			'R-1 at QS/A1: -4 on 2026-02-01 08:00:00+00',
			`UPDATE movement SET at = '2026-02-01T08:00:00Z' WHERE event_id = 2`
		]
	])('%s: %s', async (rule, says, ...tampering) => {
		expect(await after(`SET LOCAL TIME ZONE 'UTC'`, ...tampering)).toContain(`${rule} ${says}`);
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
