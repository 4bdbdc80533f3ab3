import type { Verb } from '../people/can.ts';
import { VIRTUAL_PLACES, virtualPlace } from './places.ts';

/** A movement's part in its run: put in, came out, taken back out. */
export const ROLES = ['use', 'make', 'detach'] as const;
/** What a movement is to its run. */
export type Role = (typeof ROLES)[number];

/** Where a movement begins or ends: at a place of the firm, or at an end of the ledger. */
type End = 'shelf' | keyof typeof VIRTUAL_PLACES;
/** What a movement of some kind of event may be. */
interface Way {
	from: End;
	to: End;
	/** its part in a run; none where it has no run */
	role?: Role;
	/** the run is of one finished unit, or it is a batch; either where nothing is said */
	run?: 'unit' | 'batch';
	/** the right of its kind covers it, whatever its ends ask */
	covered?: true;
}
interface EventKind {
	/** the right that this act asks besides what its movements ask */
	right: Verb;
	/** what it writes: movements, the mirror of another event's, or a change of what is recorded */
	writes: 'movements' | 'mirror' | 'changes';
	/** what its movements may be: everything else is refused */
	ways: readonly Way[];
}
const uses = (more: Partial<Way> = {}): Way => ({ from: 'shelf', to: '@process', role: 'use', ...more });
const makes = (more: Partial<Way> = {}): Way => ({ from: '@process', to: 'shelf', role: 'make', ...more });
const detaches = (more: Partial<Way> = {}): Way => ({ from: '@process', to: 'shelf', role: 'detach', ...more });
/** What a run loses goes straight to scrap. */
const loses = (more: Partial<Way> = {}): Way => ({ from: '@process', to: '@scrap', role: 'make', ...more });
/** What carries no number, or fewer, gets one in a run that only gives numbers. */
const NUMBERED = [uses({ run: 'batch' }), makes({ run: 'batch' })];

/**
 * Every kind of event: it names the act, the movements say what happened, and its row says which movements it may have and who
 * may book it. Screens, programs and stations go by it alike.
 */
export const EVENT_KINDS = {
	receipt: { right: 'book inbound', writes: 'movements', ways: [{ from: '@supplier', to: 'shelf' }] },
	move: { right: 'move stock', writes: 'movements', ways: [{ from: 'shelf', to: 'shelf' }] },
	transfer: { right: 'move stock', writes: 'movements', ways: [{ from: 'shelf', to: 'shelf' }] },
	// A batch gives back what was put in and not used.
	use: { right: 'book production', writes: 'movements', ways: [uses(), detaches({ run: 'batch' })] },
	output: { right: 'book production', writes: 'movements', ways: [uses(), makes(), loses()] },
	issue: {
		right: 'issue to jobs',
		writes: 'movements',
		ways: [
			{ from: 'shelf', to: '@job' },
			{ from: '@job', to: 'shelf' }
		]
	},
	repack: {
		right: 'book production',
		writes: 'movements',
		ways: [uses({ run: 'batch' }), makes({ run: 'batch' }), loses({ run: 'batch', covered: true })]
	},
	// Parts of a unit come out and go in; what is left of it, or good for nothing, is scrapped.
	service: {
		right: 'service units',
		writes: 'movements',
		ways: [
			uses({ run: 'unit', covered: true }),
			detaches({ run: 'unit', covered: true }),
			detaches({ run: 'unit', to: '@scrap', covered: true }),
			{ from: 'shelf', to: '@scrap', covered: true }
		]
	},
	// Pieces may get their serials as they go; where one is swapped the other comes back.
	shipment: {
		right: 'book outbound',
		writes: 'movements',
		ways: [{ from: 'shelf', to: '@customer' }, { from: '@customer', to: 'shelf' }, ...NUMBERED]
	},
	// What came back may turn out to be good for nothing; a check sees that nothing else is scrapped by it.
	return: {
		right: 'book inbound',
		writes: 'movements',
		ways: [
			{ from: '@customer', to: 'shelf' },
			{ from: 'shelf', to: '@scrap', covered: true }
		]
	},
	'supplier return': { right: 'book outbound', writes: 'movements', ways: [{ from: 'shelf', to: '@supplier' }] },
	scrap: { right: 'adjust stock', writes: 'movements', ways: [{ from: 'shelf', to: '@scrap' }] },
	adjust: {
		right: 'adjust stock',
		writes: 'movements',
		ways: [
			{ from: '@adjust', to: 'shelf' },
			{ from: 'shelf', to: '@adjust' }
		]
	},
	// What is found is found, wherever it was said to be.
	count: {
		right: 'book any event',
		writes: 'movements',
		ways: [
			{ from: 'shelf', to: 'shelf' },
			{ from: 'shelf', to: '@adjust' },
			{ from: '@adjust', to: 'shelf' },
			{ from: '@customer', to: 'shelf' },
			{ from: '@supplier', to: 'shelf' },
			{ from: '@job', to: 'shelf' },
			{ from: '@scrap', to: 'shelf' }
		]
	},
	mark: { right: 'book any event', writes: 'movements', ways: NUMBERED },
	begin: { right: 'book production', writes: 'changes', ways: [] },
	// A lot that is called like another one of its item goes into that by a run.
	correct: { right: 'add notes', writes: 'changes', ways: NUMBERED },
	hold: { right: 'hold', writes: 'changes', ways: [] },
	quarantine: { right: 'hold', writes: 'changes', ways: [] },
	release: { right: 'hold', writes: 'changes', ways: [] },
	reject: { right: 'hold', writes: 'changes', ways: [] },
	undo: { right: 'undo', writes: 'mirror', ways: [] }
} as const satisfies Record<string, EventKind>;
/** A kind of event, by its name. */
export type Kind = keyof typeof EVENT_KINDS;
/** Where a kind's own name is no noun. */
const NOUNS: Partial<Record<Kind, string>> = {
	use: 'material use',
	issue: 'issue to a job',
	repack: 'repacking',
	scrap: 'scrapping',
	adjust: 'adjustment',
	mark: 'numbering',
	begin: 'start of units',
	correct: 'correction'
};
/** What an event of a kind is called, as a noun: "adjustment, 1 Dec". */
export const eventNoun = (kind: string): string => NOUNS[kind as Kind] ?? kind;
/** The names of all kinds of event, for what is parsed. */
export const KINDS = Object.keys(EVENT_KINDS) as [Kind, ...Kind[]];

/** A movement as far as its kind cares. */
interface Moving {
	from: unknown;
	to: unknown;
	role?: unknown;
}
const endOf = (place: unknown): End | null =>
	typeof place !== 'string' || !place
		? null
		: virtualPlace(place)
			? (place as End)
			: place.startsWith('@')
				? null
				: 'shelf';

/**
 * Which of the ways of its kind a movement is; null where its kind has none such.
 * @param run what its run is; left out where that is not known yet
 */
export function wayOf(kind: unknown, { from, to, role }: Moving, run?: 'unit' | 'batch' | null): Way | null {
	const row: EventKind | null =
		typeof kind === 'string' && Object.hasOwn(EVENT_KINDS, kind) ? EVENT_KINDS[kind as Kind] : null;
	const [begins, ends] = [endOf(from), endOf(to)];
	return (
		row?.ways.find(
			(w) =>
				w.from === begins &&
				w.to === ends &&
				(w.role ?? null) === (role ?? null) &&
				(run === undefined || (w.role ? !!run && (!w.run || w.run === run) : !run))
		) ?? null
	);
}
/** Kinds of event that are for such a movement, for whoever took another. */
export const kindsFor = (m: Moving, run: 'unit' | 'batch' | null): Kind[] =>
	KINDS.filter((kind) => {
		const way = wayOf(kind, m, run);
		return way && !way.covered && EVENT_KINDS[kind].writes === 'movements';
	});

/**
 * What booking an event asks: the right of its kind, and for each movement that this does not cover the right of every end that
 * lies outside the shelves, whatever its role; between shelves the right to move stock.
 * @param kind as given; an unknown one asks the right to book anything, and is refused when it is read
 * @param movements as given, not looked at yet
 */
export function rightsFor(kind: unknown, movements: readonly unknown[]): Set<Verb> {
	const row: EventKind | null =
		typeof kind === 'string' && Object.hasOwn(EVENT_KINDS, kind) ? EVENT_KINDS[kind as Kind] : null;
	const rights = new Set<Verb>([row?.right ?? 'book any event']);
	for (const m of movements) {
		const { from, to, role } = (m ?? {}) as { from?: unknown; to?: unknown; role?: unknown };
		if (wayOf(kind, { from, to, role })?.covered) continue;
		const [out, into] = [virtualPlace(from), virtualPlace(to)];
		if (out) rights.add(out.from);
		if (into) rights.add(into.to);
		if (role) rights.add('book production');
		if (!out && !into && !role) rights.add('move stock');
	}
	return rights;
}

/** The address of what one event booked. */
export const eventPath = (id: string): string => `/events/moved?event.from=${id}&event.to=${id}&sort=line`;
