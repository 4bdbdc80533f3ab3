import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readTagCode, readTagText, tagCode, tagText } from './epc.ts';

describe('the EPC of a unit', () => {
	it('is that of the worked example of the EPC Tag Data Standard, but for its filter value (from memory)', () => {
		// urn:epc:tag:sgtin-96:3.0614141.812345.6789 is 3074257BF7194E4000001A85; the filter is bits 9 to 11: 3 there, 0 here.
		expect(tagCode('80614141123458', '6789', 7)).toEqual({ scheme: 'sgtin-96', hex: '3014257BF7194E4000001A85' });
		expect(readTagCode('3074257BF7194E4000001A85')).toEqual({ gtin: '80614141123458', serial: '6789' });
		// urn:epc:tag:sgtin-198:3.0614141.712345.32a/b begins with 3674257BF6B7A659B2C2BF1.
		const { scheme, hex } = tagCode('70614141123451', '32a/b', 7);
		expect([scheme, hex.slice(0, 23)]).toEqual(['sgtin-198', '3614257BF6B7A659B2C2BF1']);
		expect(readTagCode(hex)).toEqual({ gtin: '70614141123451', serial: '32a/b' });
	});
	it('is short where the serial is a number that fits in 38 bits, long where it is not, our own where nothing fits', () => {
		const scheme = (serial: string) => tagCode('09506000100425', serial, 7).scheme;
		expect(['1', '274877906943', '274877906944', '007', 'WM-0215'].map(scheme)).toEqual([
			'sgtin-96',
			'sgtin-96',
			'sgtin-198',
			'sgtin-198',
			'sgtin-198'
		]);
		expect([scheme('Größe-1'), scheme('A B'), scheme('X'.repeat(21))]).toEqual(['own', 'own', 'own']);
		expect(tagCode(null, 'WM-0215', 7)).toEqual({ scheme: 'own', hex: '' });
	});
	it('comes back as it was written, for any prefix and serial', () => {
		const sign = fc.constantFrom(...'ABCXYZabcxyz0123456789-_./()*+');
		fc.assert(
			fc.property(
				fc.integer({ min: 6, max: 12 }),
				fc.string({ unit: sign, minLength: 1, maxLength: 20 }),
				(digits, serial) => {
					const { hex } = tagCode('09506000100425', serial, digits);
					expect(readTagCode(hex)).toEqual({ gtin: '09506000100425', serial });
				}
			)
		);
	});
	it('is not read out of what is none', () => {
		for (const hex of ['', '30', 'E2003412012345678901234', '3114257BF7194E4000001A85'])
			expect(readTagCode(hex)).toBeNull();
	});
});

describe('the memory of a tag', () => {
	it('comes back as it was written, whatever signs it has', () => {
		const any = fc.string({ unit: 'grapheme', maxLength: 20 });
		fc.assert(
			fc.property(any, any, any, (order, operation, state) => {
				const memory = { item: 'W|M', serial: 'WM 1|%', order, operation, state };
				expect(readTagText(tagText(memory))).toEqual(memory);
			})
		);
	});
	it('says nothing where it is blank or of another kind', () => {
		for (const text of ['', 'x', 'a|b|c', '||||', '%zz|a|b|c|d']) expect(readTagText(text)).toBeNull();
	});
});
