import Fraction from 'fraction.js';
import { compare } from '../ranges/ranges.ts';
import { exact, type Qty } from '../quantity/quantity.ts';
import { showDay, type Day } from '../dates/dates.ts';
import { sayStatus } from '../ledger/status.ts';

/** Stock that could be taken: one mark at one place. */
export interface Candidate {
	mark: string;
	number: string;
	place: string;
	qty: Qty;
	/** already taken by other drafts */
	promised?: Qty;
	serial: boolean;
	expiresOn: Day | null;
	status: string;
	/** when it first arrived, for first in first out among equals */
	since: string;
}
/** So much of a mark (by id), from one place (by id). */
export interface Pick {
	mark: string;
	place: string;
	qty: Qty;
}
/** A lot or serial that was not suggested, and why. */
export interface LeftOut {
	number: string;
	place: string;
	/** for people */
	reason: string;
}

/**
 * Suggests what to take: first expired first out, then first in first out, then by number; over as many lots as
 * needed. Nothing expired, held or promised elsewhere is taken, and each lot left out comes with its reason.
 * @param need in the item's base unit
 * @param today what counts as expired: a date before today
 * @returns picks in the order to take them, and what is still short
 */
export function allocate(need: Qty, stock: Candidate[], today: Day): { picks: Pick[]; short: Qty; leftOut: LeftOut[] } {
	const leftOut: LeftOut[] = [];
	const usable: (Candidate & { free: Fraction })[] = [];
	for (const c of stock) {
		const free = new Fraction(c.qty).sub(c.promised ?? 0);
		const stopped = stopReason(c, today);
		const reason = stopped ? sayStopped(stopped) : free.s <= 0n || free.n === 0n ? 'picked for another order' : null;
		if (reason) leftOut.push({ number: c.number, place: c.place, reason });
		else usable.push({ ...c, free });
	}
	usable.sort(
		(a, b) =>
			(a.expiresOn ?? '9999').localeCompare(b.expiresOn ?? '9999') ||
			(a.serial && b.serial ? 0 : a.since.localeCompare(b.since)) ||
			compare(a.number, b.number) ||
			a.place.localeCompare(b.place)
	);
	let left = new Fraction(need);
	const picks: Pick[] = [];
	for (const c of usable) {
		if (left.n === 0n) break;
		const take = left.compare(c.free) < 0 ? left : c.free;
		picks.push({ mark: c.mark, place: c.place, qty: exact(take) });
		left = left.sub(take);
	}
	return { picks, short: exact(left), leftOut };
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
