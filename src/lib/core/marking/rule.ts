export const STEPS = [
	...(['receipt', 'customer return', 'production use', 'production output', 'move'] as const),
	...(['transfer', 'shipment', 'supplier return', 'adjustment', 'count'] as const)
];
export type Step = (typeof STEPS)[number];
export type How = 'not asked' | 'asked' | 'required';
export type Tracking = 'none' | 'lot' | 'serial' | 'lot and serial';
export interface Rule {
	step: string;
	lot: How;
	serial: How;
}

/** The numbers that a rule asks at one step, of those that the item carries. */
export function askedAt(carries: Tracking, rule: { lot: How; serial: How } | undefined): Tracking {
	const lot = carries.includes('lot') && !!rule && rule.lot !== 'not asked';
	const serial = carries.includes('serial') && !!rule && rule.serial !== 'not asked';
	return lot && serial ? 'lot and serial' : lot ? 'lot' : serial ? 'serial' : 'none';
}

/** Ready-made rules to start from. */
export const STARTS = ['everywhere', 'from receipt to shipment only', 'at shipment only', 'lot everywhere, serial at shipment'] as const; // prettier-ignore
export type Start = (typeof STARTS)[number];
/**
 * The rule of a starting point, for what the item carries. "From receipt to shipment only" asks when goods come in, go
 * out or come back, and nothing in between.
 */
export function startFrom(start: Start, carries: Tracking): Rule[] {
	const edges: Step[] = ['receipt', 'shipment', 'customer return', 'supplier return'];
	const out: Step[] = ['shipment', 'customer return'];
	const how = (number: 'lot' | 'serial', step: Step): How => {
		if (!carries.includes(number)) return 'not asked';
		if (start === 'everywhere') return 'required';
		if (start === 'from receipt to shipment only') return edges.includes(step) ? 'required' : 'not asked';
		if (start === 'at shipment only') return out.includes(step) ? 'required' : 'not asked';
		return number === 'lot' || out.includes(step) ? 'required' : 'not asked';
	};
	return STEPS.map((step) => ({ step, lot: how('lot', step), serial: how('serial', step) }));
}

/** What changes between two rules: each step and number whose strength is another, stricter or looser. */
export function changesOf(
	from: Rule[],
	to: Rule[]
): { step: string; number: 'lot' | 'serial'; from: How; to: How; stricter: boolean }[] {
	const rank = { 'not asked': 0, asked: 1, required: 2 };
	return to.flatMap((t) =>
		(['lot', 'serial'] as const).flatMap((number) => {
			const was = from.find((f) => f.step === t.step)?.[number] ?? 'not asked';
			return was === t[number]
				? []
				: [{ step: t.step, number, from: was, to: t[number], stricter: rank[t[number]] > rank[was] }];
		})
	);
}
