import { z } from 'zod';
import type { Sql } from '../database/connect.ts';
import { fileOf, readFact, showFact, type Facts } from '../../core/facts/fact.ts';
import { Problem } from '../../core/problem/problem.ts';
import { parse } from '../people/people.ts';
import { listFacts } from '../setup/facts.ts';
import { inTransaction, seal, type Booked } from './book.ts';
import type { Actor } from './input.ts';

export const factGiven = z.strictObject({
	key: z.string().min(1).max(100),
	mark: z.string().regex(/^\d{1,18}$/),
	code: z.string().min(1, 'Choose the fact.').max(30),
	value: z.string().trim().min(1, 'Type the value.').max(300),
	reason: z.string().trim().max(1000).default('')
});

/**
 * Records a fact of a lot or serial later than its booking: an event of its own, with the old and the new value.
 * @throws Problem when the fact or the mark is unknown, the value is none, or a reason is wanted: for a value that
 * replaces another, or lies outside the fact's limits
 */
export async function recordFact(sql: Sql, actor: Actor, input: z.input<typeof factGiven>): Promise<Booked> {
	const given = parse(factGiven, input);
	const [fact] = await listFacts(sql, [given.code]);
	if (!fact) throw new Problem([{ message: `There is no fact ${given.code}. Define it in Setup, Facts.`, at: 'code' }]);
	const read = readFact(fact, given.value);
	if ('problem' in read) throw new Problem([{ message: read.problem, at: 'value' }]);
	if (read.outside && fact.outside === 'stop') throw new Problem([{ message: `${read.outside} It cannot be recorded so: measure again, or put the goods on hold.`, at: 'value' }]); // prettier-ignore
	return inTransaction(sql, async (tx) => {
		const [head] = await tx<{ next: string }[]>`SELECT last_event + 1 AS next FROM ledger_head FOR UPDATE`;
		const [known] = await tx<{ id: string }[]>`SELECT id FROM event WHERE key = ${given.key}`;
		if (known) return { id: known.id, again: true, movements: 0 };
		const [mark] = await tx<{ number: string; facts: Facts }[]>`
			SELECT number, facts FROM mark WHERE id = ${given.mark} AND kind <> 'unmarked'`;
		if (!mark) throw new Problem('This lot or serial is not known. Look it up in the register.');
		const was = mark.facts[fact.code];
		if (was === read.value) throw new Problem(`${fact.name} of ${mark.number} is ${showFact(fact, was)} already.`);
		const why = was ? `${fact.name} is recorded as ${showFact(fact, was)}.` : read.outside && fact.outside === 'reason' ? read.outside : null; // prettier-ignore
		if (why && !given.reason) throw new Problem([{ message: `${why} Say why it is ${was ? 'changed' : 'recorded so'}, in one line.`, at: 'reason' }]); // prettier-ignore
		const file = fact.kind === 'file' ? fileOf(read.value) : null;
		if (file && !(await tx`SELECT 1 FROM stored_file WHERE sha256 = ${file.sha256}`).length)
			throw new Problem([{ message: `The file ${file.name} is not here. Add it once more.`, at: 'value' }]);
		const facts = JSON.stringify({ ...mark.facts, [fact.code]: read.value });
		await tx`INSERT INTO mark_change (event_id, mark_id, field, old, new)
			SELECT ${head.next}::bigint, id, 'facts', facts::text, (${facts}::text::jsonb)::text FROM mark WHERE id = ${given.mark}`;
		await tx`UPDATE mark SET facts = ${facts}::text::jsonb WHERE id = ${given.mark}`;
		if (file) await tx`INSERT INTO mark_file (mark_id, name, sha256, added_by) VALUES (${given.mark}, ${file.name}, ${file.sha256}, ${actor.name}) ON CONFLICT DO NOTHING`; // prettier-ignore
		await seal(tx, actor, { key: given.key, kind: 'correct', at: new Date().toISOString(), reason: given.reason }, head.next); // prettier-ignore
		return { id: head.next, again: false, movements: 0 };
	});
}
