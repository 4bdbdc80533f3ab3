import { less, show, total } from '../../core/quantity/quantity.ts';
import { moreThanOrdered } from '../../core/checks/catalogue.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { group } from '../../core/group/group.ts';
import type { Db, Sql } from '../database/connect.ts';
import { createDocuments } from '../document/create.ts';
import { arrivingLines } from '../sheet/arriving.ts';
import type { Built, BuildInput } from '../sheet/build.ts';
import { atLine, type Move } from '../sheet/lines.ts';

/** What lies somewhere with fewer numbers than its item carries: without any, or with a lot and no serial. */
export interface Bare {
	item: string;
	itemName: string;
	unit: string;
	place: string;
	/** the lot that it has; null where it has no number at all */
	lot: string | null;
	mark: string;
	qty: string;
	/** the document by which it is being numbered */
	order: string | null;
}
/** What lies with fewer numbers than its item carries, bin by bin; of one item, or of all. */
export const bareStock = (sql: Db, item: string | null = null, place: string | null = null) => sql<Bare[]>`
	SELECT i.code AS item, i.name AS "itemName", i.unit, p.code AS place, k.lot_no AS lot, k.id AS mark, trim_scale(b.qty)::text AS qty,
		(SELECT o.code FROM orders o JOIN order_line l ON l.order_id = o.id AND l.item_id = i.id WHERE o.kind = 'numbering' AND o.closed_at IS NULL AND o.place_id = p.id ORDER BY o.id LIMIT 1) AS order
	FROM item i JOIN mark k ON k.item_id = i.id AND (k.kind = 'unmarked' AND i.tracking <> 'none' OR k.kind = 'lot' AND i.tracking = 'lot and serial')
	JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual JOIN place p ON p.id = b.place_id AND NOT p.transit
	WHERE (${item}::text IS NULL OR i.code = ${item}) AND (${place}::text IS NULL OR p.code = ${place}) ORDER BY i.code, p.code COLLATE natural_order, k.lot_no COLLATE natural_order NULLS FIRST`;

/**
 * Makes a document for each bin where something of an item lies with fewer numbers than the item carries, for as much as
 * lies there; none where one is open.
 * @returns their codes
 * @throws Problem when nothing is to be numbered
 */
export async function numberStock(sql: Sql, actor: Actor, item: string): Promise<string[]> {
	demand(actor.role, 'adjust stock');
	const bins = group(
		(await bareStock(sql, item)).filter((b) => !b.order),
		(b) => b.place
	);
	if (!bins.size)
		throw new Problem(
			`Nothing of ${item.slice(0, 60)} lies anywhere without its number that is not being numbered already.`
		);
	return createDocuments(
		sql,
		actor.name,
		[...bins].map(([place, list]) => ({
			kind: 'numbering',
			place,
			lines: [{ item, qty: total(list.map((b) => b.qty)) }]
		}))
	);
}

/**
 * Numbers for what lies at a bin without: they are made from it in runs that use it and make the numbered, one for each lot
 * that it has. Nothing moves.
 */
export async function buildNumbering(sql: Db, given: BuildInput): Promise<Built> {
	const { order } = given;
	const [{ read, arrived }, bare] = await Promise.all([
		arrivingLines(sql, given, { from: '@adjust', missing: 'not given yet', more: 'lie there' }),
		bareStock(sql, order.lines[0]?.item ?? '', order.place)
	]);
	const [a] = arrived;
	const said = arrived.flatMap((x) => x.said);
	const runs: Built['runs'] = [];
	const moves: Move[] = [];
	if (a) {
		const byLot = new Map(bare.map((b) => [b.lot, b]));
		// A row of a lot that lies there takes of it; any other of what has no number at all.
		const sources = group(a.moves, ({ movement }) => (byLot.has(movement.lot ?? null) ? (movement.lot ?? null) : null));
		for (const [lot, list] of sources) {
			const from = byLot.get(lot);
			const qty = total(list.map((m) => m.movement.qty as string));
			if (!from || less(from.qty, qty)) {
				const what = `${show(qty)} get a number${lot === null ? '' : ` in ${lot}`}, ${show(from?.qty ?? '0')} lie at ${order.place} without`;
				said.push(atLine(a.line, moreThanOrdered, { what, out: 'remove some' }, 'stop'));
				continue;
			}
			const { movement: first } = list[0];
			const run = `${order.code}/numbered-${first.serial ?? first.lot}`;
			runs.push({ code: run });
			moves.push({
				...{ line: a.line, of: a.line },
				movement: {
					item: from.item,
					mark: from.mark,
					lot,
					qty,
					from: order.place!,
					to: '@process',
					run,
					role: 'use',
					evidence: 'entered'
				}
			});
			for (const { movement, ...m } of list)
				moves.push({ ...m, movement: { ...movement, from: '@process', to: order.place!, run, role: 'make' } });
		}
	}
	return {
		...{ lines: arrived.map((x) => x.line), said, kind: 'mark', runs, moves },
		enough: moves.length > 0,
		used: read.rows.map((r) => r.id)
	};
}
