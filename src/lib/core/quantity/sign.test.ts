import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import { grouped, isPlain, typedNumber, unreadable, useDecimalSign, written, type DecimalSign } from './sign.ts';
import { parseQty } from './quantity.ts';

afterEach(() => useDecimalSign('.'));

describe('a number as it is typed', () => {
	it.each<[string, DecimalSign, number | undefined, string]>([
		['12.5', '.', 3, '12.5'],
		['1,5', ',', 3, '1.5'],
		[' 1,250.50 ', '.', 2, '1250.50'],
		['1.250,50', ',', 2, '1250.50'],
		['1 250,5', ',', 3, '1250.5'],
		['1\u202f250\u202f000', ',', 3, '1250000'],
		['1,250,000', '.', 3, '1250000'],
		['.5', '.', 1, '0.5'],
		['−4,5', ',', 1, '-4.5'],
		// Pieces have no decimals, so the sign can only stand between thousands.
		['1,250', '.', 0, '1250'],
		['1.250', ',', 0, '1250'],
		['0.125', '.', 3, '0.125'],
		['0012', '.', 0, '0012']
	])('%s, decimals after “%s”, of %s places, is %s', (typed, sign, decimals, kept) => {
		useDecimalSign(sign);
		expect(typedNumber(typed, decimals)).toBe(kept);
	});
	it.each<[string, DecimalSign, number | undefined, RegExp]>([
		['1,5', '.', 3, /^“1,5”: decimals come after a point here. Type 1.5\.$/],
		['1.5', ',', 3, /^“1.5”: decimals come after a comma here. Type 1,5\.$/],
		['1,250', '.', 3, /^“1,250” can be read as 1250 or as 1.250\. Type it without/],
		['1.250', ',', 3, /^“1.250” can be read as 1250 or as 1,250\. Type it without/],
		['1,250', '.', undefined, /can be read as 1250/],
		['0.125', ',', 3, /decimals come after a comma here. Type 0,125/],
		['1,25,000', '.', 3, /is not a quantity/],
		['1 2', '.', 3, /is not a quantity/],
		['1.250.5', '.', 3, /is not a quantity/],
		['12,5kg', ',', 3, /is not a quantity. Type digits, with a comma before decimals: 12,5/],
		['5,', ',', 3, /is not a quantity/]
	])('%s, decimals after “%s”, of %s places, is refused', (typed, sign, decimals, why) => {
		useDecimalSign(sign);
		const left = typedNumber(typed, decimals);
		expect((parseQty(left, 3) as { problem: string }).problem).toMatch(why);
		expect(unreadable(left, 'a quantity')).toMatch(why);
		// It stands in its field as it was typed, at most with a question mark.
		expect(left.replace(/\?$/, '')).toBe(typed);
	});
	it.each<[string, DecimalSign, string]>([
		['1,5', ',', '“1,5” is not a quantity as programs write it: 1.5, with a point and no groups.'],
		['1,250.5', '.', '“1,250.5” is not a quantity as programs write it: 1250.5, with a point and no groups.'],
		['1 000', '.', '“1 000” is not a quantity as programs write it: 1000, with a point and no groups.']
	])('%s from a program, where people write decimals after “%s”, says how programs write it', (text, sign, says) => {
		useDecimalSign(sign);
		expect(parseQty(text, 3)).toEqual({ problem: says });
	});
	const sign = fc.constantFrom<DecimalSign>('.', ',');
	const digits = fc.string({ unit: fc.constantFrom('0', '1', '5', '9', '.', ',', ' ', '-'), maxLength: 12 });
	it('is never read as another: what is read has just its digits, and its decimals after the firm’s sign', () =>
		fc.assert(
			fc.property(digits, sign, fc.option(fc.nat(4), { nil: undefined }), (typed, by, decimals) => {
				const left = typedNumber(typed, decimals, by);
				if (!isPlain(left)) return;
				expect(left.replace(/\D/g, '').replace(/^0+/, '')).toBe(typed.replace(/\D/g, '').replace(/^0+/, ''));
				const after = (text: string, s: string) => (text.includes(s) ? text.split(s).pop()!.trim() : '');
				expect(after(left, '.')).toBe(after(typed, by));
				// What would be read otherwise by the other sign is read so only where the number has no decimals.
				const others = typedNumber(typed, 9, by === '.' ? ',' : '.');
				if (isPlain(others) && decimals !== 0) expect(Number(others)).toBe(Number(left));
			}),
			{ numRuns: 3000 }
		));
	it('stays what it is when it is shown and typed again', () =>
		fc.assert(
			fc.property(fc.bigInt({ min: 0n, max: 10n ** 12n }), fc.nat(6), sign, (n, places, by) => {
				useDecimalSign(by);
				const text = String(n).padStart(places + 1, '0');
				const kept = places ? `${text.slice(0, -places)}.${text.slice(-places)}` : text;
				expect(typedNumber(written(kept))).toBe(kept);
				// As lists show it: grouped. A single group is asked again, never taken for another number.
				const again = typedNumber(grouped(kept), 6);
				if (isPlain(again)) expect(again).toBe(kept);
				else expect(unreadable(again, 'a quantity')).toContain(kept.replace('.', by));
			})
		));
});

describe('a number as it is shown', () => {
	// ISO 80000-1, 7.3: the decimal sign is a comma or a point. The signs between thousands are common practice.
	it.each<[string | number, DecimalSign, string, string]>([
		['1250.5', '.', '1,250.5', '1250.5'],
		['1250.5', ',', '1.250,5', '1250,5'],
		[1_000_000, ',', '1.000.000', '1000000'],
		['-0.25', ',', '-0,25', '-0,25'],
		['999', '.', '999', '999']
	])('%s after “%s” is %s, and %s in a field', (kept, sign, inList, inField) => {
		useDecimalSign(sign);
		expect([grouped(kept), written(String(kept))]).toEqual([inList, inField]);
	});
	it('is left as it is where it is no number', () => {
		useDecimalSign(',');
		expect([written('1.5?'), written('VB-1.5'), written('')]).toEqual(['1.5?', 'VB-1.5', '']);
	});
});
