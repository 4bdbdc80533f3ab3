import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { AWAY, Steady } from './steady.ts';

/** What is taken of pictures, 100 ms apart. */
const taken = (pictures: (string | null)[]) => {
	const steady = new Steady();
	return pictures.flatMap((p, i) => steady.look(p, i * 100) ?? []);
};
const gone = Array.from({ length: AWAY / 100 + 2 }, () => null);

describe('codes before a camera', () => {
	it('counts once, however long it is held', () => expect(taken(Array.from({ length: 50 }, () => 'A'))).toEqual(['A']));
	it('counts again when it was away', () => {
		expect(taken(['A', 'A', null, null, 'A', 'A'])).toEqual(['A']);
		expect(taken(['A', 'A', ...gone, 'A', 'A'])).toEqual(['A', 'A']);
	});
	it('a single picture takes nothing: it may be blurred', () => expect(taken(['A', 'B', 'A', null, 'B'])).toEqual([]));
	it('one after the other are all taken', () => expect(taken(['A', 'A', 'B', 'B', 'C', 'C'])).toEqual(['A', 'B', 'C']));
	it('never takes the same twice running without a pause, whatever is seen', () => {
		fc.assert(
			fc.property(fc.array(fc.constantFrom('A', 'B', null), { maxLength: 80 }), (pictures) => {
				const steady = new Steady();
				let before: { text: string; at: number } | null = null;
				let seen = 0;
				pictures.forEach((p, i) => {
					const text = steady.look(p, i * 100);
					if (text && before?.text === text) expect(i * 100 - seen).toBeGreaterThan(AWAY);
					if (text) before = { text, at: i * 100 };
					if (p !== null && p === before?.text) seen = i * 100;
				});
			})
		);
	});
});
