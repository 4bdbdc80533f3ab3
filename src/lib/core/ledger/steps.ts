import type { Kind, Role } from './events.ts';

/** The steps of a marking rule: where numbers, dates and facts are asked for. */
export const STEPS = [
	'receipt',
	'customer return',
	'production use',
	'production output',
	'job use',
	'repack',
	'service part',
	'move',
	'transfer',
	'shipment',
	'supplier return',
	'adjustment in',
	'adjustment out',
	'count'
] as const;
/** A step of the marking rule. */
export type Step = (typeof STEPS)[number];

/** A place as far as a step cares: its code, and the site that it belongs to. */
export interface At {
	code: string;
	site: string | null;
}
/** What a movement is, as far as its step cares. */
export interface Moving {
	kind: string;
	from: At;
	to: At;
	role?: Role | null;
}

const byKind: Partial<Record<Kind, Step>> = { repack: 'repack', service: 'service part' };

/**
 * The step of the marking rule that a movement is; null for one of a correction, of which nothing is asked. The database has the same table as a function (step_of), for the
 * check of a whole ledger; a test holds the two against each other.
 */
export function stepOf({ kind, from, to, role }: Moving): Step | null {
	if (kind === 'correct') return null;
	if (role) return byKind[kind as Kind] ?? (role === 'make' ? 'production output' : 'production use');
	if (from.code === '@supplier') return 'receipt';
	if (from.code === '@customer') return 'customer return';
	if (to.code === '@customer') return 'shipment';
	if (to.code === '@supplier') return 'supplier return';
	if (to.code === '@job') return 'job use';
	if (kind === 'count') return 'count';
	if (from.code.startsWith('@')) return 'adjustment in';
	if (to.code.startsWith('@')) return 'adjustment out';
	return from.site === to.site ? 'move' : 'transfer';
}

/** One movement of a run, as far as it matters whether the run only gives numbers. */
export interface RunPart<R> {
	run: R | null;
	role: Role | null;
	item: string;
	/** the lot and serial that the movement names */
	lot: string | null;
	serial: string | null;
	/** the run makes one finished piece */
	unit: boolean;
}
/**
 * Runs that only give numbers to what has none yet: everything in them is one item, and whatever goes in carries fewer
 * numbers than everything that comes out, and no other. They are no production, so the steps of the marking rule ask
 * nothing there. Rework and repacking, where a number goes in and another comes out, are not of them.
 */
export function numberingRuns<R>(parts: readonly RunPart<R>[]): Set<R> {
	const runs = new Map<R, RunPart<R>[]>();
	for (const p of parts) {
		if (p.run === null) continue;
		const list = runs.get(p.run);
		if (list) list.push(p);
		else runs.set(p.run, [p]);
	}
	const only = (list: RunPart<R>[]) => {
		const uses = list.filter((p) => p.role === 'use');
		const makes = list.filter((p) => p.role === 'make');
		if (!uses.length || !makes.length || uses.length + makes.length !== list.length) return false;
		const [{ item, unit }] = list;
		if (unit || list.some((p) => p.item !== item)) return false;
		const lots = new Set(uses.map((u) => u.lot));
		const [lot] = lots;
		return (
			lots.size === 1 &&
			uses.every((u) => !u.serial) &&
			makes.every((m) => (lot === null ? !!(m.lot || m.serial) : m.lot === lot && !!m.serial))
		);
	};
	return new Set([...runs].filter(([, list]) => only(list)).map(([run]) => run));
}
