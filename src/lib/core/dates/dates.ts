import { monthName, monthOfWord, type DateLanguage } from './language.ts';

/** A calendar date without a time, as YYYY-MM-DD. */
export type Day = string;

const HOW = 'Type it as 31 Mar 2027 or 2027-03-31.';
/** The year that two digits stand for: of this century, for dates of goods lie near (common practice). */
const fullYear = (typed: string) => (typed.length === 2 ? 2000 + Number(typed) : Number(typed));

/** Year, month and day of what was typed. Null when it has no form of a date. */
function dayParts(t: string): [y: number, m: number, d: number | 'last'] | null {
	const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(t);
	if (iso) return [Number(iso[1]), Number(iso[2]), Number(iso[3])];
	const dotted = /^(\d{1,2})\.\s?(\d{1,2})\.\s?(\d{2}|\d{4})$/.exec(t);
	if (dotted) return [fullYear(dotted[3]), Number(dotted[2]), Number(dotted[1])];
	const words = /^(\d{1,2})\.?[\s-]+(\p{L}{3,12})\.?[\s,-]+(\d{2}|\d{4})$/iu.exec(t);
	if (words) return [fullYear(words[3]), monthOfWord(words[2]), Number(words[1])];
	const monthFirst = /^(\p{L}{3,12})\.?\s+(\d{1,2})\s*,?\s+(\d{4})$/iu.exec(t);
	if (monthFirst) return [Number(monthFirst[3]), monthOfWord(monthFirst[1]), Number(monthFirst[2])];
	const end = /^end\s+(?:of\s+)?(\p{L}{3,12})\.?\s+(\d{2}|\d{4})$/iu.exec(t);
	if (end) return [fullYear(end[2]), monthOfWord(end[1]), 'last'];
	// As on labels: YYMMDD, where day 00 is the last of the month (GS1 General Specifications, 3.4), or YYYYMMDD.
	const digits = /^(\d{2}|\d{4})(\d{2})(\d{2})$/.exec(t);
	return digits && [fullYear(digits[1]), Number(digits[2]), digits[3] === '00' ? 'last' : Number(digits[3])];
}

/**
 * Reads a date as people write it: 31 Mar 2027, 31. März 2027, 2027-03-31, 31.3.27, March 31, 2027, 270331 (YYMMDD) or
 * 20270331, end of March 2027. Anything that could be read two ways (03/04/27) is refused.
 * @param today for the end of a month without its year: the next one that comes
 * @returns the day, or what is wrong with it
 */
export function parseDay(typed: string, today?: Day): { day: Day } | { problem: string } {
	const t = typed.trim().replace(/\s+/g, ' ');
	const endOf = /^end (?:of )?(\p{L}{3,12})$/iu.exec(t);
	if (endOf && monthOfWord(endOf[1])) {
		if (!today) return { problem: `Say the year too: end of ${endOf[1]} 2027.` };
		const [y, m] = today.split('-').map(Number);
		return { day: endOfMonth(format(monthOfWord(endOf[1]) < m ? y + 1 : y, monthOfWord(endOf[1]), 1)) };
	}
	const parts = dayParts(t);
	if (!parts) return { problem: `“${t.slice(0, 20)}” is not a date that can be read one way only. ${HOW}` };
	const [y, m, day] = parts;
	const d = day === 'last' ? daysIn(y, m) : day;
	if (m < 1 || m > 12 || d < 1 || d > daysIn(y, m))
		return { problem: `There is no ${t.slice(0, 20)} in the calendar. ${HOW}` };
	if (y < 1970 || y > 2199) return { problem: `The year ${y} is out of reach. Check the date.` };
	return { day: format(y, m, d) };
}

const daysIn = (y: number, m: number) => new Date(Date.UTC(y, m, 0)).getUTCDate();
const format = (y: number, m: number, d: number) => `${y}-${String(m).padStart(2, '0')}-${String(d).padStart(2, '0')}`;

/**
 * A day plus an ISO 8601 duration of years, months, weeks and days. Where the month is too short the last day is
 * taken: 31 Jan + P1M = 28 or 29 Feb.
 * @throws RangeError when the duration is none
 */
export function addDuration(day: Day, duration: string): Day {
	const p = /^P(?:(\d+)Y)?(?:(\d+)M)?(?:(\d+)W)?(?:(\d+)D)?$/.exec(duration);
	if (!p || duration === 'P') throw new RangeError(`${duration} is not a duration such as P12M or P90D.`);
	const [years, mons, weeks, days] = p.slice(1).map((x) => Number(x ?? 0));
	const [y, m, d] = day.split('-').map(Number);
	const whole = (y + years) * 12 + (m - 1) + mons;
	const [ny, nm] = [Math.floor(whole / 12), (whole % 12) + 1];
	const t = Date.UTC(ny, nm - 1, Math.min(d, daysIn(ny, nm))) + (weeks * 7 + days) * 86_400_000;
	return new Date(t).toISOString().slice(0, 10);
}

/** The last day of a day's month. */
export function endOfMonth(day: Day): Day {
	const [y, m] = day.split('-').map(Number);
	return format(y, m, daysIn(y, m));
}

/**
 * An expiry date from when it was made or received and the item's shelf life.
 * @param toMonthEnd put off to the last day of its month (common practice where labels name only the month)
 */
export const workOut = (start: Day, shelfLife: string, toMonthEnd = false): Day => {
	const day = addDuration(start, shelfLife);
	return toMonthEnd ? endOfMonth(day) : day;
};

/** A duration in words: P1Y6M is "1 year and 6 months". */
export function sayDuration(duration: string): string {
	const units = { Y: 'year', M: 'month', W: 'week', D: 'day' } as const;
	const parts = [...duration.matchAll(/(\d+)([YMWD])/g)].map(
		([, n, u]) => `${n} ${units[u as 'Y']}${n === '1' ? '' : 's'}`
	);
	return parts.length > 1 ? `${parts.slice(0, -1).join(', ')} and ${parts[parts.length - 1]}` : (parts[0] ?? '');
}

/** Days from one day to another; negative when `to` comes first. */
export const daysBetween = (from: Day, to: Day): number => Math.round((Date.parse(to) - Date.parse(from)) / 86_400_000);

/** The week of a day and the year that the week belongs to (ISO 8601: weeks start on Monday, week 1 holds 4 January). */
export function isoWeek(day: Day): { year: number; week: number; weekday: number } {
	const t = Date.parse(day);
	const weekday = new Date(t).getUTCDay() || 7;
	const thursday = new Date(t + (4 - weekday) * 86_400_000);
	const year = thursday.getUTCFullYear();
	return { year, week: Math.floor((thursday.getTime() - Date.UTC(year, 0, 1)) / 604_800_000) + 1, weekday };
}

/** 3 Mar 2027; in other languages with their month, in German with a dot after the day */
export function showDay(day: Day, language: DateLanguage = 'en'): string {
	const [y, m, d] = day.slice(0, 10).split('-').map(Number);
	return `${d}${language === 'de' ? '.' : ''} ${monthName(m, language)} ${y}`;
}

/**
 * A day, or a moment as the clock on the wall showed it, for people: "31 Mar 2027", "31 Mar 2027 14:05". Any other text
 * stays as it is.
 */
export const showWhen = (text: string, language: DateLanguage = 'en'): string =>
	/^\d{4}-\d\d-\d\d( \d\d:\d\d(:\d\d)?)?$/.test(text) ? showDay(text, language) + text.slice(10) : text;

/** The weeks of a day's month, Monday first, filled up with days of the months beside it. */
export function monthOf(day: Day): Day[][] {
	const [y, m] = day.split('-').map(Number);
	const lead = (new Date(Date.UTC(y, m - 1, 1)).getUTCDay() + 6) % 7;
	const weeks = Math.ceil((lead + daysIn(y, m)) / 7);
	return Array.from({ length: weeks }, (_w, week) =>
		Array.from({ length: 7 }, (_d, i) =>
			new Date(Date.UTC(y, m - 1, 1 - lead + week * 7 + i)).toISOString().slice(0, 10)
		)
	);
}
