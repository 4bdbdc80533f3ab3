import { z } from 'zod';
import type { Sql } from '../database/connect.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { Problem } from '../../core/problem/problem.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { key, line, text } from '../../core/text/input.ts';
import { bookedUnder, digest } from '../ledger/append.ts';
import { book, type Booked } from '../ledger/book.ts';
import { parse } from '../parse.ts';

/** What is emptied into what, as parsed. */
export const emptyInput = z.strictObject({
	key,
	/** a bin, or a site with all its bins */
	from: line(45, 1, 'Name the place that is emptied.'),
	to: line(45, 1, 'Choose where all of it goes.'),
	reason: text(1000, 0).optional()
});
/** The most numbers that one act moves. */
const MOST = 20_000;

/**
 * Moves everything that stands at a bin, or at a site in all its bins, to one place: in one event, or not at all.
 * @throws Problem naming what is not there, when nothing stands there, or when it is more than one act moves
 */
export async function emptyInto(sql: Sql, actor: Actor, input: unknown): Promise<Booked> {
	const { key: under, ...given } = parse(emptyInput, input);
	const { from, to } = given;
	const request = { empty: given };
	const done = await bookedUnder(sql, under, digest(request));
	if (done) return done;
	if (to === from || to.startsWith(from + '/'))
		throw new Problem([
			{
				message: `${to} ${to === from ? 'is the place that is emptied' : `is a bin of ${from}`}. Choose another.`,
				at: 'to'
			}
		]);
	const known = await sql<{ code: string }[]>`
		SELECT code FROM place WHERE NOT virtual AND NOT transit AND code = ANY(${[from, to]})`;
	for (const [at, code] of [
		['from', from],
		['to', to]
	])
		if (!known.some((p) => p.code === code))
			throw new Problem([{ message: `There is no place ${code}. Add it in Setup, or correct the code.`, at }]);
	const rows = await sql<{ item: string; mark: string; qty: string; place: string }[]>`
		SELECT i.code AS item, k.id AS mark, trim_scale(b.qty)::text AS qty, p.code AS place
		FROM place f JOIN place p ON f.id = coalesce(p.site_id, p.id) OR f.id = p.id JOIN balance b ON b.place_id = p.id AND b.qty > 0 AND NOT b.virtual
		JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id
		WHERE f.code = ${from} AND p.code <> ${to} ORDER BY p.id, k.id LIMIT ${MOST + 1}`;
	if (!rows.length) throw new Problem([{ message: `Nothing stands at ${from}. Choose another place.`, at: 'from' }]);
	if (rows.length > MOST)
		throw new Problem(`More than ${grouped(MOST)} numbers stand at ${from}. Empty it bin by bin.`);
	const site = (place: string) => place.split('/')[0];
	return book(
		sql,
		actor,
		{
			...{ key: under, kind: site(from) === site(to) ? 'move' : 'transfer', at: new Date().toISOString() },
			reason: given.reason || null,
			movements: rows.map((r) => ({
				...{ item: r.item, mark: r.mark, qty: r.qty, from: r.place, to, evidence: 'accepted' as const }
			}))
		},
		{ request }
	);
}
