import fc from 'fast-check';
import Fraction from 'fraction.js';
import { describe, expect, it } from 'vitest';
import { carriage, volumetric, weigh, type Measures, type Way } from './weight.ts';

const none: Measures = { net: null, gross: null, length: null, width: null, height: null, volumetric: null };
const box: Measures = { ...none, net: '3', gross: '3.4', length: '60', width: '40', height: '30' };
const road: Way = { code: 'ROAD', name: 'Road', divisor: null, rate: '1.2', minimum: '15', currency: 'EUR' };

describe('volumetric weight', () => {
	it('60 × 40 × 30 cm is 14.4 kg at 5,000 cm³ a kilogram, 12 kg at 6,000 and 24 kg at 3,000 (arithmetic; divisors are common practice)', () => {
		expect([5000, 6000, 3000].map((d) => volumetric(box, d)!.toString())).toEqual(['14.4', '12', '24']);
	});
	it('is taken as it is given, and is none where a side is not known', () => {
		expect(volumetric({ ...box, volumetric: '9' }, 5000)!.toString()).toBe('9');
		expect(volumetric({ ...box, height: null }, 5000)).toBeNull();
	});
});

describe('what a document weighs', () => {
	it('each line and all of it: pieces, net, gross, volumetric, and the larger of the two last', () => {
		const heavy: Measures = { ...none, net: '20', gross: '21', length: '20', width: '20', height: '20' };
		const w = weigh(
			[
				{ no: 1, qty: '2', measures: box },
				{ no: 2, qty: '3', measures: heavy }
			],
			null,
			5000
		);
		// 2 × 14.4 = 28.8 against 6.8; 3 × 1.6 = 4.8 against 63; together 33.6 against 69.8.
		expect(w.lines).toEqual([
			{ no: 1, pieces: '2', net: '6', gross: '6.8', volumetric: '28.8', chargeable: '28.8' },
			{ no: 2, pieces: '3', net: '60', gross: '63', volumetric: '4.8', chargeable: '63' }
		]);
		expect(w.total).toEqual({ pieces: '5', net: '66', gross: '69.8', volumetric: '33.6', chargeable: '69.8' });
		expect([w.unknown, w.carriage, w.divisor]).toEqual([[], null, 5000]);
	});
	it('names what nobody weighed, and counts the rest; without a gross weight the net stands for it', () => {
		const w = weigh(
			[
				{ no: 1, qty: '2', measures: { ...none, net: '1.5' } },
				{ no: 2, qty: '1', measures: none }
			],
			null,
			5000
		);
		expect(w.unknown).toEqual([2]);
		expect(w.total).toEqual({ pieces: '3', net: '3', gross: '3', volumetric: null, chargeable: '3' });
		expect(weigh([], null, 5000).total).toEqual({
			pieces: '0',
			net: null,
			gross: null,
			volumetric: null,
			chargeable: null
		});
	});
	it('a way of delivery has a divisor of its own, and asks its rate for the chargeable weight, at least its minimum', () => {
		const one = [{ no: 1, qty: '1', measures: box }];
		expect(weigh(one, road, 5000).carriage).toEqual({ amount: '17.28', currency: 'EUR', minimum: false });
		expect(weigh(one, { ...road, divisor: 6000 }, 5000)).toMatchObject({
			divisor: 6000,
			carriage: { amount: '15', minimum: true }
		});
		expect(weigh(one, { ...road, rate: null }, 5000).carriage).toBeNull();
		expect(weigh([{ no: 1, qty: '1', measures: none }], road, 5000).carriage).toBeNull();
		expect(carriage(new Fraction('1.005'), { ...road, rate: '1', minimum: null })!.amount).toBe('1.01');
	});
	it('a total is never less than any line, and the chargeable weight never less than the gross', () => {
		const kg = fc.integer({ min: 0, max: 5000 }).map((n) => String(n / 1000));
		const cm = fc.integer({ min: 1, max: 2000 }).map((n) => String(n / 10));
		const measures = fc.record({
			net: fc.constant(null),
			gross: fc.option(kg),
			length: cm,
			width: cm,
			height: fc.option(cm),
			volumetric: fc.option(kg)
		});
		const line = fc.record({ qty: fc.integer({ min: 1, max: 500 }).map(String), measures });
		fc.assert(
			fc.property(
				fc.array(line, { minLength: 1, maxLength: 5 }),
				fc.integer({ min: 3000, max: 6000 }),
				(list, divisor) => {
					const w = weigh(
						list.map((l, i) => ({ no: i + 1, ...l })),
						null,
						divisor
					);
					for (const l of [...w.lines, w.total])
						for (const k of ['gross', 'volumetric'] as const)
							if (l[k] !== null) expect(new Fraction(l.chargeable!).compare(l[k])).toBeGreaterThanOrEqual(0);
					for (const l of w.lines)
						if (l.chargeable !== null)
							expect(new Fraction(w.total.chargeable!).add('0.00001').compare(l.chargeable)).toBeGreaterThanOrEqual(0);
				}
			)
		);
	});
});
