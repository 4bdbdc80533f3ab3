import { describe, expect, it } from 'vitest';
import { otherwise, type UnitPart } from './unit.ts';

const part = (item: string, qty: string): UnitPart => ({
	...{ mark: item + qty, kind: 'lot', number: 'L', item, itemName: `Part ${item}`, unit: 'each', qty },
	...{ expiresOn: null, status: 'released', parts: [] }
});
const planned = [
	{ item: 'A', itemName: 'Part A', unit: 'each', qty: '2' },
	{ item: 'B', itemName: 'Part B', unit: 'g', qty: '0.5' }
];

describe('what is in a unit, beside its parts list', () => {
	it('is the same however many lots it comes from, or says what is more, less, missing or not on the list', () => {
		expect(otherwise([part('A', '0.5'), part('A', '1.5'), part('B', '0.50')], planned)).toEqual([]);
		expect(otherwise([part('A', '3')], planned)).toEqual(['Part A: 3 of 2', 'Part B: 0 g of 0.5 g']);
		expect(otherwise([part('A', '2'), part('B', '0.5'), part('C', '1'), part('C', '2')], planned)).toEqual([
			'Part C: not on the list'
		]);
	});
});
