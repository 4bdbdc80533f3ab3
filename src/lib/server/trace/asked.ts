import { parseDay, type Day } from '../../core/dates/dates.ts';
import { endOf, startOf, type Zone } from '../../core/time/clock.ts';
import { idOf } from '../request.ts';

/** What an address asks of a trace. */
export interface Asked {
	/** id of the lot or serial; null where it names none */
	mark: string | null;
	direction: 'forward' | 'back';
	/** as typed */
	since: string;
	asOf: string;
	/** the days that were read */
	days: { since: Day | null; asOf: Day | null };
	/** moments, ISO 8601: from the start of the one day to the end of the other */
	times: { since: string | null; asOf: string | null };
	/** how many entries the ledger had; null for as it is now */
	ledgerSize: number | null;
	/** what cannot be read of it */
	said: string;
}

/** Reads what an address asks of a trace: the page, its CSV and its report alike. */
export function askedTrace(params: URLSearchParams, zone: Zone): Asked {
	const [since, asOf] = ['since', 'asOf'].map((name) => (params.get(name) ?? '').slice(0, 40));
	let said = '';
	const day = (typed: string): Day | null => {
		const read = typed ? parseDay(typed) : null;
		if (read && 'problem' in read) said = read.problem;
		return read && 'day' in read ? read.day : null;
	};
	const days = { since: day(since), asOf: day(asOf) };
	const times = {
		since: days.since && startOf(zone, days.since).toISOString(),
		asOf: days.asOf && endOf(zone, days.asOf).toISOString()
	};
	const direction = params.get('direction') === 'back' ? ('back' as const) : ('forward' as const);
	const size = params.get('ledgerSize') ?? '';
	const ledgerSize = /^\d{1,15}$/.test(size) ? Number(size) : null;
	return { mark: idOf(params.get('mark')), direction, since, asOf, days, times, ledgerSize, said };
}
