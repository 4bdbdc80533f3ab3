import { describe, expect, it } from 'vitest';
import { askedAt, changesOf, startFrom, STARTS } from './rule.ts';
import { ruleSentence } from './sentence.ts';

describe('starting points', () => {
	it.each([
		['everywhere', 'serial', 'A serial is required at every step.'],
		['at shipment only', 'serial', 'A serial is required at customer return and shipment; nothing is asked elsewhere.'],
		[
			'from receipt to shipment only',
			'lot',
			'A lot is required at receipt, customer return, shipment and supplier return; nothing is asked elsewhere.'
		],
		[
			'lot everywhere, serial at shipment',
			'lot and serial',
			'A lot is required at every step. A serial is required at customer return and shipment; nothing is asked elsewhere.'
		]
	] as const)('%s, for %s', (start, carries, sentence) => {
		const numbers = (['lot', 'serial'] as const).filter((n) => carries.includes(n));
		expect(ruleSentence(startFrom(start, carries), numbers)).toBe(sentence);
	});
	it('ask nothing that the item does not carry', () => {
		for (const s of STARTS) for (const r of startFrom(s, 'lot')) expect(r.serial).toBe('not asked');
	});
});

it('says what is asked at a step of what the item carries', () => {
	expect(askedAt('lot and serial', { lot: 'required', serial: 'not asked' })).toBe('lot');
	expect(askedAt('lot and serial', { lot: 'asked', serial: 'asked' })).toBe('lot and serial');
	expect(askedAt('serial', { lot: 'required', serial: 'not asked' })).toBe('none');
	expect(askedAt('lot', undefined)).toBe('none');
});
it('tells stricter from looser', () => {
	const changes = changesOf(startFrom('at shipment only', 'serial'), startFrom('everywhere', 'serial'));
	expect(changes).toHaveLength(8);
	expect(changes.every((c) => c.stricter && c.number === 'serial')).toBe(true);
});
