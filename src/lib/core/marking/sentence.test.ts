import { expect, it } from 'vitest';
import { ruleSentence } from './sentence.ts';

const rule = (step: string, lot: string, serial = 'not asked') => ({ step, lot, serial });
it('says a rule back in plain words', () => {
	const steps = [
		rule('receipt', 'required'),
		rule('move', 'required', 'asked'),
		rule('shipment', 'required', 'required')
	];
	expect(ruleSentence(steps, ['lot', 'serial'])).toBe('A lot is required at every step. A serial is required at shipment, asked at move (leaving it out wants a reason); nothing is asked elsewhere.'); // prettier-ignore
	expect(ruleSentence([rule('receipt', 'not asked')], ['lot'])).toBe('A lot is never asked.');
});
