import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, testDatabase } from '../../../../tests/db/cluster.ts';
import { sheets } from '../../../../tests/db/sheets.ts';
import { changeItem, createItem, listItems } from '../setup/items.ts';
import { addPlace } from '../setup/places.ts';
import { sheetState } from '../sheet/state.ts';
import { movesOf } from './bookunits.ts';
import { unitOrder, type Unit } from './units.ts';

const db = testDatabase();
const { make, type, bookNow } = sheets(db);
const rowOf = async (code: string, item: string) =>
	(await sheetState(db.sql, code)).lines.find((l) => l.item === item)!.rows.map((r) => [r.expiresOn, r.expiryFrom]);
const mark = async (number: string) =>
	(
		await db.sql<
			{ id: string; expires: string | null }[]
		>`SELECT id, expires_on AS expires FROM mark WHERE number = ${number}`
	)[0];
const from = async (item: string, expiryFrom: 'life' | 'parts' | 'earlier') => {
	const [is] = await listItems(db.sql, item);
	const { name, shelfLife, rules, parts } = is;
	await changeItem(db.sql, 'ines', item, {
		...{ name, shelfLife, rules, expiryFrom },
		parts: parts.map((p) => ({ item: p.item, qty: p.qty }))
	});
};

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	const kg = { unit: 'kg', decimals: 3, tracking: 'lot' as const, expiry: 'asked' as const };
	await createItem(db.sql, 'ines', { code: 'RAW', name: 'Raw', ...kg });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial', expiry: 'asked' });
	await createItem(db.sql, 'ines', {
		...{ code: 'MADE', name: 'Made', ...kg, shelfLife: 'P120M' },
		expiryFrom: 'earlier',
		parts: [{ item: 'RAW', qty: '1' }]
	});
	await createItem(db.sql, 'ines', {
		...{
			code: 'UNIT',
			name: 'Unit',
			unit: 'each',
			tracking: 'serial',
			runMode: 'unit',
			expiry: 'asked',
			shelfLife: 'P120M'
		},
		expiryFrom: 'parts',
		parts: [{ item: 'CELL', qty: '1' }]
	});
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			{ item: 'RAW', lot: 'R1', qty: '5', expiresOn: '2030-05-01' },
			{ item: 'RAW', lot: 'R2', qty: '50', expiresOn: '2031-06-01' },
			{ item: 'CELL', serial: 'C1', qty: '1', expiresOn: '2030-02-01' },
			{ item: 'CELL', serial: 'C2', qty: '1', expiresOn: '2030-03-01' }
		].map((m) => ({ ...m, from: '@supplier', to: 'QS/A1' }))
	});
});

describe('the date of what is made', () => {
	it('is the first of what goes in where that is earlier, with its ground; nobody types it, and no reason is asked', async () => {
		const code = await make('MADE', '8');
		await type(code, 'MADE', { lot: 'M1', qty: '8' });
		expect(await rowOf(code, 'MADE')).toEqual([['2030-05-01', 'as Lot R1, which goes in']]);
		expect((await sheetState(db.sql, code)).missing).toEqual([]);
		await bookNow(code);
		expect((await mark('M1')).expires).toBe('2030-05-01');
	});
	it('typed over, asks why; by its own life again, it outlives what is in it, which is noted', async () => {
		const code = await make('MADE', '2');
		await type(code, 'MADE', { lot: 'M2', qty: '2', expiresOn: '2030-04-01' });
		expect((await sheetState(db.sql, code)).missing.map((m) => m.message).join()).toContain('Expiry changed from');
		await bookNow(code, 'both', 'Opened for long');
		await from('MADE', 'life');
		const own = await make('MADE', '1');
		await type(own, 'MADE', { lot: 'M3', qty: '1' });
		const [line] = (await sheetState(db.sql, own)).lines.filter((l) => l.item === 'MADE');
		expect(line.rows[0].findings.map((f) => f.code)).toContain('outlives');
		await from('MADE', 'earlier');
		expect(await rowOf(own, 'MADE')).toEqual([['2031-06-01', 'as Lot R2, which goes in']]);
		await bookNow(own);
	});
	it('counts what was used before as well, where the output comes later', async () => {
		const code = await make('MADE', '3');
		await bookNow(code, 'use');
		await type(code, 'MADE', { lot: 'M4', qty: '3' });
		await bookNow(code, 'output');
		expect((await mark('M4')).expires).toBe('2031-06-01');
	});
	it('is each unit’s own, in the sheet and at a station', async () => {
		const code = await make('UNIT', '2');
		await type(code, 'UNIT', { serial: 'U1', count: 2 });
		const picks = await Promise.all(['C1', 'C2'].map(async (n) => (await mark(n)).id));
		await type(code, 'CELL', ...['U1', 'U2'].map((unit, n) => ({ unit, mark: picks[n], place: 'QS/A1', qty: '1' })));
		expect(await rowOf(code, 'UNIT')).toEqual([['2030-02-01', 'as Serial C1, which goes in']]);
		const order = (await unitOrder(db.sql, code))!;
		const line = order.parts[0];
		const unit = {
			...{ serial: 'U9', state: 'ready', said: '', review: false, station: null, evidence: 'scanned' },
			slots: [
				{
					line,
					puts: [{ id: '1', lineId: line.id, mark: picks[1], qty: '1', place: 'QS/A1', evidence: 'scanned' }],
					in: '1',
					left: '0'
				}
			]
		} as unknown as Unit;
		const [moves] = await movesOf(db.sql, order, [unit], new Date());
		expect(moves.movements.at(-1)!.expiresOn).toBe('2030-03-01');
		await bookNow(code);
		expect([(await mark('U1')).expires, (await mark('U2')).expires]).toEqual(['2030-02-01', '2030-03-01']);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});

it('is worked out where the item says so, though no rule asks for it', async () => {
	await createItem(db.sql, 'ines', {
		...{
			code: 'PLAIN',
			name: 'Plain',
			unit: 'kg',
			decimals: 3,
			tracking: 'lot' as const,
			expiryFrom: 'parts' as const
		},
		parts: [{ item: 'RAW', qty: '1' }]
	});
	const code = await make('PLAIN', '1');
	await type(code, 'PLAIN', { lot: 'P1', qty: '1' });
	expect(await rowOf(code, 'PLAIN')).toEqual([['2031-06-01', 'as Lot R2, which goes in']]);
	await bookNow(code);
	expect((await mark('P1')).expires).toBe('2031-06-01');
});
