import { Problem } from '../problem/problem.ts';

/** What a person or an access for programs may be. */
export const roles = [
	'coordinator',
	'receiving and shipping',
	'assembly',
	'quality',
	'service',
	'auditor',
	'administrator'
] as const;
/** One of them. */
export type Role = (typeof roles)[number];

/** Is it the name of a role? */
export const isRole = (name: string): name is Role => (roles as readonly string[]).includes(name);

/** The one table of who may do what. The server asks it for every action and every API call; screens ask it for what to offer. */
const table = {
	read: roles,
	'book inbound': ['coordinator', 'receiving and shipping'],
	'book production': ['coordinator', 'assembly'],
	'review units': ['coordinator'],
	'book outbound': ['coordinator', 'receiving and shipping'],
	'move stock': ['coordinator', 'receiving and shipping'],
	'service units': ['coordinator', 'service'],
	'issue to jobs': ['coordinator', 'receiving and shipping', 'assembly'],
	'book any event': ['coordinator'],
	'count stock': ['coordinator', 'receiving and shipping', 'assembly', 'quality', 'service'],
	'adjust stock': ['coordinator'],
	hold: ['coordinator', 'quality'],
	undo: ['coordinator'],
	'correct numbers': ['coordinator', 'quality'],
	'write orders': ['coordinator', 'receiving and shipping'],
	'write items': ['coordinator', 'administrator'],
	'write places and partners': ['coordinator', 'administrator'],
	'add notes': ['coordinator', 'receiving and shipping', 'assembly', 'quality', 'service'],
	'print labels': ['coordinator', 'receiving and shipping', 'assembly', 'quality', 'service'],
	'see the ledger': ['coordinator', 'quality', 'auditor', 'administrator'],
	'name the witness': ['coordinator', 'administrator'],
	'manage people': ['administrator'],
	'manage tokens': ['administrator']
} as const satisfies Record<string, readonly Role[]>;

/** Something that takes a right. */
export type Verb = keyof typeof table;

/** May this role do this? No role, no right. */
export const can = (role: string | undefined | null, verb: Verb): boolean =>
	(table[verb] as readonly string[]).includes(role ?? '');

/** Each role as a sentence names who has it. */
const WHO: Record<Role, string> = {
	coordinator: 'a coordinator',
	'receiving and shipping': 'receiving and shipping',
	assembly: 'assembly',
	quality: 'quality',
	service: 'service',
	auditor: 'an auditor',
	administrator: 'an administrator'
};
/** Who may do something, as a refusal says it: "Only a coordinator or quality can correct numbers." */
export function sayWhoMay(verb: Verb): string {
	const who = table[verb].map((role) => WHO[role]);
	const [others, last] = [who.slice(0, -1), who[who.length - 1]];
	return `Only ${others.length ? `${others.join(', ')} or ${last}` : last} can ${verb}.`;
}

/** @throws Problem 403 saying who may, when this role may not */
export function demand(role: string, verb: Verb): void {
	if (!isRole(role) || !can(role, verb)) throw new Problem(sayWhoMay(verb), 403);
}
