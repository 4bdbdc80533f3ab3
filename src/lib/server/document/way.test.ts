import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { words } from '../../../../tests/pdf.ts';
import { historyOf, historyOfAll } from '../history/history.ts';
import { shippingPaper } from '../outbound/packing.ts';
import { saveFirm } from '../setup/firm.ts';
import { changeItem, createItem, listItems, setPicture } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { openWays, saveWay, setWayClosed } from '../setup/ways.ts';
import { storeFile } from '../register/attachments.ts';
import { bookSheet, findOrder, sheetState } from '../sheet/state.ts';
import { createDocument } from './create.ts';
import { setWay } from './way.ts';

const db = testDatabase();
const road = { code: 'ROAD', name: 'Road', divisor: '', rate: '1.2', minimum: '15', currency: 'EUR' };
const sale = (lines: [string, string][], way?: string) =>
	createDocument(db.sql, 'ines', {
		kind: 'sale',
		partner: 'C1',
		way,
		lines: lines.map(([item, qty]) => ({ item, qty }))
	});
const weighed = async (code: string) => (await sheetState(db.sql, code)).weighed;
const send = async (code: string, way: string, role = 'coordinator') =>
	setWay(db.sql, { role }, await findOrder(db.sql, code), { way });
beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	const each = { unit: 'each', tracking: 'lot' as const };
	await createItem(db.sql, 'ines', {
		...{ code: 'BOX', name: 'Box', ...each },
		measures: { net: '3', gross: '3.4', length: '60', width: '40', height: '30' }
	});
	await createItem(db.sql, 'ines', { code: 'BAG', name: 'Bag', ...each });
	await saveWay(db.sql, 'ines', road, true);
	await saveWay(db.sql, 'ines', { ...road, code: 'AIR', name: 'Air', divisor: '6000', rate: '4', minimum: '' }, true);
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: ['BOX', 'BAG'].map((item) => ({ item, lot: 'L1', qty: '10', from: '@supplier', to: 'QS/A1' }))
	});
});

describe('a document', () => {
	it('shows what it weighs, how it is sent and what that asks; another way counts at once', async () => {
		const code = await sale(
			[
				['BOX', '2'],
				['BAG', '1']
			],
			'ROAD'
		);
		expect(await weighed(code)).toMatchObject({
			lines: [
				{ no: 1, pieces: '2', net: '6', gross: '6.8', volumetric: '28.8', chargeable: '28.8' },
				{ no: 2, gross: null, chargeable: null }
			],
			total: { pieces: '3', chargeable: '28.8' },
			unknown: [2],
			way: { code: 'ROAD' },
			carriage: { amount: '34.56', currency: 'EUR', minimum: false }
		});
		await send(code, 'AIR');
		expect(await weighed(code)).toMatchObject({
			divisor: 6000,
			total: { chargeable: '24' },
			carriage: { amount: '96' }
		});
		await send(code, '');
		expect(await weighed(code)).toMatchObject({ way: null, carriage: null });
	});
	it('is sent by a way that is there and open, by whoever may write orders; nothing else changes it', async () => {
		const code = await sale([['BOX', '1']]);
		await expect(send(code, 'SHIP')).rejects.toThrow('There is no way of delivery SHIP');
		await expect(send(code, 'ROAD', 'assembly')).rejects.toThrow('Only a coordinator or receiving and shipping can');
		await setWayClosed(db.sql, 'ines', 'AIR', true);
		await expect(send(code, 'AIR')).rejects.toThrow('AIR is closed');
		expect((await openWays(db.sql)).map((w) => w.code)).toEqual(['ROAD']);
		await expect(sale([['BOX', '1']], 'AIR')).rejects.toThrow('no open way of delivery AIR');
		await setWayClosed(db.sql, 'ines', 'AIR', false);
		const purchase = await createDocument(db.sql, 'ines', {
			...{ kind: 'purchase', partner: 'S1', place: 'QS/A1' },
			lines: [{ item: 'BOX', qty: '1' }]
		});
		await expect(send(purchase, 'ROAD')).rejects.toThrow('is sent to nobody');
		expect(await weighed(purchase)).toMatchObject({ total: { gross: '3.4' }, way: null });
	});
	it('carries it on its packing list', async () => {
		const code = await sale([['BOX', '2']], 'ROAD');
		const { stamp } = await sheetState(db.sql, code);
		const { id } = await bookSheet(db.sql, ines, code, { key: randomUUID(), stamp });
		const text = await words((await shippingPaper(db.sql, 'ines', code, id, 'packing list'))!);
		expect(text).toContain(
			'2 pieces · net 6 kg · gross 6.8 kg · volumetric (5,000 cm³/kg) 28.8 kg · chargeable 28.8 kg'
		);
		expect(text).toContain('Sent by Road, carriage 34.56 EUR');
		await expect(send(code, 'AIR')).rejects.toThrow('is complete');
	});
});

describe('what is set up', () => {
	it('ways and the firm’s divisor keep their history; what is no number, code or currency is refused', async () => {
		const refused = (more: object) =>
			saveWay(db.sql, 'ines', { ...road, code: 'X', ...more }, true).catch((e) => e.message);
		expect(await refused({ divisor: '2999' })).toContain('3000 to 6000');
		expect(await refused({ divisor: '6001' })).toContain('3000 to 6000');
		expect(await refused({ rate: 'much' })).toBeTruthy();
		expect(await refused({ currency: 'euro' })).toContain('three letters');
		expect(await refused({ code: 'A B' })).toContain('no blanks');
		expect(await refused({ code: 'ROAD' })).toContain('already');
		await saveWay(db.sql, 'ines', { ...road, rate: '1.5' }, false);
		const [first] = await historyOfAll(db.sql, 'way');
		expect(JSON.stringify(first)).toContain('1.5');
		await saveFirm(db.sql, 'ines', { divisor: '4000' });
		const code = await sale([['BOX', '1']]);
		expect(await weighed(code)).toMatchObject({ divisor: 4000, total: { volumetric: '18' } });
		await expect(saveFirm(db.sql, 'ines', { divisor: '7000' })).rejects.toThrow('3000 to 6000');
	});
	it('an item is weighed and measured, a size is whole, and gross is not less than net', async () => {
		const [box] = await listItems(db.sql, 'BOX');
		const change = (measures: object) =>
			changeItem(db.sql, 'ines', 'BOX', { name: box.name, rules: box.rules, parts: [], measures });
		await expect(change({ net: '4', gross: '3' })).rejects.toThrow('less gross than net');
		await expect(change({ length: '4' })).rejects.toThrow('length, width and height');
		await change({ net: '3', gross: '3.5', length: '60', width: '40', height: '30' });
		const [now] = await listItems(db.sql, 'BOX');
		expect(now.measures).toEqual({ net: '3', gross: '3.5', length: '60', width: '40', height: '30', volumetric: null });
		await changeItem(db.sql, 'ines', 'BOX', { name: 'Boxes', rules: box.rules, parts: [] });
		expect((await listItems(db.sql, 'BOX'))[0].measures.gross).toBe('3.5');
	});
	it('has a picture, which stands in its history', async () => {
		const png = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 1]);
		const { sha256 } = await storeFile(db.sql, 'ines', { name: 'box.png', bytes: png });
		await setPicture(db.sql, 'ines', 'BOX', sha256);
		const code = await sale([['BOX', '1']]);
		expect((await sheetState(db.sql, code)).lines[0].picture).toBe(sha256);
		expect(JSON.stringify(await historyOf(db.sql, 'item', 'BOX'))).toContain(sha256);
		await setPicture(db.sql, 'ines', 'BOX', null);
		expect((await sheetState(db.sql, code)).lines[0].picture).toBeNull();
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
