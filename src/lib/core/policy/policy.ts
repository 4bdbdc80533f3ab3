import type { Strength } from '../facts/fact.ts';

/**
 * The checks whose strength a firm may set: stop (cannot be booked), reason (can, with one line of why), note (only
 * shown). What would break the ledger (a number twice, a date that is none) is no matter of policy.
 */
export const CHECKS = {
	expired: { says: 'what arrives has expired already', strength: 'reason' },
	'too short': { says: 'less of its life is left at receipt than the item asks', strength: 'reason' },
	'changed expiry': { says: 'an expiry date that was worked out is changed', strength: 'reason' },
	'more than ordered': { says: 'more comes, is made or goes than was ordered', strength: 'reason' },
	'another item': { says: 'a serial belongs to another item', strength: 'reason' },
	'not announced': { says: 'a number arrives that the supplier’s notice does not name', strength: 'note' },
	'not released': { says: 'a number is given that was not drawn when the order was released', strength: 'note' }
} as const satisfies Record<string, { says: string; strength: Strength }>;
export type Check = keyof typeof CHECKS;
export type Policy = Record<Check, Strength>;

export const asDelivered = (): Policy => Object.fromEntries(Object.entries(CHECKS).map(([code, c]) => [code, c.strength])) as Policy; // prettier-ignore
