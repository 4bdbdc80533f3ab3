import type { Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { inTransaction, seal, type Booked } from './book.ts';
import type { Actor } from './input.ts';

const result = { hold: 'held', release: 'released', reject: 'rejected' } as const;

/**
 * Puts a lot or serial on hold, releases or rejects it: an event of its own, with the old and the new status.
 * @throws Problem when the mark is unknown, or is in that status already
 */
export async function setStatus(
	sql: Sql,
	actor: Actor,
	input: { key: string; kind: keyof typeof result; mark: string; reason: string; at?: string }
): Promise<Booked> {
	const reason = input.reason.trim();
	if (!reason) throw new Problem([{ message: 'Say why, in one line. It is kept in the ledger.', at: 'reason' }]);
	return inTransaction(sql, async (tx) => {
		const [head] = await tx<{ next: string }[]>`SELECT last_event + 1 AS next FROM ledger_head FOR UPDATE`;
		const [known] = await tx<{ id: string }[]>`SELECT id FROM event WHERE key = ${input.key}`;
		if (known) return { id: known.id, again: true, movements: 0 };
		const [mark] = await tx<{ number: string; status: string }[]>`
			SELECT number, status FROM mark WHERE id = ${input.mark} AND kind <> 'unmarked'`;
		const status = result[input.kind];
		if (!mark) throw new Problem('This lot or serial is not known. Look it up in the register.');
		if (mark.status === status) throw new Problem(`${mark.number} is ${status === 'held' ? 'on hold' : status} already.`); // prettier-ignore
		await tx`INSERT INTO mark_change (event_id, mark_id, field, old, new) VALUES (${head.next}, ${input.mark}, 'status', ${mark.status}, ${status})`;
		await tx`UPDATE mark SET status = ${status} WHERE id = ${input.mark}`;
		await seal(tx, actor, { ...input, at: input.at ?? new Date().toISOString(), reason }, head.next);
		return { id: head.next, again: false, movements: 0 };
	});
}
