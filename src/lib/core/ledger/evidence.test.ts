import { describe, expect, it } from 'vitest';
import { countKnown, ENOUGH, EVIDENCE, evidenceOf, fallsShort, sayKnown, weakest } from './evidence.ts';

describe('how a number is known', () => {
	it('is enough for a step, or falls short of it', () => {
		const enough = Object.fromEntries(
			ENOUGH.map((e) => [e, EVIDENCE.filter((known) => !fallsShort(known, e)).join(' ')])
		);
		expect(enough).toEqual({
			any: 'scanned entered accepted reported',
			entered: 'scanned entered',
			scanned: 'scanned'
		});
	});
	it('is reported by programs and files, entered by people, where nobody says', () => {
		expect((['screen', 'station', 'api', 'import'] as const).map(evidenceOf)).toEqual([
			'entered',
			'entered',
			'reported',
			'reported'
		]);
	});
	it('of several is what says least; nobody said says less than any', () => {
		expect(weakest([])).toBe('scanned');
		expect(weakest(['scanned', 'entered'])).toBe('entered');
		expect(weakest(['entered', 'reported', 'scanned'])).toBe('reported');
		expect(weakest(['accepted', 'reported'])).toBe('accepted');
		expect(weakest(['accepted', null])).toBeNull();
	});
	it('is counted and said', () => {
		const known = countKnown([...Array(41).fill('scanned'), 'entered', 'entered', null]);
		expect(known).toEqual({ scanned: 41, entered: 2, accepted: 0, reported: 0, unknown: 1 });
		expect(sayKnown(known)).toBe('41 of 44 links scanned, 2 typed or chosen, 1 not recorded');
		expect(sayKnown(countKnown(['scanned', 'scanned']))).toBe('All 2 links scanned');
		expect(sayKnown(countKnown(['scanned']))).toBe('The one link scanned');
		expect(sayKnown(countKnown(['accepted']))).toBe('0 of 1 link scanned, 1 suggested, not checked');
		expect(sayKnown(countKnown([]))).toBe('');
	});
});
