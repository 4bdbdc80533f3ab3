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
	'move stock': ['coordinator', 'receiving and shipping'],
	'book any event': ['coordinator'],
	hold: ['coordinator', 'quality'],
	undo: ['coordinator'],
	'write orders': ['coordinator', 'receiving and shipping'],
	'write items': ['coordinator', 'administrator'],
	'write places and partners': ['coordinator', 'administrator'],
	'add notes': ['coordinator', 'receiving and shipping', 'assembly', 'quality', 'service'],
	'print labels': ['coordinator', 'receiving and shipping', 'assembly', 'quality', 'service'],
	'manage people': ['administrator'],
	'manage tokens': ['administrator']
} as const satisfies Record<string, readonly Role[]>;

export type Verb = keyof typeof table;

/** May this role do this? No role, no right. */
export const can = (role: string | undefined | null, verb: Verb): boolean =>
	(table[verb] as readonly string[]).includes(role ?? '');

/**
 * What booking an event through the interface for programs asks: by its kind, and by what each movement really does,
 * so that a shipment cannot pass as a receipt.
 */
export function verbsForEvent(kind: string, movements: { from?: unknown; to?: unknown; role?: unknown }[]): Set<Verb> {
	const ofKind: Record<string, Verb> = {
		receipt: 'book inbound',
		shipment: 'book outbound',
		use: 'book production',
		output: 'book production',
		undo: 'undo'
	};
	const verbs = new Set<Verb>([ofKind[kind] ?? 'book any event']);
	for (const m of movements)
		verbs.add(
			m?.role
				? 'book production'
				: m?.from === '@supplier'
					? 'book inbound'
					: m?.to === '@customer'
						? 'book outbound'
						: 'book any event'
		);
	return verbs;
}
