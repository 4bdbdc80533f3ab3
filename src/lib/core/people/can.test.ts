import { expect, it } from 'vitest';
import { can, roles, sayWhoMay } from './can.ts';

it('an auditor reads and does nothing else; nobody without a role does anything', () => {
	const verbs = [
		'book inbound',
		'book production',
		'book outbound',
		'book any event',
		'issue to jobs',
		'hold',
		'undo',
		'write orders',
		'write items',
		'write places and partners',
		'manage people',
		'manage tokens'
	] as const;
	for (const v of verbs) {
		expect(can('auditor', v), v).toBe(false);
		expect(can(null, v), v).toBe(false);
		expect(
			roles.some((r) => can(r, v)),
			v
		).toBe(true);
	}
	expect(roles.every((r) => can(r, 'read'))).toBe(true);
});

it('a refusal says who may', () => {
	expect(sayWhoMay('manage people')).toBe('Only an administrator can manage people.');
	expect(sayWhoMay('correct numbers')).toBe('Only a coordinator or quality can correct numbers.');
	expect(sayWhoMay('service units')).toBe('Only a coordinator or service can service units.');
});
