import { describe, expect, it } from 'vitest';
import { workedOut } from './movements.ts';

const item = (expiryFrom: 'life' | 'parts' | 'earlier', shelfLife: string | null = 'P12M') => ({
	shelfLife,
	endOfMonth: false,
	expiryFrom
});
const today = '2026-03-15';
const soon = { number: 'Lot A', on: '2026-09-01' };
const late = { number: 'Lot B', on: '2028-01-01' };
const day = (...given: Parameters<typeof workedOut>) => workedOut(...given)?.day ?? null;

describe('the date of what is made', () => {
	it('comes from its own shelf life, the first date of what went in, or the earlier of both', () => {
		for (const first of [soon, late, null]) expect(day(item('life'), null, today, false, first)).toBe('2027-03-15');
		expect(day(item('parts'), null, today, false, soon)).toBe('2026-09-01');
		expect(day(item('parts'), null, today, false, late)).toBe('2028-01-01');
		expect(day(item('parts'), null, today, false, null)).toBeNull();
		expect(day(item('earlier'), null, today, false, soon)).toBe('2026-09-01');
		expect(day(item('earlier'), null, today, false, late)).toBe('2027-03-15');
		expect(day(item('earlier', null), null, today, false, late)).toBe('2028-01-01');
		expect(day(item('earlier'), '2026-01-31', today, false, late)).toBe('2027-01-31');
	});
	it('says its ground, and is that of the shelf life for what only arrives', () => {
		expect(workedOut(item('earlier'), null, today, false, soon)?.ground).toBe('as Lot A, which goes in');
		expect(workedOut(item('parts'), null, today, true, soon)).toMatchObject({
			day: '2027-03-15',
			ground: 'received today + 12 months'
		});
	});
});
