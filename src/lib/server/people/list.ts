import { roles } from '../../core/people/can.ts';
import type { ListSource } from '../list/source.ts';

const roleChoices = roles.map((value) => ({ value, label: value }));

/** Who may sign in. */
export const peopleList: ListSource = {
	key: 'people',
	title: 'People',
	right: 'manage people',
	find: 'Find a person',
	empty: 'Nobody yet.',
	id: ['p.id'],
	sort: { key: 'name', down: false },
	from: 'person p WHERE true',
	columns: [
		{ key: 'login', label: 'Sign-in name', kind: 'text', from: 'p.login', filled: true, mono: true },
		{ key: 'name', label: 'Name', kind: 'text', from: 'p.name', filled: true },
		{ key: 'role', label: 'Role', kind: 'choice', from: 'p.role', filled: true, choices: roleChoices },
		{
			key: 'state',
			label: 'State',
			kind: 'choice',
			from: `CASE WHEN p.active THEN 'may sign in' ELSE 'blocked' END`,
			filled: true,
			choices: ['may sign in', 'blocked'].map((value) => ({ value, label: value }))
		}
	]
};

/** Other programs that may use this one. */
export const accessList: ListSource = {
	key: 'access',
	title: 'Access for other programs',
	right: 'manage tokens',
	find: 'Find a program',
	empty: 'No other program has access yet.',
	id: ['t.id'],
	sort: { key: 'made', down: true },
	from: 'api_token t WHERE true',
	columns: [
		{ key: 'name', label: 'Program', kind: 'text', from: 't.name', filled: true },
		{ key: 'role', label: 'Role', kind: 'choice', from: 't.role', filled: true, choices: roleChoices },
		{ key: 'made', label: 'Added', kind: 'moment', from: 't.created_at', filled: true },
		{ key: 'by', label: 'By', kind: 'text', from: 't.created_by', filled: true },
		{ key: 'ends', label: 'Until', kind: 'day', from: 't.ends_on' },
		{ key: 'used', label: 'Last used', kind: 'moment', from: 't.last_used_at' },
		{ key: 'revoked', label: 'Withdrawn', kind: 'moment', from: 't.revoked_at' }
	]
};
