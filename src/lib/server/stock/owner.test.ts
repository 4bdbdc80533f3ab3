import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { readView } from '../../core/list/list.ts';
import { listPage } from '../list/read.ts';
import type { ListSource } from '../list/source.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import { createDocument } from '../document/create.ts';
import { invoiceList } from '../document/invoices.ts';
import { book } from '../ledger/book.ts';
import { correct } from '../ledger/corrections.ts';
import { registerList } from '../register/list.ts';
import { markNow } from '../register/mark.ts';
import { shortage } from '../production/shortage.ts';
import { createItem } from '../setup/items.ts';
import { addPlace, savePartner } from '../setup/places.ts';
import { getOrder } from '../document/orders.ts';
import { saveRows } from '../sheet/drafts.ts';
import { pickFromScan } from '../sheet/scanpick.ts';
import { bookNow } from '../sheet/state.ts';
import { allocationFor } from './allocations.ts';
import { stockList, totalList } from './list.ts';

const db = testDatabase();
type Movement = NonNullable<EventInput['movements']>[number];
const NOW = new Date('2026-03-10T12:00:00Z');
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;
const leftOut = async (item: string) =>
	(await allocationFor(db.sql, { item, qty: '100', purpose: 'shipment' }, NOW)).leftOut.map(
		(l) => `${l.serial ?? l.lot} ${l.reason}: ${l.message}`
	);
const listed = async (source: ListSource, query: string) =>
	(
		await listPage(db.sql, source, readView(source, new URLSearchParams(`size=200&${query}`)), {
			...{ today: '2026-03-10', login: 'ines' }
		})
	).rows;
let keys = 0;
const setOwner = async (number: string, value: string) =>
	correct(db.sql, ines, {
		key: `owner-${++keys}`,
		mark: await markOf(number),
		at: '2026-03-05T08:00:00Z',
		field: 'owner',
		value,
		reason: 'For the test'
	});
const come = (movements: Partial<Movement>[], more: Partial<EventInput> = {}) =>
	bookTest(db.sql, {
		...{ kind: 'receipt', partner: 'OSTREL', at: '2026-03-01T08:00:00Z', ...more },
		movements: movements.map((m) => ({ item: 'SALT', qty: '5', from: '@supplier', to: 'QS/A1', ...m }))
	});
const ship = (partner: string, m: Partial<Movement>, more: Partial<EventInput> = {}) =>
	bookTest(db.sql, {
		...{ kind: 'shipment', partner, at: '2026-03-06T08:00:00Z', ...more },
		movements: [{ item: 'SALT', qty: '1', from: 'QS/A1', to: '@customer', ...m }]
	});

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await savePartner(db.sql, 'ines', 'OSTREL', { name: 'Ostrel', kind: 'both' });
	await savePartner(db.sql, 'ines', 'SKEN', { name: 'Sken', kind: 'customer' });
	await createItem(db.sql, 'ines', {
		...{ code: 'SALT', name: 'Salt', unit: 'each', tracking: 'lot' as const },
		...{ contentQty: '2', contentUnit: 'kg' }
	});
	await createItem(db.sql, 'ines', {
		...{ code: 'JAR', name: 'Jar', unit: 'each', tracking: 'lot' as const },
		...{ contentQty: '1', contentUnit: 'kg' }
	});
	await createItem(db.sql, 'ines', { code: 'METER', name: 'Meter', unit: 'each', tracking: 'lot and serial' });
	await come([
		{ lot: 'OURS' },
		{ lot: 'THEIRS', owner: 'OSTREL' },
		...['M-1', 'M-2'].map((serial) => ({ item: 'METER', lot: 'ML', serial, qty: '1', owner: 'SKEN' }))
	]);
});

describe('what is not ours', () => {
	it('is never offered, is said to be whose it is, and its serials are with their lot', async () => {
		expect(await leftOut('SALT')).toEqual(['THEIRS not ours: belongs to Ostrel']);
		expect(await leftOut('METER')).toEqual(['M-1 not ours: belongs to Sken', 'M-2 not ours: belongs to Sken']);
		expect((await markNow(db.sql, await markOf('M-1')))!.owner).toBe('SKEN');
		expect((await markNow(db.sql, await markOf('OURS')))!.owner).toBeNull();
		expect(await findingsOf(db.sql)).toEqual([]);
	});
	it('goes to its owner as it is, to anybody else only with a reason', async () => {
		await expect(ship('SKEN', { lot: 'THEIRS' })).rejects.toThrow(
			'Lot THEIRS belongs to Ostrel. Take another, or say why it goes.'
		);
		await ship('OSTREL', { lot: 'THEIRS' });
		await ship('SKEN', { lot: 'THEIRS' }, { reason: 'Ostrel agreed by telephone' });
		const use = { to: '@process', run: 'X', role: 'use' as const };
		await expect(ship('OSTREL', { lot: 'THEIRS', ...use }, { kind: 'use', runs: [{ code: 'X' }] })).rejects.toThrow(
			'belongs to Ostrel'
		);
		// Its serial goes by its lot's owner.
		const meter = { item: 'METER', serial: 'M-1' };
		await expect(ship('OSTREL', meter)).rejects.toThrow('Serial M-1 belongs to Sken');
		await ship('SKEN', meter);
	});
	it('lies under a number of its own: more of ours does not come under it, nor more of another', async () => {
		await expect(come([{ lot: 'THEIRS' }])).rejects.toThrow('Lot THEIRS belongs to Ostrel, and what comes is ours.');
		await expect(come([{ lot: 'THEIRS', owner: 'SKEN' }])).rejects.toThrow('and what comes belongs to Sken');
		await expect(come([{ lot: 'OURS', owner: 'SKEN' }])).rejects.toThrow('Lot OURS is ours');
		await expect(come([{ item: 'METER', lot: 'ML', serial: 'M-3', qty: '1' }])).rejects.toThrow(
			'Serial M-3 belongs to Sken, and what comes is ours'
		);
		const unknown = { item: 'SALT', lot: 'NEW', qty: '1', from: '@supplier', to: 'QS/A1', owner: 'NOBODY' };
		await expect(
			book(db.sql, ines, { key: 'unknown', kind: 'receipt', at: '2026-03-01T08:00:00Z', movements: [unknown] })
		).rejects.toThrow('NOBODY');
		await come([{ lot: 'THEIRS', owner: 'OSTREL', qty: '2' }]);
	});
	it('stays whose it was when it is repacked', async () => {
		const repack = (lots: string[], jar: string) =>
			bookTest(db.sql, {
				...{ kind: 'repack', at: '2026-03-04T08:00:00Z', runs: [{ code: `RP-${jar}` }] },
				movements: [
					...lots.map((n) => ({
						...{ item: 'SALT', lot: n, qty: '1', from: 'QS/A1', to: '@process' },
						...{ run: `RP-${jar}`, role: 'use' as const }
					})),
					{
						...{ item: 'JAR', lot: jar, qty: String(2 * lots.length), from: '@process', to: 'QS/A1' },
						...{ run: `RP-${jar}`, role: 'make' as const }
					}
				]
			});
		await repack(['THEIRS'], 'J-THEIRS');
		expect((await markNow(db.sql, await markOf('J-THEIRS')))!.owner).toBe('OSTREL');
		await expect(repack(['THEIRS', 'OURS'], 'J-MIXED')).rejects.toThrow(
			'What goes into RP-J-MIXED belongs to Ostrel and to us. Repack what is each one’s by itself.'
		);
		await repack(['OURS'], 'J-OURS');
		await expect(
			bookTest(db.sql, {
				...{ kind: 'repack', at: '2026-03-04T09:00:00Z', runs: [{ code: 'RP-AGAIN' }] },
				movements: [
					{ item: 'SALT', lot: 'THEIRS', qty: '1', from: 'QS/A1', to: '@process', run: 'RP-AGAIN', role: 'use' },
					{ item: 'JAR', lot: 'J-OURS', qty: '2', from: '@process', to: 'QS/A1', run: 'RP-AGAIN', role: 'make' }
				]
			})
		).rejects.toThrow('Lot J-OURS is ours, and what comes belongs to Ostrel');
	});
	it('a delivery that stays theirs is its partner’s, row by row', async () => {
		const code = await createDocument(db.sql, 'ines', {
			...{ kind: 'purchase', partner: 'OSTREL', place: 'QS/A1', theirs: true },
			lines: [{ item: 'SALT', qty: '3' }]
		});
		const order = (await getOrder(db.sql, code))!;
		await saveRows(db.sql, 'ines', order, [
			{ id: randomUUID(), lineId: order.lines[0].id, version: 0, data: { lot: 'CONSIGNED', qty: '3' } }
		]);
		await bookNow(db.sql, ines, code, { key: `book ${code}` });
		expect((await markNow(db.sql, await markOf('CONSIGNED')))!.owner).toBe('OSTREL');
		// Nobody writes an invoice of what was only brought.
		expect((await listed(invoiceList, '')).filter((r) => r.order === code)).toEqual([]);
		await expect(
			createDocument(db.sql, 'ines', {
				...{ kind: 'sale', partner: 'SKEN', theirs: true },
				lines: [{ item: 'SALT', qty: '3' }]
			})
		).rejects.toThrow('Only what is delivered to us may stay somebody else’s.');
		await expect(
			createDocument(db.sql, 'ines', {
				...{ kind: 'purchase', partner: 'OSTREL', place: 'QS/A1', theirs: true },
				lines: [{ item: 'SALT', qty: '3', for: 'SKEN' }]
			})
		).rejects.toThrow('What stays theirs is not bought for anybody.');
	});
	it('is not counted on for what is to be made', async () => {
		await createItem(db.sql, 'ines', {
			...{ code: 'KIT', name: 'Kit', unit: 'each', tracking: 'lot' as const },
			parts: [{ item: 'JAR', qty: '1' }]
		});
		await createDocument(db.sql, 'ines', { kind: 'production', place: 'QS/A1', lines: [{ item: 'KIT', qty: '3' }] });
		// Two jars are ours and two are not.
		const short = await shortage(db.sql, null, '2026-03-10');
		expect(short.find((s) => s.item === 'JAR')).toMatchObject({ free: '2' });
	});
	it('is not taken by a scan, save for its owner', async () => {
		const scan = async (partner: string) => {
			const code = await createDocument(db.sql, 'ines', {
				...{ kind: 'sale', partner, place: 'QS' },
				lines: [{ item: 'SALT', qty: '1' }]
			});
			const order = (await getOrder(db.sql, code))!;
			return pickFromScan(db.sql, order, { text: 'THEIRS', lot: 'THEIRS', coded: false }, null, []);
		};
		await expect(scan('SKEN')).rejects.toThrow('THEIRS belongs to Ostrel. Take another;');
		expect((await scan('OSTREL')).row.after).toMatchObject({ place: 'QS/A1' });
	});
});

describe('whose it is', () => {
	it('is corrected like everything recorded: the change stands in the ledger, and stock of before shows the one of then', async () => {
		await come([{ lot: 'CHANGES' }]);
		await expect(setOwner('CHANGES', 'NOBODY')).rejects.toThrow('NOBODY');
		await expect(setOwner('M-2', '')).rejects.toThrow('M-2 belongs to Sken with its lot ML.');
		await setOwner('CHANGES', 'SKEN');
		const owned = async (query: string) =>
			(await listed(stockList, `owner=SKEN&${query}`)).map((r) => `${r.number} ${r.free} ${r.held}`);
		expect(await owned('')).toEqual(['M-2 0 belongs to Sken', 'CHANGES 0 belongs to Sken']);
		expect(await owned('asOf=2026-03-03')).toEqual(['M-1 null belongs to Sken', 'M-2 null belongs to Sken']);
		await setOwner('ML', '');
		expect(await leftOut('METER')).toEqual([]);
		expect(await owned('')).toEqual(['CHANGES 0 belongs to Sken']);
		const [{ entry }] = await db.sql<{ entry: string }[]>`
			SELECT entry FROM event_entries(ARRAY[(SELECT event_id FROM mark_change WHERE mark_id = ${await markOf('ML')})])`;
		expect(JSON.parse(entry).changes).toMatchObject([{ field: 'owner', old: 'SKEN' }]);
		const [made] = await db.sql<{ entry: string }[]>`
			SELECT entry FROM event_entries(ARRAY[(SELECT event_id FROM mark WHERE id = ${await markOf('ML')})])`;
		const first = JSON.parse(made.entry);
		expect(first.format).toBe(3);
		expect(first.marks.find((m: { lot?: string; serial?: string }) => m.lot === 'ML').owner).toBe('SKEN');
		expect(await findingsOf(db.sql)).toEqual([]);
	});
	it('narrows the register, and the totals say how much is not ours and free', async () => {
		const rows = await listed(registerList, 'owner=OSTREL&show=all');
		expect(rows.map((r) => r.number)).toEqual(['CONSIGNED', 'J-THEIRS', 'THEIRS']);
		const jar = (await listed(totalList, '')).find((r) => r.itemCode === 'JAR')!;
		expect([jar.qty, jar.theirs, jar.free]).toEqual(['4', '2', '2']);
	});
	it('cannot be changed behind the ledger’s back', async () => {
		await expect(db.owner`UPDATE mark SET owner = 'SKEN' WHERE number = 'OURS'`).rejects.toThrow(
			'owner of a mark changes only by an event that records it'
		);
	});
});
