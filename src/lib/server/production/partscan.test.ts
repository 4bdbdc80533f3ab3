import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, testDatabase } from '../../../../tests/db/cluster.ts';
import { sheets, takeScan } from '../../../../tests/db/sheets.ts';
import { getOrder } from '../document/orders.ts';
import { savePattern } from '../numbering/patterns.ts';
import { changeItem, createItem, listItems } from '../setup/items.ts';
import { addPlace } from '../setup/places.ts';
import { sheetState } from '../sheet/state.ts';

const db = testDatabase();
const { make, type, bookNow } = sheets(db);
const scan = async (code: string, text: string, item?: string) => {
	const order = (await getOrder(db.sql, code))!;
	const lineId = item ? order.lines.find((l) => l.item === item)!.id : null;
	const { taken, said } = await takeScan(db.sql, 'rhea', order, { id: randomUUID(), text, lineId });
	return `${taken ? '' : 'no: '}${said}`;
};
/** What goes into each unit, or into all: "U-1: C-1 1 scanned". */
const inside = async (code: string) =>
	(await sheetState(db.sql, code)).lines
		.filter((l) => l.role === 'component')
		.flatMap((l) =>
			l.cells.flatMap((c) =>
				c.picks.filter((p) => p.id).map((p) => `${c.unit ?? 'all'}: ${p.number} ${p.qty} ${p.evidence}`)
			)
		);

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await savePattern(db.sql, 'ines', {
		...{ code: 'U-SER', name: 'Units' },
		blocks: [
			{ kind: 'text', text: 'U-' },
			{ kind: 'sequence', digits: 3, reset: 'never' }
		]
	});
	await createItem(db.sql, 'ines', { code: 'BOARD', name: 'Board', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'RAW', name: 'Raw', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', {
		...{ code: 'UNIT', name: 'Unit', unit: 'each', tracking: 'serial', runMode: 'unit' },
		parts: [
			{ item: 'BOARD', qty: '1' },
			{ item: 'CELL', qty: '2' }
		]
	});
	const [unit] = await listItems(db.sql, 'UNIT');
	await changeItem(db.sql, 'ines', 'UNIT', {
		...{ name: unit.name, rules: unit.rules, serialPattern: 'U-SER' },
		parts: unit.parts.map((p) => ({ item: p.item, qty: p.qty }))
	});
	await createItem(db.sql, 'ines', {
		...{ code: 'BULK', name: 'Bulk', unit: 'kg', decimals: 3, tracking: 'lot' },
		parts: [{ item: 'RAW', qty: '1' }]
	});
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			...['VB-1', 'VB-2', 'VB-3'].map((serial) => ({ item: 'BOARD', serial, qty: '1' })),
			{ item: 'CELL', lot: 'C-1', qty: '3' },
			{ item: 'CELL', lot: 'C-2', qty: '9' },
			{ item: 'RAW', lot: 'R-1', qty: '4' },
			{ item: 'RAW', lot: 'R-2', qty: '9' }
		].map((m) => ({ ...m, from: '@supplier', to: 'QS/A1' }))
	});
});

describe('a part that is scanned into an order to make', () => {
	it('goes to the unit scanned last, else to the first that lacks it; then it is booked with what was scanned', async () => {
		const code = await make('UNIT', '3');
		expect(await scan(code, 'VB-1', 'UNIT')).toBe('no: Scan the Unit that VB-1 goes into first, then its parts.');
		await scan(code, 'U-001', 'UNIT');
		await scan(code, 'U-002', 'UNIT');
		expect(await scan(code, 'VB-1', 'UNIT')).toContain('Serial VB-1 from QS/A1 for U-002');
		expect(await scan(code, 'VB-2')).toContain('Serial VB-2 from QS/A1 for U-001');
		expect(await scan(code, 'VB-2')).toBe('no: VB-2 goes into U-001 already. Scan another part.');
		expect(await scan(code, 'VB-3')).toBe('no: Every Unit in this sheet has its Board. Scan the next Unit first.');
		// A lot goes in as the unit wants it, from what is left of it.
		expect(await scan(code, 'C-1')).toContain('Lot C-1 from QS/A1 for U-001');
		expect(await scan(code, 'C-1')).toContain('for U-002');
		expect(await scan(code, 'C-2')).toContain('for U-002');
		expect((await inside(code)).sort()).toEqual([
			...['U-001: C-1 2 scanned', 'U-001: VB-2 1 scanned'],
			...['U-002: C-1 1 scanned', 'U-002: C-2 1 scanned', 'U-002: VB-1 1 scanned']
		]);
		await bookNow(code);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
	it('of an order made in batch goes to its ingredient', async () => {
		const code = await make('BULK', '6');
		expect(await scan(code, 'R-1', 'RAW')).toContain('Lot R-1 from QS/A1');
		expect(await inside(code)).toEqual(['all: R-1 4 scanned']);
		// What is made has no form of its own: a number of a part may be either, and is asked about.
		expect(await scan(code, 'R-2')).toBe(
			'no: R-2 may be Bulk or Raw. Click into the line that it is for, then scan it again.'
		);
		expect(await scan(code, 'R-2', 'RAW')).toContain('Lot R-2 from QS/A1');
		expect(await inside(code)).toEqual(['all: R-1 4 scanned', 'all: R-2 2 scanned']);
		await type(code, 'BULK', { lot: 'B-1', qty: '6' });
		await bookNow(code);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
