import { describe, expect, it } from 'vitest';
import type { Fact } from '../facts/fact.ts';
import { sayChange } from './change.ts';

describe('a change, in words', () => {
	it('says days as people read them, statuses in words, and what was not there', () => {
		expect(sayChange('expires_on', null, '2027-03-03', [])).toBe('expires: none → 3 Mar 2027');
		expect(sayChange('lot_no', 'A-1', 'A-2', [])).toBe('number: A-1 → A-2');
		expect(sayChange('status', 'released', 'held', [])).toBe('status: released → on hold');
	});
	it('of facts names only those that changed, by their names where the firm has them', () => {
		const ph = { code: 'PH', name: 'pH', kind: 'number', unit: null } as Fact;
		expect(sayChange('facts', '{"PH":"7.01","OLD":"x"}', '{"PH":"7.04","OLD":"x"}', [ph])).toBe('pH: 7.01 → 7.04');
		expect(sayChange('facts', null, '{"OLD":"x"}', [])).toBe('OLD: none → x');
	});
});
