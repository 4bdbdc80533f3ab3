import { z } from 'zod';
import { DATE_LANGUAGES } from '../../core/dates/language.ts';
import { Problem } from '../../core/problem/problem.ts';
import { transaction, type Sql } from '../database/connect.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';
import { checkPassword, hashPassword, passwordText } from './passwords.ts';
import { digest } from './secrets.ts';

/** The language that one reads dates in. @throws Problem when it is none that is offered */
export async function chooseDateLanguage(sql: Sql, login: string, given: unknown): Promise<void> {
	const language = parse(z.enum(Object.keys(DATE_LANGUAGES), 'Choose one of the languages.'), given);
	const [was] = await sql<{ dates: string }[]>`SELECT dates FROM person WHERE login = ${login}`;
	await transaction(sql, async (tx) => {
		await tx`UPDATE person SET dates = ${language} WHERE login = ${login}`;
		await keepHistory(tx, login, 'person', login, { dates: was.dates }, { dates: language });
	});
}

/** A new password of one's own: the one of now, the new one, and the new one once more. */
export interface OwnPassword {
	now: string;
	next: string;
	again: string;
}
/**
 * Changes one's own password. All sessions of the person end but the one in which it is done.
 * @param secret of that session
 * @throws Problem when the password of now is wrong, the new one too short, typed two ways or the same; 429 while the next try
 * has to wait
 */
export async function changeOwnPassword(
	sql: Sql,
	login: string,
	{ now, next, again }: OwnPassword,
	{ secret, address }: { secret: string; address: string }
): Promise<void> {
	const password = parse(passwordText, next);
	if (again !== password)
		throw new Problem([{ message: 'The two are not the same. Type the new password twice.', at: 'again' }]);
	if (now === password)
		throw new Problem([{ message: 'This is the password that you have. Choose another one.', at: 'next' }]);
	const person = await checkPassword(sql, login, now, address);
	if (!person)
		throw new Problem([{ message: 'This is not the password that you signed in with. Type it again.', at: 'now' }]);
	const hashed = await hashPassword(password);
	await transaction(sql, async (tx) => {
		await tx`UPDATE person SET password_hash = ${hashed}, password_given = false WHERE id = ${person.id}`;
		await tx`DELETE FROM session WHERE person_id = ${person.id} AND token_hash <> ${digest(secret)}`;
		await tx`UPDATE session SET asks_password = false WHERE token_hash = ${digest(secret)}`;
		await keepHistory(tx, login, 'person', login, { password: 'the one before' }, { password: 'one of their own' });
	});
}
