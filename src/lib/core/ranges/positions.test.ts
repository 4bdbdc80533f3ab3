import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { positionIn, Positions } from './positions.ts';
import { expand } from './ranges.ts';

describe('positions of a run', () => {
	it('hold just what was put in, in whatever order, and read back what they wrote', () => {
		fc.assert(
			fc.property(fc.array(fc.nat(300), { maxLength: 80 }), fc.integer({ min: 1, max: 300 }), (put, count) => {
				const text = put.reduce((t, p) => Positions.read(t).with(p), '');
				const read = Positions.read(text);
				const set = new Set(put);
				for (let p = 0; p <= 301; p++) expect(read.has(p)).toBe(set.has(p));
				expect(read.within(count)).toBe([...set].filter((p) => p < count).length);
				// Written in one way: neighbours stand together.
				const sorted = [...set].sort((a, b) => a - b);
				expect(sorted.reduce((t, p) => Positions.read(t).with(p), '')).toBe(text);
			})
		);
	});
	it('of ten thousand scanned one after the other are a few signs', () => {
		let text = '';
		for (let p = 0; p < 10_000; p++) text = Positions.read(text).with(p);
		expect(text).toBe('0-9999');
	});
	it('that cannot be read hold none', () => {
		for (const text of [undefined, '', 'all', '3-', '-3', '1.5', '٣', '9999999'])
			expect(Positions.read(text).within(100_000)).toBe(0);
	});
});

describe('where a number stands in a run', () => {
	it('is its place when the run is written out, and nowhere otherwise', () => {
		fc.assert(
			fc.property(
				fc.constantFrom('PW-', '', 'A1-B', '0'),
				fc.nat(1200),
				fc.integer({ min: 1, max: 4 }),
				fc.integer({ min: 1, max: 150 }),
				fc.integer({ min: 1, max: 7 }),
				fc.constantFrom('', 'x'),
				(head, start, width, count, step, tail) => {
					const first = head + String(start).padStart(width, '0') + tail;
					const all = expand(first, count, step);
					all.forEach((n, i) => expect(positionIn({ first, count, step }, n)).toBe(i));
					const held = new Set(all);
					for (let n = 0; n < 60; n++) {
						const other = head + String(start + n - 10).padStart(width, '0') + tail;
						if (!held.has(other)) expect(positionIn({ first, count, step }, other)).toBeNull();
					}
				}
			),
			{ numRuns: 200 }
		);
	});
	it('is not found under other zeros, another head or no digits', () => {
		const run = { first: 'A-0098', count: 20, step: 1 };
		expect(positionIn(run, 'A-0100')).toBe(2);
		for (const n of ['A-100', 'A-00100', 'B-0100', 'A-0100x', 'A-0097', 'A-0118', 'none'])
			expect(positionIn(run, n)).toBeNull();
		expect(positionIn({ first: 'none', count: 1, step: 1 }, 'none')).toBe(0);
	});
});
