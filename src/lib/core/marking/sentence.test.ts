import { expect, it } from 'vitest';
import { nothing, type How, type Rule, type Step } from './rule.ts';
import { ruleSentence } from './sentence.ts';

const rule = (step: Step, lot: How, serial: How = 'not asked', more: Partial<Rule> = {}): Rule => ({
	...nothing(step),
	lot,
	serial,
	...more
});
it('says a rule back in plain words', () => {
	const steps = [
		rule('receipt', 'required'),
		rule('move', 'required', 'asked'),
		rule('shipment', 'required', 'required')
	];
	expect(ruleSentence(steps, ['lot', 'serial'])).toBe(
		'A lot is required at every step. A serial is required at shipment, asked at move (leaving it out wants a reason); nothing is asked elsewhere.'
	);
	expect(ruleSentence([rule('receipt', 'not asked')], ['lot'])).toBe('A lot is never asked.');
});
it('names dates and facts only where they are asked, and those asked alike together', () => {
	const steps = [
		rule('receipt', 'required', 'not asked', { expiry: 'required', facts: { t: 'required', c: 'asked' } }),
		rule('shipment', 'required')
	];
	expect(ruleSentence(steps, ['lot'], { t: 'Temperature on arrival', c: 'Certificate', m: 'Melt' })).toBe(
		'A lot is required at every step. An expiry date and Temperature on arrival are required at receipt. Certificate is asked at receipt (leaving it out wants a reason).'
	);
});
