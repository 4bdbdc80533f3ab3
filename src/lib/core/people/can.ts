export const roles = [
	'coordinator',
	'receiving and shipping',
	'assembly',
	'quality',
	'service',
	'auditor',
	'administrator'
] as const;
export type Role = (typeof roles)[number];

/** The one table of who may do what. The server asks it for every action and every API call; screens ask it for what to offer. */
const table = {
	read: roles,
	'book inbound': ['coordinator', 'receiving and shipping'],
	'book production': ['coordinator', 'assembly'],
	'book outbound': ['coordinator', 'receiving and shipping'],
	'book any event': ['coordinator'],
	hold: ['coordinator', 'quality'],
	undo: ['coordinator'],
	'write orders': ['coordinator', 'receiving and shipping'],
	'write items': ['coordinator', 'administrator'],
	'write places and partners': ['coordinator', 'administrator'],
	'manage people': ['administrator'],
	'manage tokens': ['administrator']
} as const satisfies Record<string, readonly Role[]>;

export type Verb = keyof typeof table;

/** May this role do this? No role, no right. */
export const can = (role: string | undefined | null, verb: Verb): boolean =>
	(table[verb] as readonly string[]).includes(role ?? '');

/** What an event's kind asks of whoever books it through the interface for programs. */
export function verbForEvent(kind: string): Verb {
	if (kind === 'receipt') return 'book inbound';
	if (kind === 'shipment') return 'book outbound';
	if (kind === 'use' || kind === 'output') return 'book production';
	if (kind === 'undo') return 'undo';
	if (kind === 'hold' || kind === 'release' || kind === 'reject') return 'hold';
	return 'book any event';
}
