import fc from 'fast-check';
import { expect, it } from 'vitest';
import { drawInk, FIELD, inkOf, isSigned, LEAST_INK } from './ink.ts';

const point = fc.record({
	x: fc.double({ min: -1000, max: 10_000, noNaN: true }),
	y: fc.double({ min: -1000, max: 10_000, noNaN: true })
});
const strokes = fc.array(fc.array(point, { maxLength: 20 }), { maxLength: 10 });

it('a dot, a slip of the hand and an empty field are no signature', () => {
	expect(isSigned([])).toBe(false);
	expect(isSigned([[]])).toBe(false);
	expect(isSigned([[{ x: 10, y: 10 }]])).toBe(false);
	expect(
		isSigned([
			[
				{ x: 10, y: 10 },
				{ x: 10 + LEAST_INK - 1, y: 10 }
			]
		])
	).toBe(false);
	// Many dots are none either: nothing was drawn between them.
	expect(isSigned(Array.from({ length: 400 }, (_, i) => [{ x: i, y: i }]))).toBe(false);
	expect(
		isSigned([
			[
				{ x: 0, y: 0 },
				{ x: 30, y: 40 }
			],
			[
				{ x: 0, y: 0 },
				{ x: 6, y: 8 }
			]
		])
	).toBe(true);
});
it('ink is the length of the lines: 3, 4, 5 (Euclid, Elements I.47)', () => {
	expect(
		inkOf([
			[
				{ x: 0, y: 0 },
				{ x: 3, y: 4 }
			],
			[
				{ x: 1, y: 1 },
				{ x: 1, y: 3 },
				{ x: 1, y: 2 }
			]
		])
	).toBeCloseTo(5 + 3, 9);
});
it('the picture holds lines only, and none leaves the field', () => {
	fc.assert(
		fc.property(strokes, (drawn) => {
			const svg = drawInk(drawn);
			expect(svg.replace(/<polyline points="[-\d., ]*"\/>/g, '')).toBe(drawInk([]));
			for (const [, x, y] of svg.matchAll(/(-?[\d.]+),(-?[\d.]+)/g)) {
				expect(Number(x)).toBeGreaterThanOrEqual(0);
				expect(Number(x)).toBeLessThanOrEqual(FIELD.width);
				expect(Number(y)).toBeGreaterThanOrEqual(0);
				expect(Number(y)).toBeLessThanOrEqual(FIELD.height);
			}
			expect((svg.match(/<polyline/g) ?? []).length).toBe(drawn.filter((s) => s.length).length);
		})
	);
});
