import type { Db } from '../database/connect.ts';
import { render, scope, type Block, type Context } from '../../core/numbering/pattern.ts';
import { Problem } from '../../core/problem/problem.ts';
import { dayIn } from '../../core/time/clock.ts';

/** What is to be drawn. */
export interface Wanted {
	pattern: { id: string; blocks: Block[] };
	item: { id: string; code: string };
	kind: 'lot' | 'serial';
	count: number;
	context: Context;
	order: string | null;
	/** the order's line that they are drawn for */
	line?: string;
}
/** The most numbers one draw gives. */
export const MOST_DRAWN = 10_000;

/**
 * Draws numbers: no two draws give the same one, and each is written down with who drew it. Numbers that exist already
 * are passed over. The counter stays locked until the transaction ends, so that a draw that fails draws nothing.
 * @throws Problem when the sequence has run out
 */
export async function draw(tx: Db, by: string, wanted: Wanted): Promise<string[]> {
	const { pattern, item, kind, count, context } = wanted;
	const key = scope(pattern.blocks, context);
	await tx`INSERT INTO number_counter (pattern_id, scope, last) VALUES (${pattern.id}, ${key}, 0) ON CONFLICT DO NOTHING`;
	const [counter] = await tx<{ last: string }[]>`
		SELECT last FROM number_counter WHERE pattern_id = ${pattern.id} AND scope = ${key} FOR UPDATE`;
	let at = Number(counter.last);
	const drawn: { number: string; sequence: number }[] = [];
	while (drawn.length < count) {
		const candidates: { number: string; sequence: number }[] = [];
		try {
			for (const most = at + Math.max(count - drawn.length, 500); at < most;)
				candidates.push({ sequence: ++at, number: render(pattern.blocks, context, at) });
		} catch (e) {
			if (!candidates.length) throw new Problem((e as Error).message);
		}
		const taken = new Set(
			(
				await tx<{ number: string }[]>`
				SELECT coalesce(serial_no, lot_no) AS number FROM mark WHERE item_id = ${item.id} AND kind = ${kind} AND number = ANY(${candidates.map((c) => c.number)})
				UNION SELECT number FROM drawn_number WHERE item_id = ${item.id} AND kind = ${kind} AND number = ANY(${candidates.map((c) => c.number)})`
			).map((r) => r.number)
		);
		drawn.push(...candidates.filter((c) => !taken.has(c.number)).slice(0, count - drawn.length));
	}
	await tx`UPDATE number_counter SET last = ${drawn[drawn.length - 1].sequence} WHERE pattern_id = ${pattern.id} AND scope = ${key}`;
	await tx`INSERT INTO drawn_number (pattern_id, item_id, kind, number, scope, sequence, order_id, line_id, drawn_by)
		SELECT ${pattern.id}::bigint, ${item.id}::bigint, ${kind}::text, n, ${key}::text, s, ${wanted.order}::bigint, ${wanted.line ?? null}::bigint, ${by}::text
		FROM unnest(${drawn.map((d) => d.number)}::text[], ${drawn.map((d) => d.sequence)}::bigint[]) x(n, s)`;
	return drawn.map((d) => d.number);
}

/** Where and on which day numbers for an order are drawn: its site, and the bin or line within it. */
export const contextOf = (item: string, at: { place: string | null; zone: string }, now = new Date()): Context => {
	const [site = '', line = ''] = (at.place ?? '').split('/');
	return { day: dayIn(at.zone, now), item, site, line };
};
