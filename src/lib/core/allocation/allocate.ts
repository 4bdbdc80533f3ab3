import { compare } from '../ranges/ranges.ts';
import { ofParts, partsOf, type Qty } from '../quantity/quantity.ts';
import { daysBetween, showDay, type Day } from '../dates/dates.ts';
import { group } from '../group/group.ts';
import { sayStatus } from '../ledger/status.ts';

/** What is taken first: a setting of the firm that a site or an item may have its own of. */
export const PREFERENCES = ['expires first', 'first in', 'by number'] as const;
/** What is taken first. */
export type Preference = (typeof PREFERENCES)[number];

/** Why stock is left out, in the order in which it is looked at: the first that applies is said. */
export const REASONS = [
	'not ours',
	'held',
	'quarantine',
	'rejected',
	'expired',
	'too little life left',
	'outside limits',
	'came back',
	'promised',
	'older than the last delivery',
	'other site',
	'other bin',
	'in process',
	'in transit',
	'staged',
	'not put away',
	'counted now'
] as const;
/** Why stock is left out. */
export type Reason = (typeof REASONS)[number];

/** Stock that could be taken: one mark at one place. */
export interface Candidate {
	mark: string;
	number: string;
	/** the lot that a serial belongs to */
	lot?: string | null;
	place: string;
	qty: Qty;
	/** how much of it others hold, and how: "promised to SO-1", "picked for SO-2" */
	promised?: Qty;
	promisedTo?: string | null;
	/** how much of that is promised to them, not only picked */
	reserved?: Qty;
	serial: boolean;
	expiresOn: Day | null;
	status: string;
	/** name of the partner that it belongs to, where it is not ours */
	owner?: string | null;
	/** what of it the limits in force do not allow, or where no result says that it meets them: a sentence's end */
	outside?: string | null;
	/** it came back from a customer: it is no new one */
	cameBack?: boolean;
	/** when it first arrived */
	since: string;
	/** the day at its site, where that is not the one asked about */
	today?: Day;
	/** the run that it went into, which nothing has come out of yet */
	process?: string | null;
	/** on its way from one site to another */
	transit?: boolean;
	/** how much of it waits there for other orders that it was picked for, and for which */
	staged?: Qty;
	stagedFor?: string | null;
	/** on a dock of a site where goods go to bins first */
	waits?: boolean;
	/** its place is being counted, and it has not been yet */
	counting?: boolean;
}
/** What is asked of what goes. */
export interface Terms {
	preference: Preference;
	/** as few lots and bins as the quantity allows */
	oneLot: boolean;
	/** days between today and the expiry date, at least */
	daysLeft: number | null;
	/** the expiry of what the customer got last, where it wants nothing older */
	notBefore: Day | null;
	/** the site, or the bin, that it is taken from */
	from: string | null;
	/** what is promised to what it is for, by mark: it goes before all the rest */
	mine?: ReadonlyMap<string, Qty>;
	/** who gets it wants nothing that came back from a customer */
	newOnly?: boolean;
	/** nothing is left out, whatever its state: it only arrives */
	arrives?: boolean;
	/** somebody chose it for this before and answered for its life: that is not looked at again */
	chosen?: boolean;
}
/** Nothing asked but what the firm does by default. */
export const PLAIN: Terms = { preference: 'expires first', oneLot: false, daysLeft: null, notBefore: null, from: null };

/** So much of a mark (by id), from one place. */
export interface Pick {
	mark: string;
	place: string;
	qty: Qty;
	/** what put it before the next one; the last candidate says by what it follows; or that it is promised to what it is for; or that it came back, and goes last for that */
	why: Preference | 'promised' | 'came back';
}
/** A lot or serial that was not suggested, and why. */
export interface LeftOut {
	mark: string;
	number: string;
	place: string;
	qty: Qty;
	reason: Reason;
	/** for people */
	message: string;
}

/**
 * Decides what goes, for shipping, use, transfer and programs alike: what may go, in the order preferred, over as many lots
 * as needed; and why each of the others stays.
 *
 * Expires first: first expired first (no date last), then first in, then the natural order of numbers. First in: first in,
 * then numbers. By number: numbers. What came back from a customer goes after all the rest.
 * @param need in the item's base unit
 * @param today what counts as expired: a date before today. The day of the date is its last
 * @returns picks in the order to take them, and what is still short
 */
export function allocate(
	need: Qty,
	stock: readonly Candidate[],
	today: Day,
	terms: Terms = PLAIN
): { picks: Pick[]; short: Qty; leftOut: LeftOut[] } {
	const { picks, short, leftOut } = allocateFrom(need, stock, today, terms);
	return {
		picks: picks.map(({ of: { mark, place }, qty, why }) => ({ mark, place, qty, why })),
		short,
		leftOut: leftOut.map(({ of: { mark, number, place, qty }, reason, message }) => ({
			mark,
			number,
			place,
			qty,
			reason,
			message
		}))
	};
}

/** What goes, and what stays and why, with the stock that each is of: as allocate() says it, which names it instead. */
export function allocateFrom<C extends Candidate>(
	need: Qty,
	stock: readonly C[],
	today: Day,
	terms: Terms = PLAIN
): {
	picks: { of: C; qty: Qty; why: Pick['why'] }[];
	short: Qty;
	leftOut: { of: C; reason: Reason; message: string }[];
} {
	const leftOut: { of: C; reason: Reason; message: string }[] = [];
	const usable: Free<C>[] = [];
	for (const c of stock) {
		const unpromised = less(partsOf(c.qty), c.promised);
		const free = less(unpromised, c.staged);
		const why = leftOutBy(c, c.today ?? today, { promised: unpromised <= 0n, staged: free <= 0n }, terms);
		if (why) leftOut.push({ of: c, reason: why.reason, message: why.message });
		else usable.push({ of: c, free });
	}
	const order = orderOf(terms.preference);
	usable.sort((a, b) => order.compare(a.of, b.of));
	let left = partsOf(need);
	const picks: { of: C; qty: Qty; why: Pick['why'] }[] = [];
	/** picks of what is promised: more of the same may be taken after it */
	const taken = new Map<Free<C>, { qty: Qty }>();
	const take = (c: Free<C>, most: bigint, why: Pick['why']) => {
		const qty = left < most ? left : most;
		if (qty === 0n) return;
		left -= qty;
		c.free -= qty;
		const same = taken.get(c);
		const pick = { of: c.of, qty: ofParts(same ? qty + partsOf(same.qty) : qty), why };
		if (same) same.qty = pick.qty;
		else picks.push(pick);
		if (why === 'promised') taken.set(c, same ?? pick);
	};
	if (terms.mine?.size) {
		const mine = new Map([...terms.mine].map(([mark, qty]) => [mark, partsOf(qty)]));
		for (const c of usable) {
			const own = mine.get(c.of.mark);
			if (!own) continue;
			const before = c.free;
			take(c, own < c.free ? own : c.free, 'promised');
			mine.set(c.of.mark, own - (before - c.free));
		}
	}
	const rest = terms.mine?.size ? usable.filter((c) => c.free !== 0n) : usable;
	const chosen = terms.oneLot ? fewest(rest, left) : rest;
	for (const [n, c] of chosen.entries()) {
		if (left === 0n) break;
		const [before, after] = n + 1 < chosen.length ? [c, chosen[n + 1]] : [chosen[n - 1] ?? c, c];
		take(c, c.free, c.of.cameBack ? 'came back' : order.decides(before.of, after.of));
	}
	return { picks, short: ofParts(left), leftOut };
}
/** So much without what others hold of it: mostly nobody holds any. */
const less = (qty: bigint, held: Qty | undefined) => (!held || held === '0' ? qty : qty - partsOf(held));
/** With what is free of it, in smallest parts. */
type Free<C extends Candidate = Candidate> = { of: C; free: bigint };

/** Compares two by a preference, and says what decided; what is the same in everything by what is preferred. */
function orderOf(preference: Preference) {
	// Days and moments are in the order of their signs.
	const signs = (a: string, b: string) => (a === b ? 0 : a < b ? -1 : 1);
	const byNumber = (a: Candidate, b: Candidate) => compare(a.number, b.number) || a.place.localeCompare(b.place);
	const firstIn = (a: Candidate, b: Candidate) => signs(a.since, b.since);
	const expires = (a: Candidate, b: Candidate) => signs(a.expiresOn ?? '9999', b.expiresOn ?? '9999');
	const keys = [
		['expires first', expires],
		['first in', firstIn],
		['by number', byNumber]
	] as const;
	const mine = keys.slice(PREFERENCES.indexOf(preference));
	return {
		compare(a: Candidate, b: Candidate): number {
			if (!a.cameBack !== !b.cameBack) return a.cameBack ? 1 : -1;
			for (const [, key] of mine) {
				const n = key(a, b);
				if (n) return n;
			}
			return 0;
		},
		// Numbers are never the same: where nothing before them decides, they do.
		decides: (a: Candidate, b: Candidate): Preference =>
			a === b ? preference : (mine.find(([why, key]) => why === 'by number' || key(a, b))?.[0] ?? preference)
	};
}

/** Why something does not go, the first reason that there is; null where it goes. */
function leftOutBy(
	c: Candidate,
	today: Day,
	taken: { promised: boolean; staged: boolean },
	terms: Terms
): { reason: Reason; message: string } | null {
	if (terms.arrives) return null;
	if (c.owner) return { reason: 'not ours', message: belongsTo(c.owner) };
	const stopped = stopReason(c, today);
	if (stopped && !(terms.chosen && stopped.why === 'expired'))
		return {
			reason: stopped.why === 'expired' ? 'expired' : statusReason(stopped.status),
			message: sayStopped(stopped)
		};
	if (terms.daysLeft !== null && c.expiresOn && !terms.chosen) {
		const days = daysBetween(today, c.expiresOn);
		if (days < terms.daysLeft)
			return {
				reason: 'too little life left',
				message: `${days} ${days === 1 ? 'day' : 'days'} left, ${terms.daysLeft} are asked`
			};
	}
	if (c.outside) return { reason: 'outside limits', message: c.outside };
	if (terms.newOnly && c.cameBack) return { reason: 'came back', message: 'came back from a customer' };
	if (taken.promised) return { reason: 'promised', message: c.promisedTo ?? 'picked for another order' };
	if (terms.notBefore && c.expiresOn && c.expiresOn < terms.notBefore && !terms.chosen)
		return {
			reason: 'older than the last delivery',
			message: `expires ${showDay(c.expiresOn)}, what was delivered last ${showDay(terms.notBefore)}`
		};
	if (terms.from && !c.transit && !c.process && c.place !== terms.from && !c.place.startsWith(terms.from + '/'))
		return {
			reason: c.place.split('/')[0] === terms.from.split('/')[0] ? 'other bin' : 'other site',
			message: `at ${c.place}`
		};
	if (c.process) return { reason: 'in process', message: `went into ${c.process}, which is not finished` };
	if (c.transit) return { reason: 'in transit', message: 'in transit' };
	if (taken.staged) return { reason: 'staged', message: c.stagedFor ?? 'picked for another order' };
	if (c.waits) return { reason: 'not put away', message: `on ${c.place}, not put away` };
	if (c.counting) return { reason: 'counted now', message: `${c.place} is being counted` };
	return null;
}
/** In words: "belongs to Thornmere Utilities". */
export const belongsTo = (owner: string): string => `belongs to ${owner}`;
const statusReason = (status: string): Reason => REASONS.find((r) => r === status) ?? 'held';

/**
 * As few lots as the quantity allows, and of the last of them as few bins; of those that are as few, the first in order.
 * Where all together are too little, all of them.
 */
function fewest<C extends Candidate>(usable: readonly Free<C>[], need: bigint): Free<C>[] {
	const byLot = few(
		group([...usable], ({ of }) => of.lot ?? of.mark),
		need
	);
	let left = need;
	const out = byLot.flatMap((rows, n) => {
		const mine =
			n === byLot.length - 1
				? few(
						group([...rows], (c) => c.of.place),
						left
					).flat()
				: rows;
		left -= sumOf(rows);
		return mine;
	});
	const order = new Map(usable.map((c, n) => [c, n]));
	return out.sort((a, b) => order.get(a)! - order.get(b)!);
}
const sumOf = (rows: readonly Free[]) => rows.reduce((s, r) => s + r.free, 0n);
/** The fewest groups that hold so much: the largest, and as the last the first in order that is enough. */
function few<C extends Candidate>(groups: ReadonlyMap<string, Free<C>[]>, need: bigint): Free<C>[][] {
	const rest = [...groups.values()].map((rows) => ({ rows, sum: sumOf(rows) }));
	const out: Free<C>[][] = [];
	let left = need;
	while (left > 0n && rest.length) {
		const enough = rest.findIndex((g) => g.sum >= left);
		const largest = rest.reduce((best, g, n) => (g.sum > rest[best].sum ? n : best), 0);
		const [next] = rest.splice(enough >= 0 ? enough : largest, 1);
		out.push(next.rows);
		left -= next.sum;
	}
	return out;
}

/** Why something may not be taken. */
export type Stopped = { why: 'status'; status: string } | { why: 'expired'; on: Day };

/** Why a mark may not be taken at all, or null. */
export function stopReason(c: { status: string; expiresOn: Day | null }, today: Day): Stopped | null {
	if (c.status !== 'released') return { why: 'status', status: c.status };
	if (c.expiresOn && c.expiresOn < today) return { why: 'expired', on: c.expiresOn };
	return null;
}
/** In words: "on hold", "expired 3 Mar 2026". */
export const sayStopped = (s: Stopped): string =>
	s.why === 'expired' ? `expired ${showDay(s.on)}` : sayStatus(s.status);
