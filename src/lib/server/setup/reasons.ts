import { z } from 'zod';
import { REASON_ACTS, type ReasonAct } from '../../core/document/kinds.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';

/** A reason of the firm's list, as parsed. */
export const reasonInput = z.strictObject({
	name: line(100, 1, 'Type the reason.', 'A reason has at most 100 characters.'),
	act: z.enum(REASON_ACTS, { error: 'Choose what it is a reason for.' })
});
/** A reason by its name; null where there is none. */
export const readReason = async (tx: Db, name: string): Promise<{ act: ReasonAct; closed: boolean } | null> =>
	(
		await tx<{ act: ReasonAct; closed: boolean }[]>`
			SELECT act, closed_on IS NOT NULL AS closed FROM reason WHERE name = ${name} FOR UPDATE`
	)[0] ?? null;

/** Adds a reason to the firm's list. @throws Problem when it is there, or cannot be read */
export async function addReason(sql: Sql, by: string, input: unknown): Promise<void> {
	const { name, act } = parse(reasonInput, input);
	await transaction(sql, async (tx) => {
		const was = await readReason(tx, name);
		if (was)
			throw new Problem([
				{
					message: `“${name}” is there already, as a reason to ${was.act}${was.closed ? '; it is closed' : ''}. ${was.closed ? 'Open it again.' : 'Take other words.'}`,
					at: 'name'
				}
			]);
		await tx`INSERT INTO reason (name, act) VALUES (${name}, ${act})`;
		await keepHistory(tx, by, 'reason', name, null, { act, closed: false });
	});
}

/** Closes a reason: no new document takes it; or opens it again. @throws Problem 404 when there is none */
export async function setReasonClosed(sql: Sql, by: string, name: string, closed: boolean): Promise<void> {
	await transaction(sql, async (tx) => {
		const was = await readReason(tx, name);
		if (!was) throw new Problem(`There is no reason “${name.slice(0, 100)}”. Reload the page.`, 404);
		await tx`UPDATE reason SET closed_on = CASE WHEN ${closed} THEN shown_day(now())::date END WHERE name = ${name}`;
		await keepHistory(tx, by, 'reason', name, was, { ...was, closed });
	});
}
