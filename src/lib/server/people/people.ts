import { z } from 'zod';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { roles } from '../../core/people/can.ts';
import { line } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';
import { hashPassword, passwordText } from './passwords.ts';

/** A person, as parsed. */
export const personInput = z.strictObject({
	login: z
		.string()
		.trim()
		.regex(/^[a-z][a-z0-9._-]{0,39}$/, 'A sign-in name is small letters and digits, without blanks: tobi.marsh.'),
	name: line(100, 1, 'Type the name.'),
	role: z.enum(roles, 'Choose a role.'),
	password: passwordText
});

/** Lets somebody in under a sign-in name of their own. Their first sign-in asks for a password of their own. */
export async function addPerson(sql: Sql, by: string, input: unknown): Promise<void> {
	const p = parse(personInput, input);
	const hash = await hashPassword(p.password);
	await transaction(sql, async (tx) => {
		const made =
			await tx`INSERT INTO person (login, name, role, password_hash, password_given) VALUES (${p.login}, ${p.name}, ${p.role}, ${hash}, true) ON CONFLICT DO NOTHING`;
		if (!made.count) throw new Problem([{ message: `${p.login} is taken. Choose another sign-in name.`, at: 'login' }]);
		await keepHistory(tx, by, 'person', p.login, null, { name: p.name, role: p.role, active: true });
	});
}

/** Everybody who can sign in or could, by name. */
export const listPeople = (sql: Db) => sql<{ login: string; name: string; role: string; active: boolean }[]>`
	SELECT login, name, role, active FROM person ORDER BY active DESC, name`;

/** Administrators are switched on and off one at a time, so that two at once do not leave none. */
const lockAdministrators = (tx: Tx) => tx`SELECT pg_advisory_xact_lock(hashtext('administrators'))`;

/** Lets a person in or keeps them out; their sessions end at once. The last administrator stays. */
export async function setActive(sql: Sql, by: string, login: string, active: boolean): Promise<void> {
	await transaction(sql, async (tx) => {
		await lockAdministrators(tx);
		const [person] = await tx<{ id: string; role: string; active: boolean; others: number }[]>`
			SELECT id, role, active, (SELECT count(*)::int FROM person o WHERE o.role = 'administrator' AND o.active AND o.login <> ${login}) AS others
			FROM person WHERE login = ${login}`;
		if (!person) throw new Problem(`There is nobody with the sign-in name ${login.slice(0, 60)}.`);
		if (!active && person.role === 'administrator' && !person.others)
			throw new Problem('This is the last administrator. Make another one first.');
		await tx`UPDATE person SET active = ${active} WHERE id = ${person.id}`;
		if (!active) await tx`DELETE FROM session WHERE person_id = ${person.id}`;
		await keepHistory(tx, by, 'person', login, { active: person.active }, { active });
	});
}

/** Gives a person a new password; their sessions end at once, and the next sign-in asks for one of their own. */
export async function setPassword(sql: Sql, by: string, login: string, password: string): Promise<void> {
	const hash = await hashPassword(parse(personInput.shape.password, password));
	await transaction(sql, async (tx) => {
		const done = await tx`UPDATE person SET password_hash = ${hash}, password_given = true WHERE login = ${login}`;
		if (!done.count) throw new Problem(`There is nobody with the sign-in name ${login.slice(0, 60)}.`);
		await tx`DELETE FROM session WHERE person_id = (SELECT id FROM person WHERE login = ${login})`;
		await keepHistory(tx, by, 'person', login, { password: 'the one before' }, { password: 'a new one' });
	});
}
