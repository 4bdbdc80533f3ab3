import fc from 'fast-check';
import Fraction from 'fraction.js';
import { describe, expect, it } from 'vitest';
import { levelsDown, levelsUp, MOST_LEVELS, needed, type PartLine } from './levels.ts';

const line = (item: string, part: string, qty: string): PartLine => ({ item, part, qty });
const said = (levels: ReturnType<typeof levelsDown>) => levels.map((l) => `${l.level} ${l.item} ${l.qty} ${l.total}`);

describe('a parts list by levels', () => {
	// Three levels, multiplied by hand: a kit has 2 meters and 0.5 kg of salt, a meter 1 probe and 3 cells, a probe 0.25 kg
	// of gel and 0.1 kg of salt. In 4 kits: 8 meters, 8 probes, 24 cells, 2 kg of gel, 2 + 0.8 = 2.8 kg of salt.
	const lines = [
		line('KIT', 'METER', '2'),
		line('KIT', 'SALT', '0.5'),
		line('METER', 'PROBE', '1'),
		line('METER', 'CELL', '3'),
		line('PROBE', 'GEL', '0.25'),
		line('PROBE', 'SALT', '0.1')
	];
	it('is multiplied down to the bottom', () => {
		const down = levelsDown(lines, 'KIT', '4');
		expect(said(down)).toEqual([
			'1 METER 2 8',
			'2 PROBE 1 8',
			'3 GEL 0.25 2',
			'3 SALT 0.1 0.8',
			'2 CELL 3 24',
			'1 SALT 0.5 2'
		]);
		expect([...needed(down)]).toEqual([
			['GEL', '2'],
			['SALT', '2.8'],
			['CELL', '24']
		]);
	});
	it('is read upward, by each way', () => {
		expect(said(levelsUp(lines, 'SALT'))).toEqual(['1 KIT 0.5 0.5', '1 PROBE 0.1 0.1', '2 METER 1 0.1', '3 KIT 2 0.2']);
		expect(levelsUp(lines, 'KIT')).toEqual([]);
		expect(levelsDown(lines, 'SALT')).toEqual([]);
	});
	it('ends where something would contain itself, and where there is too much', () => {
		expect(said(levelsDown([line('A', 'B', '1'), line('B', 'A', '1')], 'A'))).toEqual(['1 B 1 1']);
		const wide = Array.from({ length: 12 }, (_, n) =>
			[0, 1].map((x) => [line(`A${n}`, `B${n}${x}`, '1'), line(`B${n}${x}`, `A${n + 1}`, '1')])
		).flat(2);
		expect(levelsDown(wide, 'A0')).toHaveLength(MOST_LEVELS);
	});
	it('adds up to the product of matrices, and reads the same from both ends', () => {
		// Reference: with lists from lower to higher numbers only, what is in one of each is the sum over all products along ways,
		// worked out here from the top down, item by item.
		const lists = fc.uniqueArray(
			fc.record({ from: fc.nat(5), over: fc.integer({ min: 1, max: 5 }), qty: fc.integer({ min: 1, max: 400 }) }),
			{ maxLength: 12, selector: ({ from, over }) => `${from} ${from + over}` }
		);
		fc.assert(
			fc.property(lists, (list) => {
				const lines = list.map((l) =>
					line(
						`I${l.from}`,
						`I${l.from + l.over}`, // Five levels of quarters have ten decimals, which are all kept.
						String(new Fraction(l.qty, 4))
					)
				);
				const inOne = new Map([['I0', new Fraction(1)]]);
				for (let n = 0; n <= 5; n++)
					for (const l of lines.filter((x) => x.item === `I${n}`))
						if (inOne.has(l.item))
							inOne.set(l.part, (inOne.get(l.part) ?? new Fraction(0)).add(inOne.get(l.item)!.mul(l.qty)));
				const down = levelsDown(lines, 'I0');
				const sums = new Map([['I0', new Fraction(1)]]);
				for (const l of down) sums.set(l.item, (sums.get(l.item) ?? new Fraction(0)).add(l.total));
				expect([...sums].map(([i, q]) => `${i} ${q.toFraction()}`).sort()).toEqual(
					[...inOne].map(([i, q]) => `${i} ${q.toFraction()}`).sort()
				);
				for (const [item, q] of inOne) {
					if (item === 'I0') continue;
					const up = levelsUp(lines, item).filter((l) => l.item === 'I0');
					expect(up.reduce((sum, l) => sum.add(l.total), new Fraction(0)).toFraction()).toBe(q.toFraction());
				}
			})
		);
	});
});
