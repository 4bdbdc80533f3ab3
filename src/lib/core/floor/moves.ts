/** One operation of a route. */
export interface Operation {
	/** unique within the route */
	code: string;
	name: string;
	/** codes of the stations where it is done; none: anywhere */
	stations: string[];
	/** it is not left before what is used in the unit is recorded */
	recordsUse: boolean;
	/** codes of the facts that must be recorded before it is left */
	values: string[];
}

/** What a unit on the floor can be in. */
export const STATES = ['queued', 'in process', 'complete', 'held', 'rework', 'scrapped'] as const;
/** One of them. */
export type FloorState = (typeof STATES)[number];
/** What can be done to a unit. */
export const ACTS = ['release', 'read', 'hold', 'release hold', 'rework', 'out of rework', 'scrap'] as const;
/** One of them. */
export type Act = (typeof ACTS)[number];

/** Where a unit is on its route. */
export interface Where {
	/** code of the operation where it stands */
	operation: string;
	state: FloorState;
	/** of one that is held: the state it had */
	was: FloorState | null;
}
/** What is wanted of a unit. */
export interface Wanted {
	act: Act;
	/** rework: the operation it goes back to; where it stands if left out */
	operation?: string | null;
	/** its serial, for what is said */
	unit: string;
}

/**
 * Where a unit is after an act.
 * @param at where it is; null before it is released
 * @returns where it is then, or why it does not go
 */
export function move(route: readonly Operation[], at: Where | null, wanted: Wanted): Where | { problem: string } {
	const { act, unit } = wanted;
	const no = (problem: string) => ({ problem });
	const nameOf = (code: string) => route.find((o) => o.code === code)?.name ?? code;
	if (act === 'release')
		return at
			? no(`${unit} is released already: it is ${sayWhere(at, nameOf(at.operation))}. Read it to move it on.`)
			: { operation: route[0].code, state: 'queued', was: null };
	if (!at) return no(`${unit} is not released to the floor. Release it first.`);
	const here = sayWhere(at, nameOf(at.operation));
	if (at.state === 'scrapped') return no(`${unit} is scrapped, and nothing is done to it any more. Take another unit.`);
	const index = route.findIndex((o) => o.code === at.operation);
	switch (act) {
		case 'scrap':
			return { ...at, state: 'scrapped', was: null };
		case 'hold':
			return at.state === 'held'
				? no(`${unit} is on hold already. Release the hold first.`)
				: { ...at, state: 'held', was: at.state };
		case 'release hold':
			return at.state === 'held' && at.was
				? { ...at, state: at.was, was: null }
				: no(`${unit} is not on hold: it is ${here}.`);
	}
	if (at.state === 'held')
		return no(`${unit} is on hold at ${nameOf(at.operation)} and does not move. Release the hold first.`);
	switch (act) {
		case 'rework': {
			if (at.state === 'rework')
				return no(`${unit} is in rework already, at ${nameOf(at.operation)}. Take it out of rework first.`);
			const to = wanted.operation ?? at.operation;
			const target = route.findIndex((o) => o.code === to);
			if (target < 0)
				return no(
					`There is no operation ${to} on the route of ${unit}. It has ${route.map((o) => o.code).join(', ')}.`
				);
			if (target > index)
				return no(
					`${unit} has not come to ${nameOf(to)} yet: it is ${here}. Send it to an operation that it has been at.`
				);
			return { operation: to, state: 'rework', was: null };
		}
		case 'out of rework':
			return at.state === 'rework' ? { ...at, state: 'queued' } : no(`${unit} is not in rework: it is ${here}.`);
		case 'read':
			if (at.state === 'rework')
				return no(`${unit} is in rework at ${nameOf(at.operation)}. Take it out of rework before it goes on.`);
			if (at.state === 'complete')
				return no(`${unit} is complete: it has been through its whole route. Put it into stock.`);
			if (at.state === 'queued') return { ...at, state: 'in process' };
			return index + 1 < route.length
				? { operation: route[index + 1].code, state: 'queued', was: null }
				: { ...at, state: 'complete' };
	}
}

/** Does a read take the unit out of its operation? Then what the operation asks must be there. */
export const leaves = (at: Where | null, act: Act): boolean => act === 'read' && at?.state === 'in process';

/** Where a unit is, in words: "queued at Assembly". */
export const sayWhere = (at: Where, name: string): string =>
	({
		queued: `queued at ${name}`,
		'in process': `in process at ${name}`,
		complete: 'complete',
		held: `on hold at ${name}`,
		rework: `in rework at ${name}`,
		scrapped: 'scrapped'
	})[at.state];

/** A read of the same tag within so many milliseconds does nothing: it lay in the field. */
export const AGAIN_WITHIN = 10_000;
