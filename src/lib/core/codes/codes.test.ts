import cdigit from 'cdigit';
import fc from 'fast-check';
import { parseBarcode } from 'gs1-barcode-parser-mod';
import { describe, expect, it } from 'vitest';
import { gs1CheckDigit, gs1Valid, gtin14, luhn, mod11_2, mod37_36, mod97_10 } from './check.ts';
import {
	bracketed,
	buildElements,
	buildLink,
	GS,
	parseElements,
	parseLink,
	readDate,
	writeDate,
	type Element
} from './gs1.ts';
import { readScan } from './scan.ts';
import { Wedge } from './wedge.ts';

const digits = (length: number) => fc.stringMatching(new RegExp(`^\\d{${length}}$`));
const signs = (most: number) => fc.stringMatching(new RegExp(`^[A-Za-z0-9/_.+-]{1,${most}}$`));

describe('check digits and characters', () => {
	it.each([
		// GS1 General Specifications, 7.9
		['629104150021', '3'],
		['37610425002123456', '9']
	])('GS1: %s → %s', (number, digit) => {
		expect(gs1CheckDigit(number)).toBe(digit);
		expect(gs1Valid(number + digit)).toBe(true);
	});
	it('agree with the package cdigit on random texts', () => {
		fc.assert(
			fc.property(
				fc.stringMatching(/^[0-9A-Z]{1,30}$/),
				(t) => void expect(mod37_36(t)).toBe(cdigit.mod37_36.compute(t))
			)
		);
		fc.assert(fc.property(fc.stringMatching(/^\d{1,30}$/), (t) => void expect(luhn(t)).toBe(cdigit.luhn.compute(t))));
		fc.assert(fc.property(digits(13), (t) => void expect(gs1CheckDigit(t)).toBe(cdigit.gtin.compute(t))));
	});
	it('ISO/IEC 7064 MOD 11-2 and MOD 97-10 agree with cdigit; the IBAN of ISO 13616’s example checks', () => {
		const number = fc.stringMatching(/^\d{1,30}$/);
		fc.assert(fc.property(number, (t) => void expect(mod11_2(t)).toBe(cdigit.mod11_2.compute(t))));
		fc.assert(fc.property(number, (t) => void expect(mod97_10(t)).toBe(cdigit.mod97_10.compute(t))));
		// GB82 WEST 1234 5698 7654 32
		expect(mod97_10('WEST12345698765432GB')).toBe('82');
		expect([mod11_2('12A'), mod97_10('1-2')]).toEqual([null, null]);
	});
	it('any one wrong sign is noticed by MOD 37,36 (ISO/IEC 7064, its purpose)', () => {
		fc.assert(
			fc.property(fc.stringMatching(/^[0-9A-Z]{1,20}$/), fc.nat(), fc.stringMatching(/^[0-9A-Z]$/), (t, k, sign) => {
				const i = k % t.length;
				const wrong = t.slice(0, i) + sign + t.slice(i + 1);
				if (wrong !== t) expect(mod37_36(wrong)).not.toBe(mod37_36(t));
			})
		);
	});
	it('a sign that a method does not know gives none', () => {
		expect([mod37_36('ab'), luhn('1A'), gs1CheckDigit('x'), gtin14('09506000134353')]).toEqual([
			null,
			null,
			null,
			null
		]);
	});
});

/** Random element strings over the identifiers that a receipt may meet. */
const withCheck = (length: number) => digits(length - 1).map((d) => d + gs1CheckDigit(d));
const date = fc
	.date({ min: new Date('2001-01-01'), max: new Date('2049-12-31'), noInvalidDate: true })
	.map((d) => writeDate(d.toISOString().slice(0, 10)));
const element = fc.oneof(
	...[
		['00', 18],
		['01', 14],
		['402', 17],
		['414', 13]
	].map(([ai, l]) => withCheck(l as number).map((value): Element => ({ ai: ai as string, value }))),
	...['11', '13', '15', '17'].map((ai) => date.map((value): Element => ({ ai, value }))),
	...['10', '21', '240', '241', '250', '251', '400', '8004'].map((ai) =>
		signs(20).map((value): Element => ({ ai, value }))
	),
	...['30', '37'].map((ai) => fc.integer({ min: 1, max: 99_999_999 }).map((v): Element => ({ ai, value: String(v) }))),
	...['3100', '3103', '3105'].map((ai) => digits(6).map((value): Element => ({ ai, value })))
);
const elements = fc.uniqueArray(element, { selector: (e) => e.ai, minLength: 1, maxLength: 6 });

describe('element strings', () => {
	it('written and read back are the same, bare, with identifiers, and as printed', () => {
		fc.assert(
			fc.property(elements, (list) => {
				for (const text of [
					buildElements(list),
					']C1' + buildElements(list),
					']d2' + GS + buildElements(list),
					bracketed(list)
				])
					expect(parseElements(text)).toEqual({ elements: list });
			})
		);
	});
	it('agree with the package gs1-barcode-parser-mod', () => {
		fc.assert(
			fc.property(elements, (list) => {
				const theirs = parseBarcode(']C1' + buildElements(list)).parsedCodeItems;
				expect(theirs.map((t) => t.ai)).toEqual(list.map((e) => e.ai));
				expect(theirs.map((t) => t.raw)).toEqual(list.map((e) => e.value));
				theirs.forEach((t, i) => {
					if (/^1[1-7]$/.test(t.ai)) expect(t.isoDate).toBe(readDate(list[i].value, new Date().getFullYear()));
				});
			})
		);
	});
	it.each([
		['0109506000134353', 'check digit'],
		['11', 'holds 0 characters'],
		// GS1 General Specifications, 3.2: (20) is n2+n2, an internal product variant of exactly two digits.
		['(20)1', 'holds 1 character'],
		['(20)123', 'holds 3 characters'],
		['(20)1A', 'digits'],
		['0195060001343', 'it takes 14'],
		['(01)09506000134352(10)' + 'x'.repeat(21), '1 to 20'],
		['(999)1', 'does not know'],
		['10AB§C', 'no such signs']
	])('%s is refused: %s', (text, word) => expect((parseElements(text) as { problem: string }).problem).toContain(word));
	it.each([
		// The sliding window of GS1 General Specifications, 7.12: 51 years ahead is last century, 50 back is next.
		['770101', 2026, '1977-01-01'],
		['760101', 2026, '2076-01-01'],
		['271231', 2026, '2027-12-31'],
		['020101', 2060, '2102-01-01'],
		['990101', 2060, '2099-01-01'],
		['280200', 2026, '2028-02-29'],
		['270231', 2026, null]
	])('the date %s seen from %i is %s', (text, year, day) => expect(readDate(text, year)).toBe(day));
});

describe('Digital Link', () => {
	// GS1 Digital Link: URI Syntax; the example from memory.
	const uri = 'https://id.gs1.org/01/09506000134352/10/ABC123/21/456?17=271231';
	const list = [
		{ ai: '01', value: '09506000134352' },
		{ ai: '10', value: 'ABC123' },
		{ ai: '21', value: '456' },
		{ ai: '17', value: '271231' }
	];
	it('is read and written back', () => {
		expect(parseLink(uri)).toEqual({ elements: list });
		expect(buildLink('https://id.gs1.org', list)).toBe(uri);
		expect(parseLink('https://example.com/some/shop/01/9506000134352')).toEqual({ elements: list.slice(0, 1) });
	});
	it('any lot and serial comes back', () => {
		fc.assert(
			fc.property(signs(20), signs(20), (lot, serial) => {
				const given = [list[0], { ai: '10', value: lot }, { ai: '21', value: serial }];
				expect(parseLink(buildLink('https://example.com', given))).toEqual({ elements: given });
			})
		);
	});
	it.each([
		'https://example.com/about',
		'ftp://id.gs1.org/01/09506000134352',
		'https://id.gs1.org/01/09506000134353',
		'https://id.gs1.org/01/09506000134352/99/x'
	])('%s is none', (text) => expect(parseLink(text)).toHaveProperty('problem'));
});

describe('a scan', () => {
	const year = 2026;
	it('says item, lot, serial, expiry, quantity and weight in one', () => {
		expect(readScan(`]d201095060001343521727123110ABC${GS}21S-1${GS}3103012500`, year)).toMatchObject({
			coded: true,
			gtin: '09506000134352',
			lot: 'ABC',
			serial: 'S-1',
			expiresOn: '2027-12-31',
			weight: '12.5'
		});
		expect(readScan(`(02)09506000134352(37)040`, year)).toMatchObject({ gtin: '09506000134352', qty: '40' });
	});
	it('is a plain number when nothing says otherwise', () => {
		for (const text of ['VB-7731', '26W46-A', '0107', '01095060001343', ']C0VB-7731'])
			expect(readScan(text, year)).toEqual({ text: text.replace(/^\]C0/, ''), coded: false });
	});
	it('that is meant as a GS1 code and is none says why', () => {
		expect(readScan(']d20109506000134353', year)).toHaveProperty('problem');
		expect(readScan('(01)09506000134352(17)271331', year)).toHaveProperty('problem');
	});
	it('never throws', () => {
		fc.assert(fc.property(fc.string(), (t) => void readScan(t, year)));
	});
});

describe('a keyboard wedge', () => {
	/** What comes of keys, each with the pause before it. */
	const press = (keys: readonly (readonly [key: string, pause: number, more?: object])[]) => {
		const wedge = new Wedge();
		let at = 1000;
		return keys.flatMap(([key, pause, more]) => wedge.key({ key, at: (at += pause), ...more }) ?? []);
	};
	const type = (text: string, pause: number, end = 'Enter') => press([...text, end].map((key) => [key, pause]));
	it('is told from typing by its speed and its ending', () => {
		expect(type('VB-7731', 8)).toEqual(['VB-7731']);
		expect(type('VB-7731', 8, 'Tab')).toEqual(['VB-7731']);
		expect(type('VB-7731', 90)).toEqual([]);
		expect(type('ab', 8)).toEqual([]);
	});
	it('a page that was busy between two keys does not break it, wherever it was', () => {
		for (let busy = 1; busy <= 7; busy++)
			expect(press([...'VB-7731', 'Enter'].map((key, i) => [key, i === busy ? 400 : 10]))).toEqual(['VB-7731']);
	});
	it('Shift, Ctrl and Alt pressed within one are part of it; where another key comes, it is typed', () => {
		const typed = (between: string) =>
			type('', 0).concat(press(['V', between, 'B', '-', '7', '7', 'Enter'].map((k) => [k, 8])));
		for (const key of ['Shift', 'Control', 'Alt']) expect(typed(key), key).toEqual(['VB-77']);
		for (const key of ['ArrowLeft', 'Backspace', 'Escape']) expect(typed(key), key).toEqual([]);
	});
	it('a key that is held down is no scan', () => {
		const held = [...'aaaaaaa'].map((key, i) => [key, 30, { repeat: i > 0 }] as const);
		expect(press([...held, ['Enter', 30]])).toEqual([]);
	});
	it('another field, a click or half a second begin anew', () => {
		const at = (field: string) => ({ field });
		const moved = [...'VB-77'].map((key, i) => [key, 8, at(i < 1 ? 'a' : 'b')] as const);
		expect(press([...moved, ['Enter', 8, at('b')]])).toEqual(['B-77']);
		expect(press([['x', 8], ...[...'VB-7731', 'Enter'].map((key, i) => [key, i ? 8 : 501] as const)])).toEqual([
			'VB-7731'
		]);
		const wedge = new Wedge();
		[...'VB-77'].forEach((key, i) => wedge.key({ key, at: 1000 + i * 8 }));
		wedge.end();
		expect(wedge.key({ key: 'Enter', at: 1048 })).toBe(null);
	});
	it('gives the whole code or nothing, whatever the pauses between its keys', () => {
		const pauses = fc.array(fc.integer({ min: 0, max: 400 }), { minLength: 31, maxLength: 31 });
		const codes = fc.stringMatching(/^[A-Za-z0-9./?-]{1,30}$/);
		fc.assert(
			fc.property(codes, codes, pauses, pauses, (first, second, before, between) => {
				const keys = (text: string, all: number[]) => [...text, 'Enter'].map((key, i) => [key, all[i]] as const);
				const got = press([...keys(first, before), ...keys(second, between)]);
				expect(got.every((text) => text === first || text === second)).toBe(true);
				// A scanner's speed is taken, whatever stood before it.
				expect(
					press([
						...keys(first, before),
						...keys(
							second,
							before.map(() => 15)
						)
					]).includes(second)
				).toBe(second.length >= 4);
			}),
			{ numRuns: 2000 }
		);
	});
});
