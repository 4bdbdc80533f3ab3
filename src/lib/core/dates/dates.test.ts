import { add, format, getISOWeek, getISOWeekYear, getISODay, lastDayOfMonth } from 'date-fns';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	addDuration,
	daysBetween,
	endOfMonth,
	isoWeek,
	parseDay,
	sayDuration,
	showDay,
	showWhen,
	workOut
} from './dates.ts';

import { DATE_LANGUAGES, monthName, type DateLanguage } from './language.ts';

describe('a day and a moment for people', () => {
	it.each([
		['2027-03-31', '31 Mar 2027'],
		['2026-11-05 09:07', '5 Nov 2026 09:07'],
		['2026-11-05 09:07:30', '5 Nov 2026 09:07:30'],
		['end of March', 'end of March'],
		['', '']
	])('%s is %s', (text, want) => {
		expect(showWhen(text)).toBe(want);
		// What is shown in a field is read again as the same day.
		if (/^\d{4}-\d\d-\d\d$/.test(text)) expect(parseDay(showWhen(text))).toEqual({ day: text });
	});
});

describe('a day in another language', () => {
	const languages = Object.keys(DATE_LANGUAGES) as DateLanguage[];
	// As the Unicode Common Locale Data Repository has them (from memory).
	it.each([
		['en', '31 Mar 2027'],
		['de', '31. März 2027'],
		['es', '31 mar 2027'],
		['fr', '31 mars 2027'],
		['it', '31 mar 2027'],
		['nl', '31 mrt 2027'],
		['pl', '31 mar 2027']
	] as const)('%s: %s', (language, want) => {
		expect(showDay('2027-03-31', language)).toBe(want);
		expect(showWhen('2027-03-31 14:05', language)).toBe(`${want} 14:05`);
	});
	it('is read again as the same day, short and long, with capitals and without accents', () => {
		for (const language of languages)
			for (let m = 1; m <= 12; m++) {
				const day = `2027-${String(m).padStart(2, '0')}-09`;
				const long = new Intl.DateTimeFormat(language, {
					day: 'numeric',
					month: 'long',
					year: 'numeric',
					timeZone: 'UTC'
				});
				for (const text of [showDay(day, language), long.format(Date.parse(day)).replaceAll(' de ', ' ')])
					for (const typed of [text, text.toUpperCase(), text.normalize('NFD').replace(/\p{M}/gu, '')])
						expect([typed, parseDay(typed)]).toEqual([typed, { day }]);
			}
		expect(parseDay('31. Merz 2027')).toHaveProperty('problem');
		expect(parseDay('end of février 2027')).toEqual({ day: '2027-02-28' });
	});
	it('no name stands for two months', () => {
		const of = new Map<string, number>();
		for (const language of languages)
			for (let m = 1; m <= 12; m++) {
				const name = monthName(m, language).toLowerCase();
				expect([name, of.get(name) ?? m]).toEqual([name, m]);
				of.set(name, m);
			}
	});
});

describe('a typed date', () => {
	it.each([
		['2027-03-31', '2027-03-31'],
		['2027-3-1', '2027-03-01'],
		['31 Mar 2027', '2027-03-31'],
		['1 september 2026', '2026-09-01'],
		['2028-02-29', '2028-02-29'],
		['31.3.27', '2027-03-31'],
		['31.03.2027', '2027-03-31'],
		['31. 3. 2027', '2027-03-31'],
		['31 Mar 27', '2027-03-31'],
		['31-Mar-2027', '2027-03-31'],
		['March 31, 2027', '2027-03-31'],
		['270331', '2027-03-31'],
		['20270331', '2027-03-31'],
		// GS1 General Specifications 3.4: a day of 00 is the last day of the month.
		['270200', '2027-02-28'],
		['280200', '2028-02-29'],
		['end of March 2027', '2027-03-31'],
		['end Feb 28', '2028-02-29']
	])('%s', (typed, day) => expect(parseDay(typed)).toEqual({ day }));
	it('the end of a month is the next one that comes', () => {
		expect(parseDay('end of March', '2026-11-25')).toEqual({ day: '2027-03-31' });
		expect(parseDay('End of november', '2026-11-25')).toEqual({ day: '2026-11-30' });
		expect('problem' in parseDay('end of March')).toBe(true);
	});
	it.each([
		'03/04/27',
		'31.13.27',
		'270230',
		'2027-03-00',
		'00.3.2027',
		'Mar 2027',
		'2027-02-29',
		'31 Apr 2027',
		'2027-13-01',
		'31 Foo 2027',
		'1850-01-01',
		'soon',
		'',
		'9'.repeat(10_000)
	])('refuses %.12s and says how to type it', (typed) => {
		const r = parseDay(typed);
		expect('problem' in r && r.problem.length > 20 && r.problem.length < 130).toBe(true);
	});
});

describe('ISO 8601 durations', () => {
	// Month ends: java.time's LocalDate.plusMonths documents 2007-03-31 plus one month as 2007-04-30 (from memory).
	it.each([
		['2007-03-31', 'P1M', '2007-04-30'],
		['2027-01-31', 'P1M', '2027-02-28'],
		['2028-01-31', 'P1M', '2028-02-29'],
		['2028-02-29', 'P1Y', '2029-02-28'],
		['2026-11-24', 'P12M', '2027-11-24'],
		['2026-12-31', 'P90D', '2027-03-31'],
		['2026-11-24', 'P2W', '2026-12-08'],
		['2026-11-30', 'P1Y2M3D', '2028-02-02']
	])('%s + %s = %s', (day, duration, want) => expect(addDuration(day, duration)).toBe(want));
	it('refuses what is none', () => expect(() => addDuration('2026-01-01', '12 months')).toThrow(RangeError));
	it('counts days over a change of clocks', () => expect(daysBetween('2026-03-28', '2026-03-30')).toBe(2));
	it('says a duration in words', () =>
		expect(['P12M', 'P1Y6M', 'P90D', 'P1W'].map(sayDuration)).toEqual([
			'12 months',
			'1 year and 6 months',
			'90 days',
			'1 week'
		]));
	it('shows a day as people write it', () => expect(showDay('2027-03-03')).toBe('3 Mar 2027'));
});

/** date-fns works in local time: a day as its local noon. */
const local = (day: string) =>
	new Date(
		...(day
			.split('-')
			.map(Number)
			.map((n, i) => (i === 1 ? n - 1 : n)) as [number, number, number]),
		12
	);
const iso = (d: Date) =>
	`${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, '0')}-${String(d.getDate()).padStart(2, '0')}`;

describe('held against date-fns', () => {
	it('durations on random days', () => {
		const day = fc
			.date({ min: new Date('1970-01-01'), max: new Date('2099-12-31'), noInvalidDate: true })
			.map((d) => d.toISOString().slice(0, 10));
		fc.assert(
			fc.property(
				day,
				fc.nat(9),
				fc.nat(40),
				fc.nat(60),
				fc.nat(400),
				(d, years, months, weeks, days) =>
					void expect(addDuration(d, `P${years}Y${months}M${weeks}W${days}D`)).toBe(
						iso(add(local(d), { years, months, weeks, days }))
					)
			)
		);
	});
	it('weeks: ISO 8601’s own examples, and every day from 1970 to 2100', () => {
		expect(isoWeek('2005-01-01')).toEqual({ year: 2004, week: 53, weekday: 6 });
		expect(isoWeek('2008-12-29')).toEqual({ year: 2009, week: 1, weekday: 1 });
		const wrong: string[] = [];
		for (let t = Date.UTC(1970, 0, 1); t < Date.UTC(2101, 0, 1); t += 86_400_000) {
			const day = new Date(t).toISOString().slice(0, 10);
			const w = isoWeek(day);
			const d = local(day);
			if (w.year !== getISOWeekYear(d) || w.week !== getISOWeek(d) || w.weekday !== getISODay(d)) wrong.push(day);
		}
		expect(wrong).toEqual([]);
	});
});

describe('an expiry date that is worked out', () => {
	it.each([
		['2026-11-25', 'P12M', false, '2027-11-25'],
		['2026-11-25', 'P12M', true, '2027-11-30'],
		['2027-01-31', 'P1M', true, '2027-02-28'],
		['2027-11-30', 'P3M', true, '2028-02-29']
	] as const)('%s + %s, to the end of the month %s: %s', (day, life, end, want) =>
		expect(workOut(day, life, end)).toBe(want)
	);
	it('month ends as date-fns has them, every month from 1970 to 2100', () => {
		for (let y = 1970; y <= 2100; y++)
			for (let m = 1; m <= 12; m++) {
				const day = `${y}-${String(m).padStart(2, '0')}-15`;
				expect(endOfMonth(day)).toBe(format(lastDayOfMonth(new Date(y, m - 1, 15)), 'yyyy-MM-dd'));
			}
	});
	it('is never earlier than to the day, and stays in its month', () => {
		const day = fc
			.date({ min: new Date('1970-01-01'), max: new Date('2100-01-01'), noInvalidDate: true })
			.map((d) => d.toISOString().slice(0, 10));
		fc.assert(
			fc.property(day, fc.integer({ min: 1, max: 60 }), (d, months) => {
				const [plain, end] = [workOut(d, `P${months}M`), workOut(d, `P${months}M`, true)];
				expect(end >= plain && end.slice(0, 7) === plain.slice(0, 7)).toBe(true);
			})
		);
	});
});
