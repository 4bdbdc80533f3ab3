import { expect, it } from 'vitest';
import { can, roles, verbsForEvent } from './can.ts';

it('an auditor reads and does nothing else; nobody without a role does anything', () => {
	const verbs = ['book inbound', 'book production', 'book outbound', 'book any event', 'hold', 'undo', 'write orders', 'write items', 'write places and partners', 'manage people', 'manage tokens'] as const; // prettier-ignore
	for (const v of verbs) {
		expect(can('auditor', v), v).toBe(false);
		expect(can(null, v), v).toBe(false);
		expect(roles.some((r) => can(r, v)), v).toBe(true); // prettier-ignore
	}
	expect(roles.every((r) => can(r, 'read'))).toBe(true);
});
it('a shipment cannot pass as a receipt, nor a hold as a move', () => {
	const ship = { from: 'QS/A1', to: '@customer' };
	expect([...verbsForEvent('receipt', [{ from: '@supplier', to: 'QS/A1' }, ship])].sort()).toEqual([
		'book inbound',
		'book outbound'
	]);
	expect([...verbsForEvent('use', [{ ...ship, role: 'use' }])]).toEqual(['book production']);
	expect([...verbsForEvent('hold', [])]).toEqual(['book any event']);
	expect([...verbsForEvent('receipt', [{ from: '@adjust', to: 'QS/A1' }])].sort()).toEqual([
		'book any event',
		'book inbound'
	]);
});
