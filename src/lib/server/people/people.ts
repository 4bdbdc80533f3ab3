import { z } from 'zod';
import '../../core/problem/words.ts';
import type { Db } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { roles } from '../../core/people/can.ts';
import { hashPassword } from './sessions.ts';

export const personInput = z.strictObject({
	login: z.string().trim().regex(/^[a-z][a-z0-9._-]{0,39}$/, 'A sign-in name is small letters and digits, without blanks: tobi.marsh.'), // prettier-ignore
	name: z.string().trim().min(1, 'Type the name.').max(100),
	role: z.enum(roles, 'Choose a role.'),
	password: z.string().min(10, 'A password has at least 10 characters.').max(200)
});

export async function addPerson(sql: Db, input: z.input<typeof personInput>) {
	const p = parse(personInput, input);
	const made = await sql`INSERT INTO person (login, name, role, password_hash)
		VALUES (${p.login}, ${p.name}, ${p.role}, ${await hashPassword(p.password)}) ON CONFLICT DO NOTHING`;
	if (!made.count) throw new Problem([{ message: `${p.login} is taken. Choose another sign-in name.`, at: 'login' }]);
}

/** Parses what a form or a program gives. @throws Problem naming each field */
export function parse<T extends z.ZodType>(schema: T, input: unknown): z.output<T> {
	const parsed = schema.safeParse(input);
	if (parsed.success) return parsed.data;
	throw new Problem(parsed.error.issues.slice(0, 50).map((i) => ({ message: i.message, at: i.path.join('.') })));
}

export const listPeople = (sql: Db) => sql<{ login: string; name: string; role: string; active: boolean }[]>`
	SELECT login, name, role, active FROM person ORDER BY active DESC, name`;

/** Lets a person in or keeps them out; their sessions end at once. The last administrator stays. */
export async function setActive(sql: Db, login: string, active: boolean) {
	const [{ others }] = await sql<{ others: number }[]>`
		SELECT count(*)::int AS others FROM person WHERE role = 'administrator' AND active AND login <> ${login}`;
	const [person] = await sql<{ id: string; role: string }[]>`SELECT id, role FROM person WHERE login = ${login}`;
	if (!person) throw new Problem(`There is nobody with the sign-in name ${login}.`);
	if (!active && person.role === 'administrator' && !others)
		throw new Problem('This is the last administrator. Make another one first.');
	await sql`UPDATE person SET active = ${active} WHERE id = ${person.id}`;
	if (!active) await sql`DELETE FROM session WHERE person_id = ${person.id}`;
}

export async function setPassword(sql: Db, login: string, password: string) {
	const p = parse(personInput.shape.password, password);
	await sql`UPDATE person SET password_hash = ${await hashPassword(p)} WHERE login = ${login}`;
	await sql`DELETE FROM session WHERE person_id = (SELECT id FROM person WHERE login = ${login})`;
}
