import { expect, it } from 'vitest';
import { asDelivered, CHECKS } from './policy.ts';

it('every check has a sentence and a strength of its own as delivered', () => {
	const policy = asDelivered();
	for (const [code, { says, strength }] of Object.entries(CHECKS)) {
		expect(policy[code as keyof typeof CHECKS]).toBe(strength);
		expect(says.length).toBeGreaterThan(15);
	}
	expect(new Set(Object.values(CHECKS).map((c) => c.says)).size).toBe(Object.keys(CHECKS).length);
});
it('is a copy: who changes it changes nobody else’s', () => {
	const mine = asDelivered();
	mine.expired = 'stop';
	expect(asDelivered().expired).toBe('reason');
});
