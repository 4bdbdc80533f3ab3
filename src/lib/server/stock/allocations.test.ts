import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import { setStatus } from '../ledger/changes.ts';
import { createDocument } from '../document/create.ts';
import { historyOf } from '../history/history.ts';
import { saveFirm } from '../setup/firm.ts';
import { createItem, listItems } from '../setup/items.ts';
import { addPlace, savePartner, saveSite } from '../setup/places.ts';
import { sheetState } from '../sheet/state.ts';
import { allocationFor } from './allocations.ts';

const db = testDatabase();
const NOW = new Date('2026-03-10T12:00:00Z');
const ask = (qty: string, more: object = {}) =>
	allocationFor(db.sql, { item: 'GEL', qty, purpose: 'shipment', ...more }, NOW);
const picks = async (...given: Parameters<typeof ask>) =>
	(await ask(...given)).picks.map((p) => `${p.lot} ${p.place} ${p.qty} ${p.why}`);
const left = async (...given: Parameters<typeof ask>) =>
	(await ask(...given)).leftOut.map((l) => `${l.lot} ${l.place} ${l.reason}`).sort();
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2', 'QN', 'QN/B1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPlace(db.sql, 'ines', { code: 'QS/DOCK', name: 'Dock', dock: true });
	await savePartner(db.sql, 'ines', 'SKEN', { name: 'Sken', kind: 'customer' });
	await createItem(db.sql, 'ines', {
		code: 'GEL',
		name: 'Gel',
		unit: 'kg',
		decimals: 1,
		tracking: 'lot',
		expiry: 'asked'
	});
	await createItem(db.sql, 'ines', { code: 'METER', name: 'Meter', unit: 'each', tracking: 'lot and serial' });
	const come = (at: string, ...movements: Partial<NonNullable<EventInput['movements']>[number]>[]) =>
		bookTest(db.sql, {
			...{ kind: 'receipt', partner: 'S1', at, reason: 'As it came' },
			movements: movements.map((m) => ({ item: 'GEL', qty: '1', from: '@supplier', to: 'QS/A1', ...m }))
		});
	await come('2026-01-05T08:00:00Z', { lot: 'LATE', qty: '5', expiresOn: '2027-01-01' });
	await come('2026-01-06T08:00:00Z', { lot: 'SOON', qty: '3', expiresOn: '2026-04-01' });
	await come('2026-01-07T08:00:00Z', { lot: 'NONE', qty: '4' }, { lot: 'NORTH', qty: '6', to: 'QN/B1' });
	await come('2026-01-08T08:00:00Z', { lot: 'GONE', qty: '2', expiresOn: '2026-03-09' });
	await come('2026-01-08T08:00:00Z', { lot: 'TODAY', qty: '1', expiresOn: '2026-03-10', to: 'QS/DOCK' });
	await come('2026-01-09T08:00:00Z', { lot: 'HELD', qty: '2', expiresOn: '2026-12-01' });
	await setStatus(db.sql, ines, { key: 'hold', act: 'hold', mark: await markOf('HELD'), reason: 'to look' });
	await come(
		'2026-01-10T08:00:00Z',
		...['WM-2', 'WM-10'].map((serial) => ({ item: 'METER', lot: 'WL1', serial, qty: '1', to: 'QS/A2' }))
	);
});

describe('one allocation', () => {
	it('takes what expires first, then what came first, from all sites; and says why the others stay', async () => {
		expect(await picks('20')).toEqual([
			'TODAY QS/DOCK 1 expires first',
			'SOON QS/A1 3 expires first',
			'LATE QS/A1 5 expires first',
			'NONE QS/A1 4 by number',
			'NORTH QN/B1 6 by number'
		]);
		const { short, leftOut } = await ask('20');
		expect(short).toBe('1');
		expect(leftOut).toEqual([
			{ lot: 'GONE', serial: null, place: 'QS/A1', qty: '2', reason: 'expired', message: 'expired 9 Mar 2026' },
			{ lot: 'HELD', serial: null, place: 'QS/A1', qty: '2', reason: 'held', message: 'on hold' }
		]);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
	it('of a site leaves the other, of a bin the others; by the day there', async () => {
		expect(await left('20', { site: 'QS' })).toContain('NORTH QN/B1 other site');
		expect(await left('20', { site: 'QS/A1' })).toEqual(
			expect.arrayContaining(['NORTH QN/B1 other site', 'TODAY QS/DOCK other bin'])
		);
		// The next day the gel of today is over.
		expect(await left('20', { at: '2026-03-11T08:00:00Z' })).toContain('TODAY QS/DOCK expired');
	});
	it('asks what the customer asks of what is shipped to it, else what the item asks; of use neither', async () => {
		await savePartner(db.sql, 'ines', 'SKEN', { name: 'Sken', kind: 'customer', minimumDaysLeft: 22 });
		// 1 April is 22 days from 10 March.
		expect(await left('20', { customer: 'SKEN' })).not.toContain('SOON QS/A1 too little life left');
		await savePartner(db.sql, 'ines', 'SKEN', { name: 'Sken', kind: 'customer', minimumDaysLeft: 23 });
		expect((await ask('20', { customer: 'SKEN' })).leftOut).toContainEqual(
			expect.objectContaining({ lot: 'SOON', message: '22 days left, 23 are asked' })
		);
		expect(await left('20', { customer: 'SKEN', purpose: 'use' })).not.toContain('SOON QS/A1 too little life left');
		await db.sql`UPDATE item SET days_left = 30 WHERE code = 'GEL'`;
		expect(await left('20')).toContain('SOON QS/A1 too little life left');
		expect(await left('20', { customer: 'SKEN' })).toContain('SOON QS/A1 too little life left');
		await db.sql`UPDATE item SET days_left = NULL WHERE code = 'GEL'`;
		const history = await historyOf(db.sql, 'partner', 'SKEN');
		expect(JSON.stringify(history)).toContain('minimumDaysLeft');
	});
	it('sends nothing older than what the customer got last, where it wants that', async () => {
		await bookTest(db.sql, {
			...{ kind: 'shipment', partner: 'SKEN', at: '2026-03-01T08:00:00Z' },
			movements: [{ item: 'GEL', lot: 'LATE', qty: '1', from: 'QS/A1', to: '@customer' }]
		});
		await savePartner(db.sql, 'ines', 'SKEN', { name: 'Sken', kind: 'customer', neverOlder: true });
		expect(await left('20', { customer: 'SKEN' })).toEqual(
			expect.arrayContaining(['SOON QS/A1 older than the last delivery', 'TODAY QS/DOCK older than the last delivery'])
		);
		expect((await picks('4', { customer: 'SKEN' }))[0]).toBe('LATE QS/A1 4 expires first');
		await savePartner(db.sql, 'ines', 'SKEN', { name: 'Sken', kind: 'customer' });
	});
	it('takes first what the item says, else the site, else the firm; from one lot where that is asked; off no dock', async () => {
		await saveFirm(db.sql, 'ines', { preference: 'by number' });
		expect((await picks('5', { site: 'QS' }))[0]).toBe('LATE QS/A1 4 by number');
		await saveSite(db.sql, 'ines', 'QS', { preference: 'first in', binsFirst: true });
		expect((await picks('5', { site: 'QS' })).slice(0, 2)).toEqual(['LATE QS/A1 4 first in', 'SOON QS/A1 1 first in']);
		expect(await left('5', { site: 'QS' })).toContain('TODAY QS/DOCK not put away');
		await db.sql`UPDATE item SET preference = 'expires first', one_lot = true WHERE code = 'GEL'`;
		expect(await picks('3.5', { site: 'QS' })).toEqual(['LATE QS/A1 3.5 expires first']);
		expect((await listItems(db.sql, 'GEL'))[0]).toMatchObject({ preference: 'expires first', oneLot: true });
		await db.sql`UPDATE item SET preference = NULL, one_lot = false WHERE code = 'GEL'`;
		await saveSite(db.sql, 'ines', 'QS', {});
		await saveFirm(db.sql, 'ines', { preference: 'expires first' });
	});
	it('names serials with their lots, in the natural order of their numbers', async () => {
		const { picks: two } = await allocationFor(db.sql, { item: 'METER', qty: 2, purpose: 'use' }, NOW);
		expect(two).toEqual([
			{ lot: 'WL1', serial: 'WM-2', place: 'QS/A2', qty: '1', expiresOn: null, why: 'by number' },
			{ lot: 'WL1', serial: 'WM-10', place: 'QS/A2', qty: '1', expiresOn: null, why: 'by number' }
		]);
	});
	it('is what a sheet suggests, with the same reasons', async () => {
		await savePartner(db.sql, 'ines', 'SKEN', { name: 'Sken', kind: 'customer', minimumDaysLeft: 400 });
		const code = await createDocument(db.sql, 'ines', {
			...{ kind: 'sale', partner: 'SKEN', place: 'QS' },
			lines: [{ item: 'GEL', qty: '3' }]
		});
		const clock = () => NOW;
		const [line] = (await sheetState(db.sql, code, 'both', { clock })).lines;
		const same = await ask('3', { customer: 'SKEN', site: 'QS' });
		expect(line.cells[0].picks.map((p) => [p.number, p.qty, p.why])).toEqual(
			same.picks.map((p) => [p.lot, p.qty, p.why])
		);
		expect(line.leftOut.map((l) => l.reason).sort()).toEqual(
			same.leftOut
				.filter((l) => l.reason !== 'other site')
				.map((l) => l.reason)
				.sort()
		);
	});
	it('what went into a run is in process until something comes out of it', async () => {
		await bookTest(db.sql, {
			...{ kind: 'use', at: '2026-03-05T08:00:00Z', runs: [{ code: 'MIX-1' }] },
			movements: [{ item: 'GEL', lot: 'LATE', qty: '0.5', from: 'QS/A1', to: '@process', run: 'MIX-1', role: 'use' }]
		});
		const now = async () => (await ask('99', { site: 'QS' })).leftOut.filter((l) => l.reason === 'in process');
		expect(await now()).toEqual([
			{
				lot: 'LATE',
				serial: null,
				place: '@process',
				qty: '0.5',
				reason: 'in process',
				message: 'went into MIX-1, which is not finished'
			}
		]);
		await bookTest(db.sql, { kind: 'output', at: '2026-03-06T08:00:00Z', runs: [{ code: 'MIX-1', closed: true }] });
		expect(await now()).toEqual([]);
	});
	it('names what is not there', async () => {
		await expect(
			allocationFor(db.sql, { item: 'NO', qty: '1', site: 'NO', customer: 'NO', purpose: 'use' })
		).rejects.toMatchObject({ faults: [{ at: 'item' }, { at: 'site' }, { at: 'customer' }] });
		await expect(ask('0.25')).rejects.toThrow('has 2 decimals');
		await expect(allocationFor(db.sql, { item: 'GEL', qty: '1', purpose: 'fun' })).rejects.toThrow(
			'shipment, use or transfer'
		);
	});
});
