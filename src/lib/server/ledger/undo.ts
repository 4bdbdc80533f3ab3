import { showWhen } from '../../core/dates/dates.ts';
import type { Tx } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { show } from '../../core/quantity/quantity.ts';
import type { ParsedEvent } from '../../core/ledger/input.ts';
import type { Written } from './append.ts';

interface Named {
	number: string | null;
	code: string;
}

/**
 * Writes the mirror of an event's movements (I10). Refused when what the event brought is no longer where it put it.
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
	if (original.kind === 'undo') throw new Problem('An undo cannot be undone. Book the event again instead.');
	if (Date.parse(event.at) < original.at.getTime())
		throw new Problem([
			{
				message: `What is undone was booked for ${showWhen(original.shown)}; an undo cannot come before it. Check the time.`,
				at: 'at'
			}
		]);
	const gone = await tx<(Named & { place: string; have: string; want: string })[]>`
		SELECT k.number, i.code, p.code AS place, coalesce(trim_scale(b.qty), 0)::text AS have, trim_scale(n.qty)::text AS want
		FROM (SELECT mark_id, place, sum(qty) AS qty FROM (
				SELECT mark_id, to_place AS place, qty FROM movement WHERE event_id = ${original.id}
				UNION ALL SELECT mark_id, from_place, -qty FROM movement WHERE event_id = ${original.id}) d GROUP BY 1, 2) n
		JOIN place p ON p.id = n.place AND NOT p.virtual JOIN mark k ON k.id = n.mark_id JOIN item i ON i.id = k.item_id
		LEFT JOIN balance b ON b.mark_id = n.mark_id AND b.place_id = n.place
		WHERE coalesce(b.qty, 0) < n.qty LIMIT 20`;
	if (gone.length)
		throw new Problem(
			gone.map((g) => ({
				message: `${g.number ?? g.code}: ${show(g.want)} came to ${g.place} and ${show(g.have)} are left there. Undo what took it first.`,
				code: 'short'
			}))
		);
	const id = await draw();
	const written = await tx`
		INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, unit_cost, order_line_id, mirrors)
		SELECT ${id}::bigint, ${event.at}::timestamptz, mark_id, qty, to_place, from_place, run_id, role, unit_cost, order_line_id, id
		FROM movement WHERE event_id = ${original.id} ORDER BY id DESC`;
	const [left] = await tx<(Named & { run: string })[]>`
		SELECT k.number, i.code, r.code AS run FROM effective_movement m JOIN run r ON r.id = m.run_id AND r.unit_mark IS NOT NULL
		JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
		WHERE m.run_id IN (SELECT run_id FROM movement WHERE event_id = ${original.id}) AND m.role <> 'make'
		GROUP BY k.number, i.code, r.code HAVING sum(CASE m.role WHEN 'use' THEN m.qty ELSE -m.qty END) < 0 LIMIT 1`;
	if (left) throw new Problem(`${left.number ?? left.code} was taken out of ${left.run} later. Undo that first.`);
	return { movements: written.count };
}

/** Holds what an event moved and the runs that it moved through, in the one order of all locks. */
async function holdEvent(tx: Tx, key: string): Promise<void> {
	const of = tx`FROM movement m JOIN event e ON e.id = m.event_id WHERE e.key = ${key}`;
	await tx`SELECT hold_runs(array_agg(DISTINCT m.run_id)) ${of} AND m.run_id IS NOT NULL HAVING count(*) > 0`;
	await tx`SELECT hold_marks(array_agg(DISTINCT m.mark_id), NULL, false) ${of} HAVING count(*) > 0`;
	await tx`SELECT hold_balances(array_agg(mark_id), array_agg(place)) FROM (
		SELECT m.mark_id, unnest(ARRAY[m.from_place, m.to_place]) AS place ${of}) n HAVING count(*) > 0`;
}
