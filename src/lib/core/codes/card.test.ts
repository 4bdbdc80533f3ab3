import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cardLink, cardText } from './card.ts';
import { readScan } from './scan.ts';

const GTIN = '09506000134352';
const code = fc
	.string({ minLength: 1, maxLength: 60, unit: 'grapheme' })
	.filter((t) => /^[^\s/?#%\p{C}]{1,60}$/u.test(t) && t.length <= 60);
const serial = fc
	.string({ minLength: 1, maxLength: 60, unit: 'grapheme' })
	.filter((t) => t.trim() === t && !/\p{C}/u.test(t) && t.length <= 60);

describe('the code of a work card', () => {
	it('says order, line and serial whatever they are, with a GTIN and without', () => {
		fc.assert(
			fc.property(
				code,
				fc.integer({ min: 1, max: 500 }),
				fc.option(serial),
				fc.constantFrom(GTIN, null),
				(order, line, s, gtin) => {
					const card = { order, line, serial: s };
					const read = readScan(cardText(card, gtin), 2026);
					expect(read).toMatchObject({ coded: true, card });
				}
			)
		);
	});
	it('is a GS1 element string with company internal information (AI 91, GS1 General Specifications, 3.10) where GS1 can write it', () => {
		expect(cardText({ order: 'MO-734', line: 1, serial: 'WM-0207' }, GTIN)).toBe(
			`]d201${GTIN}21WM-0207\x1d91CARD:MO-734/1`
		);
		expect(cardText({ order: 'MO-734', line: 1, serial: null }, GTIN)).toBe(`]d201${GTIN}91CARD:MO-734/1`);
		// More than twenty signs are no serial of GS1's.
		expect(cardText({ order: 'MO-734', line: 1, serial: 'X'.repeat(21) }, GTIN)).toMatch(/^https:/);
	});
	it('is not taken for one where another firm uses the element, or the address is another', () => {
		expect(readScan(`]d201${GTIN}21A\x1d91BATCH/7`, 2026)).not.toHaveProperty('card');
		expect(readScan(`]d201${GTIN}91CARD:MO-1/x`, 2026)).not.toHaveProperty('card');
		for (const text of [
			'https://card.earmark.invalid/order/MO-1',
			'https://card.earmark.invalid/order/MO-1/line/x',
			'https://card.earmark.invalid/order/MO-1/line/1/10/LOT',
			'https://card.earmark.invalid/order/%E0%A4%A/line/1',
			'https://id.gs1.org/01/09506000134352'
		])
			expect(cardLink(text), text).toBeNull();
	});
});
