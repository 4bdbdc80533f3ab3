import { describe, expect, it } from 'vitest';
import { isoWeek } from '../dates/dates.ts';
import { dayIn, endOf, isZone, startOf, timeIn } from './clock.ts';

const at = (iso: string) => new Date(iso);

describe('the day at a place', () => {
	// Offsets from the IANA time zone database: London is on UTC in winter and an hour ahead in summer, Auckland 13 hours
	// ahead in January, Honolulu 10 behind all year.
	it.each([
		['Europe/London', '2026-01-31T23:59:59Z', '2026-01-31'],
		['Europe/London', '2026-07-31T23:00:00Z', '2026-08-01'],
		['Pacific/Auckland', '2026-01-31T11:00:00Z', '2026-02-01'],
		['Pacific/Honolulu', '2026-02-01T09:59:00Z', '2026-01-31']
	])('%s at %s is %s', (zone, moment, day) => expect(dayIn(zone, at(moment))).toBe(day));

	it('a lot that expires on a day expires at midnight there, not elsewhere', () => {
		const moment = at('2026-03-01T04:30:00Z');
		expect([dayIn('Europe/London', moment), dayIn('America/New_York', moment)]).toEqual(['2026-03-01', '2026-02-28']);
	});
	it('a week number across New Year is that of the day there', () => {
		// 1 January 2027 is a Friday: it belongs to week 53 of 2026 (ISO 8601); the Monday after begins week 1.
		const week = (zone: string, moment: string) => isoWeek(dayIn(zone, at(moment)));
		expect(week('Europe/London', '2027-01-03T23:30:00Z')).toMatchObject({ year: 2026, week: 53 });
		expect(week('Europe/Berlin', '2027-01-03T23:30:00Z')).toMatchObject({ year: 2027, week: 1 });
	});
	it('the hour that comes twice in autumn keeps its day and is shown twice', () => {
		// Clocks in London go back from 02:00 to 01:00 on 25 October 2026.
		expect(timeIn('Europe/London', at('2026-10-25T00:30:00Z'))).toBe('2026-10-25 01:30');
		expect(timeIn('Europe/London', at('2026-10-25T01:30:00Z'))).toBe('2026-10-25 01:30');
		expect(timeIn('Europe/London', at('2026-10-25T02:30:00Z'))).toBe('2026-10-25 02:30');
	});
	it('a day there begins and ends where the clocks say so: 25 hours long in autumn, 23 in spring', () => {
		const hours = (day: string) =>
			(endOf('Europe/London', day).getTime() + 1 - startOf('Europe/London', day).getTime()) / 3_600_000;
		expect([hours('2026-10-25'), hours('2026-03-29'), hours('2026-12-01')]).toEqual([25, 23, 24]);
		expect(startOf('Europe/London', '2026-07-01').toISOString()).toBe('2026-06-30T23:00:00.000Z');
	});
	it('knows a zone by its name', () => {
		expect(['Europe/London', 'UTC', 'Europe/Londn', '', "x'; DROP"].map(isZone)).toEqual([
			true,
			true,
			false,
			false,
			false
		]);
	});
});
