import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	askedAt,
	asksOf,
	changesOf,
	ENOUGH,
	HOWS,
	startFrom,
	STARTS,
	STEPS,
	type Enough,
	type How,
	type Rule
} from './rule.ts';
import { ruleSentence } from './sentence.ts';

describe('starting points', () => {
	it.each([
		['everywhere', 'serial', 'A serial is required at every step.'],
		['at shipment only', 'serial', 'A serial is required at customer return and shipment; nothing is asked elsewhere.'],
		[
			'from receipt to shipment only',
			'lot',
			'A lot is required at receipt, customer return, shipment and supplier return; nothing is asked elsewhere.'
		],
		[
			'lot everywhere, serial at shipment',
			'lot and serial',
			'A lot is required at every step. A serial is required at customer return and shipment; nothing is asked elsewhere.'
		]
	] as const)('%s, for %s', (start, carries, sentence) => {
		const numbers = (['lot', 'serial'] as const).filter((n) => carries.includes(n));
		expect(ruleSentence(startFrom(start, carries), numbers)).toBe(sentence);
	});
	it('ask nothing that the item does not carry', () => {
		for (const s of STARTS) for (const r of startFrom(s, 'lot')) expect(r.serial).toBe('not asked');
	});
});

it('says what is asked at a step of what the item carries', () => {
	expect(askedAt('lot and serial', { lot: 'required', serial: 'not asked' })).toBe('lot');
	expect(askedAt('lot and serial', { lot: 'asked', serial: 'asked' })).toBe('lot and serial');
	expect(askedAt('serial', { lot: 'required', serial: 'not asked' })).toBe('none');
	expect(askedAt('lot', undefined)).toBe('none');
});
it('tells stricter from looser', () => {
	const changes = changesOf(startFrom('at shipment only', 'serial'), startFrom('everywhere', 'serial'));
	expect(changes).toHaveLength(12);
	expect(changes.every((c) => c.stricter && c.what === 'serial')).toBe(true);
});
it('keeps expiry and facts when a starting point sets the numbers, and names what changed of them', () => {
	const was = startFrom('everywhere', 'lot').map((r) =>
		r.step === 'receipt' ? { ...r, expiry: 'required' as const, facts: { temp: 'asked' as const } } : r
	);
	const now = startFrom('at shipment only', 'lot', was);
	expect(now.find((r) => r.step === 'receipt')).toMatchObject({
		lot: 'not asked',
		expiry: 'required',
		facts: { temp: 'asked' }
	});
	const bare = now.map((r) => ({ ...r, expiry: 'not asked' as const, facts: {} }));
	expect(changesOf(now, bare)).toEqual([
		{ step: 'receipt', what: 'expiry', from: 'required', to: 'not asked', stricter: false },
		{ step: 'receipt', what: 'fact temp', from: 'asked', to: 'not asked', stricter: false }
	]);
	expect(changesOf(bare, now).every((c) => c.stricter)).toBe(true);
});

describe('any two rules', () => {
	const how = fc.constantFrom<How>(...HOWS);
	const rules = fc.tuple(
		...STEPS.map((step) =>
			fc.record({
				step: fc.constant(step),
				lot: how,
				serial: how,
				expiry: how,
				evidence: fc.constantFrom(...ENOUGH),
				facts: fc.dictionary(fc.constantFrom('A', 'B', 'C'), how)
			})
		)
	) as fc.Arbitrary<Rule[]>;
	it('differ by exactly what is said: the changes turn one into the other', () => {
		fc.assert(
			fc.property(rules, rules, (from, to) => {
				const asks = (r: Rule) =>
					new Map<string, How | Enough>([
						...asksOf(r).filter(([, h]) => h !== 'not asked'),
						...(r.evidence === 'any' ? [] : [['evidence', r.evidence] as const])
					]);
				const strength = (x: How | Enough) =>
					Math.max((HOWS as readonly string[]).indexOf(x), (ENOUGH as readonly string[]).indexOf(x));
				const turned = new Map(from.map((r) => [r.step, asks(r)]));
				for (const c of changesOf(from, to)) {
					expect(c.from).toBe(turned.get(c.step)!.get(c.what) ?? (c.what === 'evidence' ? 'any' : 'not asked'));
					expect(c.stricter).toBe(strength(c.to) > strength(c.from));
					if (c.to === 'not asked' || c.to === 'any') turned.get(c.step)!.delete(c.what);
					else turned.get(c.step)!.set(c.what, c.to);
				}
				for (const r of to) expect(turned.get(r.step)).toEqual(asks(r));
				expect(changesOf(to, to)).toEqual([]);
			})
		);
	});
	it('are said so that every step that asks something is named, and none that does not', () => {
		fc.assert(
			fc.property(rules, (list) => {
				const says = ruleSentence(list, ['lot']);
				const asking = list.filter((r) => r.lot !== 'not asked');
				if (!asking.length) expect(says).toContain('A lot is never asked.');
				else if (list.every((r) => r.lot === 'required')) expect(says).toContain('A lot is required at every step.');
				else {
					const lot = says.split('nothing is asked elsewhere.')[0];
					for (const r of list)
						expect([r.step, new RegExp(`(at|,|and) ${r.step}\\b`).test(lot)]).toEqual([r.step, r.lot !== 'not asked']);
				}
			})
		);
	});
});
