import { expect, it } from 'vitest';
import { Problem } from './problem.ts';

it('what could not be read is told from what breaks a rule', () => {
	const title = (codes: (string | undefined)[], status?: number) =>
		new Problem(
			codes.map((code) => ({ message: 'Give it.', code })),
			status
		).toDocument().title;
	expect(title(['form', 'form'])).toBe('The request could not be read');
	expect(title(['form', 'short'])).toBe('Not booked: a rule is broken');
	expect(title([undefined], 409)).toBe('Refused');
});
