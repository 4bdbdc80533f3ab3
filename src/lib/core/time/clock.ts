import { TZDate } from '@date-fns/tz';
import { format } from 'date-fns/format';
import type { Day } from '../dates/dates.ts';

/** Tells what time it is. Handed in wherever "now" matters, so that a test can set it. */
export type Clock = () => Date;

/** The name of a time zone as the IANA database has it, such as Europe/London. */
export type Zone = string;

/** Is there a zone of that name here? */
export function isZone(name: string): boolean {
	try {
		new Intl.DateTimeFormat('en', { timeZone: name });
		return /^[A-Za-z0-9_+\-/]{1,60}$/.test(name);
	} catch {
		return false;
	}
}

/** How a day is written: ISO 8601. */
export const DAY = 'yyyy-MM-dd';
/** The day that was asked for last in each zone: what is booked is mostly of now, and a zone's clock is whole seconds off. */
const lastDay = new Map<Zone, { second: number; day: Day }>();
/** The day at a place at some moment: what "today" is there for expiry, due dates, numbers and warranty. */
export function dayIn(zone: Zone, at: Date): Day {
	const second = Math.floor(at.getTime() / 1000);
	const last = lastDay.get(zone);
	if (last?.second === second) return last.day;
	const day = format(new TZDate(at, zone), DAY);
	lastDay.set(zone, { second, day });
	return day;
}

/** How a time of today is shown where every second counts. */
export const TIME_ONLY = 'HH:mm:ss';
/** A moment as the clock on the wall there shows it: "2026-10-25 01:30". */
export const timeIn = (zone: Zone, at: Date, shape = 'yyyy-MM-dd HH:mm'): string => format(new TZDate(at, zone), shape);

/** Shows many moments as the clock there shows them; those that several share are worked out once. */
export function timesIn(zone: Zone, shape?: string): (at: Date) => string {
	const known = new Map<number, string>();
	return (at) => {
		const moment = at.getTime();
		let shown = known.get(moment);
		if (shown === undefined) known.set(moment, (shown = timeIn(zone, at, shape)));
		return shown;
	};
}

/** The moment a day begins there: midnight, or the first moment after it where the clock jumps over midnight. */
export const startOf = (zone: Zone, day: Day): Date => {
	const [year, month, date] = day.split('-').map(Number);
	return new Date(new TZDate(year, month - 1, date, zone).getTime());
};

/** The last millisecond of a day there. */
export const endOf = (zone: Zone, day: Day): Date => {
	const [year, month, date] = day.split('-').map(Number);
	return new Date(new TZDate(year, month - 1, date + 1, zone).getTime() - 1);
};
