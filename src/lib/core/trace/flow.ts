import type Fraction from 'fraction.js';
import type { Flow, Gap, Moved } from './types.ts';

/** A movement through a run as a link of a trace. */
export const flowOf = (m: Moved, content?: Fraction): Flow => ({
	run: m.run!,
	role: m.role!,
	mark: m.mark,
	qty: m.qty,
	at: m.at,
	event: m.event,
	evidence: m.evidence ?? null,
	content
});

/** A movement as a place where a trace cannot vouch. */
export const gapOf = (kind: Gap['kind'], m: Moved): Gap => ({
	kind,
	mark: m.mark,
	run: m.run,
	event: m.event,
	qty: m.qty
});
