import { grouped } from '../quantity/sign.ts';
import type { Actor } from './input.ts';

/** How it became known which lot or serial a movement is about. */
export const EVIDENCE = ['scanned', 'entered', 'accepted', 'reported'] as const;
/**
 * scanned: read from the thing itself, by a scanner, camera or tag reader. entered: typed or chosen by a person. accepted:
 * suggested, and booked as suggested without a look at the thing. reported: said by another program or a notice.
 */
export type Evidence = (typeof EVIDENCE)[number];
/** What a step of a marking rule may ask of it. */
export const ENOUGH = ['any', 'entered', 'scanned'] as const;
/** One of them. */
export type Enough = (typeof ENOUGH)[number];

/** Each kind of evidence in words that stand after a number: "Serial A was …". */
export const HOW_KNOWN: Record<Evidence, string> = {
	scanned: 'scanned',
	entered: 'typed or chosen',
	accepted: 'suggested, not checked',
	reported: 'reported, not checked'
};

/** The same as a cell of a table says it. */
export const KNOWN_BY: Record<Evidence | 'unknown', string> = {
	scanned: 'scan',
	entered: 'typing',
	accepted: 'suggestion',
	reported: 'report',
	unknown: 'not recorded'
};

/** Of several, the one that says least; null (nobody said) says less than any. */
export const weakest = (of: readonly (Evidence | null)[]): Evidence | null =>
	of.reduce<Evidence | null>((a, b) => (rank(b) < rank(a) ? b : a), 'scanned');
const rank = (e: Evidence | null) => (e ? WEAK_TO_STRONG.indexOf(e) : -1);
const WEAK_TO_STRONG: readonly Evidence[] = ['accepted', 'reported', 'entered', 'scanned'];
/** How many links are known how. */
export type Known = Record<Evidence | 'unknown', number>;
/** Counts links by how each is known. */
export function countKnown(links: Iterable<Evidence | null>): Known {
	const known: Known = { scanned: 0, entered: 0, accepted: 0, reported: 0, unknown: 0 };
	for (const e of links) known[e ?? 'unknown']++;
	return known;
}
/** "41 of 44 links scanned, 2 typed or chosen, 1 not recorded"; "" where there is none. */
export function sayKnown(known: Known): string {
	const all = Object.values(known).reduce((n, k) => n + k, 0);
	if (!all) return '';
	const others = (['entered', 'reported', 'accepted'] as const)
		.filter((e) => known[e])
		.map((e) => `${grouped(known[e])} ${HOW_KNOWN[e]}`);
	if (known.unknown) others.push(`${grouped(known.unknown)} not recorded`);
	const scanned =
		known.scanned === all
			? `${all === 1 ? 'The one link' : `All ${grouped(all)} links`} scanned`
			: `${grouped(known.scanned)} of ${grouped(all)} ${all === 1 ? 'link' : 'links'} scanned`;
	return [scanned, ...others].join(', ');
}

/** Is a number known less well than a step asks? */
export const fallsShort = (known: Evidence, enough: Enough): boolean =>
	enough === 'scanned'
		? known !== 'scanned'
		: enough === 'entered'
			? known === 'accepted' || known === 'reported'
			: false;

/** How a number is known where the one who books it does not say: programs and files report, people enter. */
export const evidenceOf = (source: Actor['source']): Evidence =>
	source === 'api' || source === 'import' ? 'reported' : 'entered';
