import { describe, expect, it } from 'vitest';
import { shortOf, type Need } from './shortage.ts';

const need = (of: string[], free: string, expected: string): Need => ({
	...{ item: 'A', itemName: 'A', unit: 'kg', decimals: 3, made: false, supplier: null, free, expected },
	orders: of.map((qty, n) => ({ code: `MO-${n}`, qty, dueOn: null }))
});

describe('a shortage', () => {
	it('is what is needed, less what is free, less what comes by then (arithmetic)', () => {
		const [a, b, c] = shortOf([need(['7.5', '2.5'], '3', '1.25'), need(['1'], '0.5', '0.5'), need(['1'], '5', '0')]);
		expect([a.needed, a.missing]).toEqual(['10', '5.75']);
		expect(b.missing).toBe('0');
		// More than enough is no negative shortage.
		expect(c.missing).toBe('0');
	});
});
