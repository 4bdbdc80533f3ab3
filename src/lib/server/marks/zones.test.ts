import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { book } from '../ledger/book.ts';
import { drawRows } from '../sheet/draw.ts';
import { savePattern } from '../numbering/patterns.ts';
import { saveFirm } from '../setup/firm.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';

const db = testDatabase();
/** Two sites of one firm, eleven hours apart. */
const SITES = { LONDON: 'Europe/London', SYDNEY: 'Australia/Sydney' };

beforeAll(async () => {
	await saveFirm(db.sql, 'ines', { zone: 'Europe/London' });
	for (const [code, zone] of Object.entries(SITES)) {
		await addPlace(db.sql, 'ines', { code, name: code, zone });
		await addPlace(db.sql, 'ines', { code: `${code}/A1`, name: 'A1' });
	}
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await addPartner(db.sql, 'ines', { code: 'S1', name: 'Supplier', kind: 'supplier' });
	await savePattern(db.sql, 'ines', {
		code: 'WEEKLY',
		name: 'Year, week and a number',
		blocks: [
			{ kind: 'year', digits: 4 },
			{ kind: 'text', text: '-W' },
			{ kind: 'week' },
			{ kind: 'text', text: '-' },
			{ kind: 'sequence', digits: 3, reset: 'week' }
		]
	});
	await createItem(db.sql, 'ines', {
		code: 'GEL',
		name: 'Gel',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		lotPattern: 'WEEKLY',
		misfit: 'note'
	});
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: Object.keys(SITES).map((site) => ({
			item: 'GEL',
			lot: `G-${site}`,
			qty: '9',
			from: '@supplier',
			to: `${site}/A1`,
			expiresOn: '2026-03-31'
		}))
	});
});
const order = async (kind: 'sale' | 'purchase', site: string) =>
	createDocument(db.sql, 'ines', {
		kind,
		partner: kind === 'sale' ? 'C1' : 'S1',
		place: kind === 'sale' ? site : `${site}/A1`,
		lines: [{ item: 'GEL', qty: '1' }]
	});

describe('today is the day at the site', () => {
	// 31 March 2026, 14:00 UTC: 15:00 in London (summer time since 29 March), 01:00 on 1 April in Sydney (UTC+11 until 5 April).
	const clock = () => new Date('2026-03-31T14:00:00Z');
	it('a lot that expires today is still suggested where it is today, and no more where it is tomorrow', async () => {
		const picked = async (site: string) => {
			const { lines } = await sheetState(db.sql, await order('sale', site), 'both', { clock });
			return [lines[0].cells[0].picks.map((p) => p.number), lines[0].leftOut.map((l) => l.reason)];
		};
		expect(await picked('LONDON')).toEqual([['G-LONDON'], []]);
		const [picks, reasons] = await picked('SYDNEY');
		expect(picks).toEqual([]);
		expect(reasons).toEqual([expect.stringContaining('expired')]);
	});
	it('and a program that ships it is asked there alone', async () => {
		const ship = (site: string) =>
			book(
				db.sql,
				{ ...ines, source: 'api' },
				{
					key: randomUUID(),
					kind: 'shipment',
					at: clock().toISOString(),
					partner: 'C1',
					movements: [{ item: 'GEL', lot: `G-${site}`, qty: '1', from: `${site}/A1`, to: '@customer' }]
				},
				{ clock }
			);
		expect((await ship('LONDON')).movements).toBe(1);
		await expect(ship('SYDNEY')).rejects.toThrow('Lot G-SYDNEY expired on 31 Mar 2026.');
	});
	it('a sheet books with the clock it is given', async () => {
		const code = await order('sale', 'LONDON');
		const { stamp } = await sheetState(db.sql, code, 'both', { clock });
		await bookSheet(db.sql, ines, code, { key: randomUUID(), stamp }, clock);
		const [{ at }] = await db.sql<{ at: Date }[]>`SELECT at FROM event ORDER BY id DESC LIMIT 1`;
		expect(at.toISOString()).toBe('2026-03-31T14:00:00.000Z');
	});
	it('a number with its week is of the week there: across New Year too', async () => {
		// 3 January 2027, 14:00 UTC is Sunday in London, in week 53 of 2026 (ISO 8601), and Monday in Sydney, in week 1 of 2027.
		const late = () => new Date('2027-01-03T14:00:00Z');
		const drawn = async (site: string) => {
			const o = (await getOrder(db.sql, await order('purchase', site)))!;
			await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 1 }, late());
			return (await sheetState(db.sql, o.code, 'both', { clock: late })).lines[0].rows[0].lot;
		};
		expect([await drawn('LONDON'), await drawn('SYDNEY')]).toEqual(['2026-W53-001', '2027-W01-001']);
	});
});
