import { least } from '../../core/quantity/quantity.ts';
import type { Db } from '../database/connect.ts';
import { standing } from '../marks/standing.ts';
import { idOf } from '../request.ts';
import { insertRows } from '../sheet/drafts.ts';
import { getOrder } from './orders.ts';

/** What a document is begun with that is about one number: its item, and all of it that lies in one place. */
export async function firstLine(sql: Db, mark: string | null) {
	const id = idOf(mark ?? undefined);
	if (!id) return null;
	const [found] = await sql<{ item: string; number: string; qty: string | null }[]>`
		SELECT i.code AS item, k.number, CASE WHEN k.kind = 'serial' THEN '1' END AS qty FROM mark_now k JOIN item i ON i.id = k.item_id WHERE k.id = ${id}`;
	return found ? { item: found.item, number: found.number, qty: found.qty ?? '', mark: id } : null;
}

/** Enters the number that a document is about into its first line, where it lies in one place only and nothing else is to be said. */
export async function enterFirst(sql: Db, by: string, code: string, mark: string): Promise<void> {
	const order = await getOrder(sql, code);
	const [line] = order?.lines ?? [];
	if (!order || !line) return;
	const lying = (await standing(sql, [line.itemId], order.id, order.place?.split('/')[0] ?? null)).filter(
		(s) => s.mark === mark && !s.transit
	);
	if (lying.length !== 1) return;
	const data = { mark, place: lying[0].place, qty: least(line.qty, lying[0].qty) };
	await insertRows(sql, by, order.id, [{ lineId: line.id, data }]);
}
