import { describe, expect, it } from 'vitest';
import { parseCost, sayGround } from './cost.ts';

describe('what one costs', () => {
	it('is read exactly, with at most six decimals; nothing is a cost, less than nothing is none', () => {
		const read = ['12.50', ' 0.000001 ', '0', '0.00', '007'].map(parseCost);
		expect(read).toEqual([{ cost: '12.5' }, { cost: '0.000001' }, { cost: '0' }, { cost: '0' }, { cost: '7' }]);
		for (const wrong of ['', '-1', '1,5', '1e3', '0.0000001', 'ten', '1'.repeat(14)])
			expect(parseCost(wrong)).toHaveProperty('problem');
	});
	it('is proposed with what it comes from', () =>
		expect(sayGround('lot', 'PO-1', '3 Mar 2026')).toBe('of its lot, PO-1, 3 Mar 2026'));
});
