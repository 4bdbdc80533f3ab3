import Fraction from 'fraction.js';
import { describe, expect, it } from 'vitest';
import { levelsDown } from './levels.ts';
import { compare, nothingOf, shareOf, type Went } from './real.ts';

const went = (item: string, qty: string, marks: string[], parts: Went[] = []): Went => ({
	...{ item, qty: new Fraction(qty), marks: new Set(marks) },
	parts: new Map(parts.map((p) => [p.item, p]))
});

describe('a parts list beside what really went in', () => {
	it('says of each level what was planned, what is in it, and what nobody planned', () => {
		// By hand: 2 kits of 3 bottles (0.5 L of bulk, a cap each); 7 bottles went in, with 3.6 L and 6 caps, and a label.
		const list = [
			{ item: 'KIT', part: 'BOTTLE', qty: '3' },
			{ item: 'BOTTLE', part: 'BULK', qty: '0.5' },
			{ item: 'BOTTLE', part: 'CAP', qty: '1' },
			{ item: 'KIT', part: 'CASE', qty: '1' }
		];
		const real = went(
			'KIT',
			'2',
			[],
			[
				went('BOTTLE', '7', ['a', 'b'], [went('BULK', '18/5', ['x']), went('CAP', '6', ['y'])]),
				went('LABEL', '2', ['l'], [went('INK', '1/3', ['i'])])
			]
		);
		expect(compare(levelsDown(list, 'KIT', '2'), real)).toEqual([
			{ item: 'BOTTLE', level: 1, planned: '6', real: '7', more: '1', numbers: 2 },
			{ item: 'BULK', level: 2, planned: '3', real: '3.6', more: '0.6', numbers: 1 },
			{ item: 'CAP', level: 2, planned: '6', real: '6', more: '0', numbers: 1 },
			{ item: 'CASE', level: 1, planned: '2', real: null, more: null, numbers: 0 },
			{ item: 'LABEL', level: 1, planned: null, real: '2', more: null, numbers: 1 },
			{ item: 'INK', level: 2, planned: null, real: '0.333333', more: null, numbers: 1 }
		]);
		expect(compare([], nothingOf('KIT'))).toEqual([]);
	});
	it('gives each output its share of a batch: by content where all state one, else by quantity', () => {
		const litre = (qty: string, holds: string) => ({ qty, holds, holdsUnit: 'L' });
		expect(shareOf([litre('100', '0.03'), litre('2', '3.5')], litre('100', '0.03')).toFraction()).toBe('3/10');
		const bare = { qty: '1', holds: null, holdsUnit: null };
		expect(shareOf([litre('3', '0.03'), bare], bare).toFraction()).toBe('1/4');
		expect(shareOf([], bare).toFraction()).toBe('0');
	});
});
