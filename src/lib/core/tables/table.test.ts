import fc from 'fast-check';
import Papa from 'papaparse';
import { readFileSync, readdirSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import type { Fact } from '../facts/fact.ts';
import { expand } from '../ranges/ranges.ts';
import { guess, mapRows, readCells } from './table.ts';

const line = { tracking: 'lot', decimals: 3, unit: 'kg' };

describe('cells', () => {
	// RFC 4180, and the cases of the package csv-spectrum: read as its own answers say.
	const folder = 'node_modules/csv-spectrum/csvs';
	it.each(readdirSync(folder))('csv-spectrum: %s', (file) => {
		const [head, ...rows] = readCells(readFileSync(`${folder}/${file}`, 'utf8'));
		const want = JSON.parse(readFileSync(`${folder}/../json/${file.replace('.csv', '.json')}`, 'utf8')) as Record<
			string,
			string
		>[];
		const got = rows.map((r) => Object.fromEntries(head.map((h, i) => [h, r[i]])));
		// The package's two files of this case disagree on the telephone number.
		for (const r of [...got, ...[want].flat()])
			if (file.startsWith('location')) delete (r as Record<string, unknown>)['Contact Phone Number'];
		const trimmed = [want]
			.flat()
			.map((w) => Object.fromEntries(Object.entries(w).map(([k, v]) => [k.trim(), v.trim()])));
		expect(got).toEqual(trimmed);
	});
	it('written and read back are equal', () => {
		const cell = fc
			.string({ minLength: 1, maxLength: 12 })
			.map((t) => t.trim())
			.filter((t) => t !== '');
		fc.assert(
			fc.property(fc.array(fc.tuple(cell, cell, cell), { minLength: 2, maxLength: 20 }), (rows) => {
				fc.pre(!rows.flat().some((c) => c.includes('\t')));
				const wide = rows.map((r) => [...r]);
				expect(readCells(Papa.unparse(wide, { delimiter: '\t', newline: '\r\n' }))).toEqual(wide);
			})
		);
	});
});

describe('headings', () => {
	it.each([
		['lot', 'Batch no.\tQty\tExpiry date\tSupplier’s lot', ['lot', 'qty', 'expiresOn', 'supplierLot']],
		['lot', 'Number\tComment\tQuantity', ['lot', null, 'qty']],
		['lot and serial', 'Serial number\tLot', ['serial', 'lot']],
		['serial', 'SN\tMade on', ['serial', 'madeOn']]
	])('%s: %s', (tracking, head, want) =>
		expect(guess(readCells(head)[0], { ...line, tracking })).toEqual({ mapping: want, headings: true })
	);
	it('are told from data', () => {
		expect(guess(['L-1', '5', '2027-01-01'], line)).toEqual({ mapping: ['lot', 'qty', 'expiresOn'], headings: false });
	});
});

const temp: Fact = {
	code: 'TEMP',
	name: 'Temperature on arrival',
	kind: 'number',
	unit: '°C',
	decimals: 1,
	low: '2',
	high: '8',
	choices: [],
	outside: 'reason',
	per: 'lot'
};
describe('the firm’s own facts', () => {
	const dated = { ...line, tracking: 'serial', decimals: 0, unit: 'each', facts: [temp] };
	it('are columns by their name or code, and each faulty value is named', () => {
		const cells = readCells('Serial\tTemperature on arrival\tBin\nS-1\t4.5\tQS/A1\nS-2\twarm\tQS/A1\n');
		const { mapping } = guess(cells[0], dated);
		expect(mapping).toEqual(['serial', 'fact TEMP', 'place']);
		expect(mapRows(cells, mapping, 1, dated).faults).toMatchObject([
			{ row: 3, message: expect.stringContaining('“warm” is not a number') }
		]);
		expect(guess(['temp', 'SN'], dated).mapping).toEqual(['fact TEMP', 'serial']);
	});
	it('keep serials apart that differ in them, and count the supplier’s serials on beside ours', () => {
		const rows = (text: string) => {
			const cells = readCells(text);
			return mapRows(cells, guess(cells[0], dated).mapping, 1, dated).rows;
		};
		expect(rows('serial,temp\nS-1,4\nS-2,4\nS-3,5\n')).toEqual([
			{ serial: 'S-1', count: 2, facts: { TEMP: '4' } },
			{ serial: 'S-3', count: 1, facts: { TEMP: '5' } }
		]);
		expect(rows('serial,supplier serial\nS-1,X7\nS-2,X8\nS-3,Y1\n')).toEqual([
			{ serial: 'S-1', count: 2, supplierSerial: 'X7' },
			{ serial: 'S-3', count: 1, supplierSerial: 'Y1' }
		]);
	});
});

describe('rows', () => {
	it('carry their facts', () => {
		const cells = readCells('lot,qty,expiry\nA1,12.5,31 Mar 2027\nA2,"1,000.0",2027-04-01\n');
		const { mapping } = guess(cells[0], line);
		expect(mapRows(cells, mapping, 1, line)).toEqual({
			numbers: 2,
			faults: [],
			rows: [
				{ lot: 'A1', qty: '12.5', expiresOn: '2027-03-31' },
				{ lot: 'A2', qty: '1000', expiresOn: '2027-04-01' }
			]
		});
	});
	it('that are faulty are named, each', () => {
		const cells = readCells('lot\tqty\texpiry\nA1\t12.5555\t2027-01-01\n\t3\t2027-01-01\nA3\t-1\t31/01/2027\n');
		const { faults } = mapRows(cells, ['lot', 'qty', 'expiresOn'], 1, line);
		expect(faults.map((f) => f.row)).toEqual([2, 3, 4, 4]);
		expect(faults[0].message).toContain('4 decimals');
		expect(faults[1].message).toBe('has no lot.');
	});
	it('fold consecutive serials, and lose none', () => {
		const numbers = fc
			.uniqueArray(fc.nat(300), { minLength: 1, maxLength: 60 })
			.map((list) => list.map((n) => `S-${String(n).padStart(4, '0')}`));
		fc.assert(
			fc.property(numbers, (list) => {
				const { rows, numbers: n } = mapRows(
					list.map((s) => [s]),
					['serial'],
					0,
					{ ...line, tracking: 'serial' }
				);
				expect(n).toBe(list.length);
				expect(rows.flatMap((r) => expand(r.serial!, r.count!))).toEqual(list);
			})
		);
	});

	it('rows go to the line of their item; one that no line has is named, and nothing else of it is guessed', () => {
		const gel = { id: '1', item: 'GEL', itemName: 'Gel', tracking: 'lot', decimals: 3, unit: 'kg' };
		const cell = { id: '2', item: 'CELL', itemName: 'Cell', tracking: 'serial', decimals: 0, unit: 'each' };
		const cells = [
			['Item', 'Lot', 'Serial', 'Qty'],
			['GEL', 'G-1', '', '5'],
			['cell', '', 'C-1', '1'],
			['CELL', '', 'C-2', '1'],
			['Gel', 'G-2', '', '2.5'],
			['SALT', 'S-1', '', '9'],
			['', 'G-3', '', '1']
		];
		const { mapping, headings } = guess(cells[0], gel, [cell]);
		expect([mapping, headings]).toEqual([['item', 'lot', 'serial', 'qty'], true]);
		const { rows, faults } = mapRows(cells, mapping, 1, gel, '', [cell]);
		expect(rows).toEqual([
			{ lot: 'G-1', qty: '5' },
			{ line: '2', serial: 'C-1', count: 2 },
			{ lot: 'G-2', qty: '2.5' }
		]);
		expect(faults).toEqual([
			{ row: 6, message: 'SALT is on no line here. Take the row out, or add the item to the order.' },
			{ row: 7, message: 'has no item.' }
		]);
		// Alone on its order the column is read all the same: another item's lot is no lot of this one.
		const alone = guess(cells[0], gel);
		expect(mapRows(cells, alone.mapping, 1, gel).faults.map((f) => f.row)).toEqual([3, 4, 6, 7]);
	});
});
