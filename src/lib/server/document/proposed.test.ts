import { randomUUID } from 'node:crypto';
import { beforeAll, expect, it } from 'vitest';
import { bookTest, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { addPartner, addPlace, setPlaceUse } from '../setup/places.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { createDocument } from './create.ts';
import { proposedPlace } from './pages.ts';

const db = testDatabase();
const place = (kind: Parameters<typeof proposedPlace>[1], by = 'tobi') => proposedPlace(db.sql, kind, by);
beforeAll(async () => {
	await makeItems(db.sql);
	for (const code of ['ND', 'ND/A1', 'ND/DOCK', 'QS', 'QS/A0', 'QS/DOCK'])
		await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await db.owner`INSERT INTO part (item_id, part_item_id, qty) SELECT i.id, p.id, 2 FROM item i, item p WHERE i.code = 'METER' AND p.code = 'RAW1'`;
	for (const dock of ['ND/DOCK', 'QS/DOCK']) await setPlaceUse(db.sql, 'ines', dock, 'dock', true);
});
const made = (kind: 'purchase' | 'sale' | 'production', at: string, by = 'tobi') =>
	createDocument(db.sql, by, {
		kind,
		...(kind === 'production' ? {} : { partner: kind === 'sale' ? 'C1' : 'S1' }),
		place: at,
		lines: [{ item: kind === 'production' ? 'METER' : 'RAW1', qty: '1' }]
	});

it('is empty where several sites could be meant, and never the first by the alphabet', async () => {
	for (const kind of ['purchase', 'return', 'sale', 'production', 'issue'] as const) expect(await place(kind)).toBe('');
});
it('is the dock of the person’s site for what arrives, the site for what leaves, and the last bin of the kind', async () => {
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [{ item: 'RAW1', lot: 'R-1', qty: '5', from: '@supplier', to: 'QS/A0' }]
	});
	await made('sale', 'QS');
	expect([await place('purchase'), await place('return'), await place('sale')]).toEqual(['QS/DOCK', 'QS/DOCK', 'QS']);
	expect(await place('production')).toBe('');
	await made('production', 'QS/A0');
	expect(await place('production')).toBe('QS/A0');
	// Nobody else's.
	expect(await place('purchase', 'rhea')).toBe('');
});
it('is at the site of what a person booked last, though somebody else made the document', async () => {
	const code = await made('sale', 'ND', 'ines');
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [{ item: 'RAW1', lot: 'R-2', qty: '1', from: '@supplier', to: 'ND/A1' }]
	});
	expect(await place('purchase')).toBe('QS/DOCK');
	const { stamp } = await sheetState(db.sql, code);
	await bookSheet(db.sql, { ...ines, name: 'tobi' }, code, { key: randomUUID(), stamp });
	expect([await place('purchase'), await place('return')]).toEqual(['ND/DOCK', 'ND/DOCK']);
});
