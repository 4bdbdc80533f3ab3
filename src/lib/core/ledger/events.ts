import type { Verb } from '../people/can.ts';
import { virtualPlace } from './places.ts';

/** A movement's part in its run: put in, came out, taken back out. */
export const ROLES = ['use', 'make', 'detach'] as const;
/** What a movement is to its run. */
export type Role = (typeof ROLES)[number];

interface EventKind {
	/** the right that this act asks besides what its movements ask */
	right: Verb;
	/** what it writes: movements, the mirror of another event's, or a change of what is recorded */
	writes: 'movements' | 'mirror' | 'changes';
	/** movements that its own right covers, whatever their ends ask */
	covers?: (m: { from: unknown; to: unknown; role: unknown }) => boolean;
}
/** What a run loses goes straight to scrap. */
const loss = ({ from, to, role }: { from: unknown; to: unknown; role: unknown }) =>
	role === 'make' && from === '@process' && to === '@scrap';
/** Parts of a unit go in and come out; what is left of it is scrapped. */
const servicing = ({ from, to, role }: { from: unknown; to: unknown; role: unknown }) =>
	role
		? role !== 'make' &&
			(from === '@process' || to === '@process') &&
			(!virtualPlace(to) || to === '@process' || to === '@scrap')
		: to === '@scrap' && !virtualPlace(from);
/** What comes back from a customer may turn out to be good for nothing; the checks see that nothing else is scrapped by it. */
const cameBack = ({ from, to, role }: { from: unknown; to: unknown; role: unknown }) =>
	!role && to === '@scrap' && !virtualPlace(from);
/** Every kind of event: it names the act, the movements say what happened. */
export const EVENT_KINDS = {
	receipt: { right: 'book inbound', writes: 'movements' },
	move: { right: 'move stock', writes: 'movements' },
	transfer: { right: 'move stock', writes: 'movements' },
	use: { right: 'book production', writes: 'movements' },
	output: { right: 'book production', writes: 'movements' },
	issue: { right: 'issue to jobs', writes: 'movements' },
	repack: { right: 'book production', writes: 'movements', covers: loss },
	service: { right: 'service units', writes: 'movements', covers: servicing },
	shipment: { right: 'book outbound', writes: 'movements' },
	return: { right: 'book inbound', writes: 'movements', covers: cameBack },
	'supplier return': { right: 'book outbound', writes: 'movements' },
	scrap: { right: 'adjust stock', writes: 'movements' },
	adjust: { right: 'adjust stock', writes: 'movements' },
	count: { right: 'book any event', writes: 'movements' },
	mark: { right: 'book any event', writes: 'movements' },
	begin: { right: 'book production', writes: 'changes' },
	correct: { right: 'add notes', writes: 'changes' },
	hold: { right: 'hold', writes: 'changes' },
	quarantine: { right: 'hold', writes: 'changes' },
	release: { right: 'hold', writes: 'changes' },
	reject: { right: 'hold', writes: 'changes' },
	undo: { right: 'undo', writes: 'mirror' }
} as const satisfies Record<string, EventKind>;
/** A kind of event, by its name. */
export type Kind = keyof typeof EVENT_KINDS;
/** The names of all kinds of event, for what is parsed. */
export const KINDS = Object.keys(EVENT_KINDS) as [Kind, ...Kind[]];

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
		if (row?.covers?.({ from, to, role })) continue;
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
