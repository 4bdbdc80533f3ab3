import { ENOUGH, type Enough } from '../ledger/evidence.ts';
import { STEPS, type Step } from '../ledger/steps.ts';

export { ENOUGH, STEPS, type Enough, type Step };
/** How strongly a step asks for something. */
export const HOWS = ['not asked', 'asked', 'required'] as const;
/** One of them. */
export type How = (typeof HOWS)[number];
/** The numbers that an item carries. */
export type Tracking = 'none' | 'lot' | 'serial' | 'lot and serial';
/** What one step asks: each number, how well it is known, the expiry date, and facts by their code; a fact that is not there is not asked. */
export interface Rule {
	step: Step;
	lot: How;
	serial: How;
	expiry: How;
	/** how it must be known which lot or serial it is */
	evidence: Enough;
	facts: Record<string, How>;
}
/** The stronger of two. */
export const stronger = (a: How, b: How): How => (HOWS.indexOf(a) < HOWS.indexOf(b) ? b : a);
/** A rule that asks nothing at a step. */
export const nothing = (step: Step): Rule => ({
	step,
	lot: 'not asked',
	serial: 'not asked',
	expiry: 'not asked',
	evidence: 'any',
	facts: {}
});

/** The numbers that a rule asks at one step, of those that the item carries. */
export function askedAt(carries: Tracking, rule: { lot: How; serial: How } | undefined): Tracking {
	const lot = carries.includes('lot') && !!rule && rule.lot !== 'not asked';
	const serial = carries.includes('serial') && !!rule && rule.serial !== 'not asked';
	return lot && serial ? 'lot and serial' : lot ? 'lot' : serial ? 'serial' : 'none';
}

/** Ready-made rules to start from. */
export const STARTS = [
	'everywhere',
	'from receipt to shipment only',
	'at shipment only',
	'lot everywhere, serial at shipment'
] as const;
/** One of them, by its name. */
export type Start = (typeof STARTS)[number];
/**
 * The numbers of a rule from a starting point, for what the item carries; expiry and facts stay as they were. "From
 * receipt to shipment only" asks when goods come in, go out or come back, and nothing in between.
 */
export function startFrom(start: Start, carries: Tracking, was: Rule[] = []): Rule[] {
	const edges: Step[] = ['receipt', 'shipment', 'customer return', 'supplier return'];
	const out: Step[] = ['shipment', 'customer return'];
	const how = (number: 'lot' | 'serial', step: Step): How => {
		if (!carries.includes(number)) return 'not asked';
		if (start === 'everywhere') return 'required';
		if (start === 'from receipt to shipment only') return edges.includes(step) ? 'required' : 'not asked';
		if (start === 'at shipment only') return out.includes(step) ? 'required' : 'not asked';
		return number === 'lot' || out.includes(step) ? 'required' : 'not asked';
	};
	return STEPS.map((step) => ({
		...(was.find((r) => r.step === step) ?? nothing(step)),
		lot: how('lot', step),
		serial: how('serial', step)
	}));
}

/** What a rule asks, as one thing to compare: "lot", "serial", "expiry", or "fact" and its code. */
export const asksOf = (rule: Rule): [what: string, how: How][] => [
	['lot', rule.lot],
	['serial', rule.serial],
	['expiry', rule.expiry],
	...Object.entries(rule.facts).map(([code, how]): [string, How] => [`fact ${code}`, how])
];

/** One thing that a step asks, before and after. */
export interface RuleChange {
	step: Step;
	/** "lot", "serial", "expiry", "fact" and its code, or "evidence" */
	what: string;
	from: How | Enough;
	to: How | Enough;
	stricter: boolean;
}
/** What changes between two rules: each step and thing asked whose strength is another, stricter or looser. */
export function changesOf(from: Rule[], to: Rule[]): RuleChange[] {
	return to.flatMap((t) => {
		const was = new Map(asksOf(from.find((f) => f.step === t.step) ?? nothing(t.step)));
		const now = new Map(asksOf(t));
		const known = from.find((f) => f.step === t.step)?.evidence ?? 'any';
		const asks = [...new Set([...was.keys(), ...now.keys()])].flatMap((what): RuleChange[] => {
			const [a, b] = [was.get(what) ?? 'not asked', now.get(what) ?? 'not asked'];
			return a === b ? [] : [{ step: t.step, what, from: a, to: b, stricter: HOWS.indexOf(b) > HOWS.indexOf(a) }];
		});
		if (known === t.evidence) return asks;
		const stricter = ENOUGH.indexOf(t.evidence) > ENOUGH.indexOf(known);
		return [...asks, { step: t.step, what: 'evidence', from: known, to: t.evidence, stricter }];
	});
}
