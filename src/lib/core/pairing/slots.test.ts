import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { add, less } from '../quantity/quantity.ts';
import { isComplete, slotFor, slotsOf, type PartLine, type Put } from './slots.ts';

const line = (no: number, item: string, per: string, tracking: PartLine['tracking'] = 'serial'): PartLine => ({
	...{ id: String(no), no, item, itemId: item, itemName: item, unit: 'each', decimals: 0, tracking, per }
});

describe('the slots of a unit', () => {
	it('take parts in any order; a part for two slots goes to the first that still wants some', () => {
		const lines = [
			line(1, 'BOARD', '1'),
			line(2, 'CELL', '2', 'lot'),
			line(3, 'BOARD', '1'),
			line(4, 'CAP', '3', 'none')
		];
		const puts: Put[] = [];
		const put = (item: string, qty = '1') => {
			const slot = slotFor(slotsOf(lines, puts), item);
			if (slot) puts.push({ lineId: slot.line.id, mark: String(puts.length), qty });
			return slot?.line.no ?? null;
		};
		expect([put('BOARD'), put('CELL', '2'), put('BOARD'), put('BOARD'), put('CAP')]).toEqual([1, 2, 3, null, null]);
		expect(isComplete(slotsOf(lines, puts))).toBe(true);
	});
	it('never hold more than they want when each takes what is left, and are complete exactly when nothing is left', () => {
		const lines = fc.array(
			fc.record({ item: fc.constantFrom('A', 'B', 'C'), per: fc.integer({ min: 1, max: 5 }), plain: fc.boolean() }),
			{ minLength: 1, maxLength: 6 }
		);
		fc.assert(
			fc.property(
				lines,
				fc.array(fc.tuple(fc.constantFrom('A', 'B', 'C'), fc.integer({ min: 1, max: 3 })), { maxLength: 30 }),
				(given, scans) => {
					const all = given.map((l, i) => line(i + 1, l.item, String(l.per), l.plain ? 'none' : 'lot'));
					const puts: Put[] = [];
					for (const [item, qty] of scans) {
						const slot = slotFor(slotsOf(all, puts), item);
						if (!slot) continue;
						const takes = less(slot.left, String(qty)) ? slot.left : String(qty);
						puts.push({ lineId: slot.line.id, mark: 'm', qty: takes });
					}
					const slots = slotsOf(all, puts);
					// By plain counting: what went in of each item, and what all its slots want.
					for (const item of ['A', 'B', 'C']) {
						const wants = given.filter((l) => l.item === item && !l.plain).reduce((n, l) => n + l.per, 0);
						const scanned = scans.filter(([i]) => i === item).reduce((n, [, q]) => n + q, 0);
						const inside = slots.filter((s) => s.line.item === item).reduce((n, s) => add(n, s.in), '0');
						expect(Number(inside)).toBeLessThanOrEqual(wants);
						if (scanned >= wants * 3) expect(Number(inside)).toBe(wants);
					}
					expect(isComplete(slots)).toBe(slots.every((s) => s.line.tracking === 'none' || s.in === s.line.per));
				}
			)
		);
	});
});
