import { showWhen } from '../../core/dates/dates.ts';
import type { Tx } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { show } from '../../core/quantity/quantity.ts';
import type { ParsedEvent } from '../../core/ledger/input.ts';
import { FIELD_LABELS, type Field } from '../../core/ledger/corrections.ts';
import type { Written } from './append.ts';
import type { Change } from './changes.ts';

interface Named {
	number: string | null;
	code: string;
}

/**
 * Writes the mirror of an event (I10): of its movements, and of what it changed. Refused when what the event brought is no
 * longer where it put it, or what it changed was changed again.
 * @throws Problem naming what stands in the way
 */
export async function mirror(tx: Tx, event: ParsedEvent, draw: () => Promise<string>): Promise<Written> {
	await holdEvent(tx, event.undoes!);
	const [original] = await tx<
		{ id: string; kind: string; at: Date; shown: string; undoneBy: string | null; undoneAt: string | null }[]
	>`
		SELECT e.id, e.kind, e.at, shown_time(e.at) AS shown, u.by AS "undoneBy", u.at AS "undoneAt"
		FROM event e LEFT JOIN LATERAL (SELECT coalesce(p.name, u.recorded_by) AS by, shown_time(u.recorded_at) AS at FROM event u
			LEFT JOIN person p ON p.login = u.recorded_by WHERE u.undoes = e.id) u ON true
		WHERE e.key = ${event.undoes!}`;
	if (!original) throw new Problem([{ message: `There is no event with the key ${event.undoes}.`, at: 'undoes' }]);
	if (original.undoneAt)
		throw new Problem(
			`${original.undoneBy} undid this already, on ${showWhen(original.undoneAt)}. Nothing is left to undo.`
		);
	if (original.kind === 'begin')
		throw new Problem('A unit that was released to the floor stays known. Scrap it on the floor instead.');
	if (original.kind === 'undo') throw new Problem('An undo cannot be undone. Book the event again instead.');
	if (Date.parse(event.at) < original.at.getTime())
		throw new Problem([
			{
				message: `What is undone was booked for ${showWhen(original.shown)}; an undo cannot come before it. Check the time.`,
				at: 'at'
			}
		]);
	const gone = await tx<
		(Named & { place: string; have: string; want: string; taker: string | null; takenBy: string | null; at: string })[]
	>`
		SELECT k.number, i.code, p.code AS place, coalesce(trim_scale(b.qty), 0)::text AS have, trim_scale(n.qty)::text AS want,
			t.id AS "takenBy", coalesce(t.document, t.kind) AS taker, shown_time(t.at) AS at
		FROM (SELECT mark_id, place, sum(qty) AS qty FROM (
				SELECT mark_id, to_place AS place, qty FROM movement WHERE event_id = ${original.id}
				UNION ALL SELECT mark_id, from_place, -qty FROM movement WHERE event_id = ${original.id}) d GROUP BY 1, 2) n
		JOIN place p ON p.id = n.place AND NOT p.virtual JOIN mark k ON k.id = n.mark_id JOIN item i ON i.id = k.item_id
		LEFT JOIN balance b ON b.mark_id = n.mark_id AND b.place_id = n.place
		LEFT JOIN LATERAL (SELECT e.id, e.document, e.kind, e.at FROM effective_movement m JOIN event e ON e.id = m.event_id
			WHERE m.mark_id = n.mark_id AND m.from_place = n.place AND m.event_id <> ${original.id} ORDER BY m.at DESC, m.id DESC LIMIT 1) t ON true
		WHERE coalesce(b.qty, 0) < n.qty LIMIT 20`;
	if (gone.length)
		throw new Problem(
			gone.map((g) => ({
				message: `${g.number ?? g.code}: ${show(g.want)} came to ${g.place} and ${show(g.have)} are left there.${g.takenBy ? ` ${g.taker} took from it on ${showWhen(g.at)} (event ${g.takenBy}).` : ''} Undo what took it first, or book an adjustment that names event ${original.id} as the one it mends.`,
				code: 'short'
			}))
		);
	const changes = await changesBack(tx, original.id);
	const id = await draw();
	const written = await tx`
		INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, unit_cost, order_line_id, evidence, mirrors)
		SELECT ${id}::bigint, ${event.at}::timestamptz, mark_id, qty, to_place, from_place, run_id, role, unit_cost, order_line_id, evidence, id
		FROM movement WHERE event_id = ${original.id} ORDER BY id DESC`;
	if (changes.length) await tx`SELECT change_marks(${id}::bigint, ${JSON.stringify(changes)}::text::jsonb)`;
	const [left] = await tx<(Named & { run: string })[]>`
		SELECT k.number, i.code, r.code AS run FROM effective_movement m JOIN run r ON r.id = m.run_id AND r.unit_mark IS NOT NULL
		JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
		WHERE m.run_id IN (SELECT run_id FROM movement WHERE event_id = ${original.id}) AND m.role <> 'make'
		GROUP BY k.number, i.code, r.code HAVING sum(CASE m.role WHEN 'use' THEN m.qty ELSE -m.qty END) < 0 LIMIT 1`;
	if (left) throw new Problem(`${left.number ?? left.code} was taken out of ${left.run} later. Undo that first.`);
	return { movements: written.count };
}

interface Made {
	mark: string;
	number: string;
	field: Field;
	old: string | null;
	new: string | null;
	now: string | null;
	later: string | null;
	/** the number that it would go back to belongs to another one now */
	taken: boolean;
}
/**
 * What an event changed, taken back: each value as it was before.
 * @throws Problem naming what was changed again since
 */
async function changesBack(tx: Tx, event: string): Promise<Change[]> {
	const made = await tx<Made[]>`
		SELECT c.mark_id AS mark, k.number, c.field, c.old, c.new, to_jsonb(k) ->> c.field AS now,
			(SELECT l.event_id FROM mark_change l WHERE l.mark_id = c.mark_id AND l.field = c.field AND l.event_id > c.event_id ORDER BY l.event_id DESC LIMIT 1) AS later,
			c.field IN ('lot_no', 'serial_no') AND EXISTS (SELECT 1 FROM mark o WHERE o.item_id = k.item_id AND o.kind = k.kind AND o.number = c.old AND o.id <> k.id) AS taken
		FROM mark_change c JOIN mark k ON k.id = c.mark_id WHERE c.event_id = ${event} ORDER BY c.mark_id, c.field`;
	return made.map((c): Change => {
		const what = c.field === 'facts' ? 'a detail' : c.field === 'status' ? 'the status' : FIELD_LABELS[c.field];
		const again = () =>
			new Problem([
				{
					message: `${c.number}: ${what} was changed again by event ${c.later}. Undo that first, or correct it on its page.`,
					code: 'changed again'
				}
			]);
		if (c.taken)
			throw new Problem([
				{
					message: `${c.number} cannot be called ${c.old} again: that is the number of another now. Correct it to a number of its own.`,
					code: 'known'
				}
			]);
		if (c.field !== 'facts') {
			if (c.now !== c.new) throw again();
			return { mark: c.mark, field: c.field, value: c.old };
		}
		// Facts stand together in one value: those that this event set go back, the others stay.
		const [old, then, now] = [c.old, c.new, c.now].map((t) => JSON.parse(t ?? '{}') as Record<string, string>);
		for (const code of new Set([...Object.keys(old), ...Object.keys(then)])) {
			if (old[code] === then[code]) continue;
			if (now[code] !== then[code]) throw again();
			if (old[code] === undefined) delete now[code];
			else now[code] = old[code];
		}
		return { mark: c.mark, field: 'facts', value: JSON.stringify(now) };
	});
}

/** Holds what an event moved and the runs that it moved through, in the one order of all locks. */
async function holdEvent(tx: Tx, key: string): Promise<void> {
	const of = tx`FROM movement m JOIN event e ON e.id = m.event_id WHERE e.key = ${key}`;
	await tx`SELECT lock_runs(array_agg(DISTINCT m.run_id)) ${of} AND m.run_id IS NOT NULL HAVING count(*) > 0`;
	// What was changed is held against being moved too: its numbers go back.
	const [{ changed }] = await tx<{ changed: string[] | null }[]>`
		SELECT array_agg(DISTINCT c.mark_id::text) AS changed FROM mark_change c JOIN event e ON e.id = c.event_id WHERE e.key = ${key}`;
	await tx`SELECT lock_marks(array_agg(DISTINCT n.mark_id), NULL, ${!!changed}) FROM (
		SELECT m.mark_id ${of} UNION SELECT unnest(${changed ?? []}::bigint[])) n HAVING count(*) > 0`;
	await tx`SELECT lock_balances(array_agg(mark_id), array_agg(place)) FROM (
		SELECT m.mark_id, unnest(ARRAY[m.from_place, m.to_place]) AS place ${of}) n HAVING count(*) > 0`;
}
