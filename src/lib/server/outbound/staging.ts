import type { Db } from '../database/connect.ts';
import { group } from '../../core/group/group.ts';
import { less, total } from '../../core/quantity/quantity.ts';
import type { Mode } from '../../core/sheet/sheet.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import { stockPlaces } from '../marks/places.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import type { Builder } from '../sheet/build.ts';

/** Where picked goods of an order wait, and what of it does: by the line, all that stands there for it. */
export interface Staging {
	/** places of its site where picked goods wait; where there is none, it ships straight from the bin */
	bins: readonly string[];
	waits: ReadonlyMap<string, readonly OnHand[]>;
	/** why what waits was picked, where that was asked, by its mark */
	reasons: ReadonlyMap<string, string>;
}

/** Codes of the places of an order's site where picked goods wait. */
async function stagingBins(sql: Db, order: Pick<Order, 'place' | 'setup'>): Promise<string[]> {
	const site = order.place?.split('/')[0];
	const { byId } = await stockPlaces(sql, order.setup);
	return [...byId.values()].flatMap((p) => (p.staging && p.site === site && p.code !== site ? [p.code] : []));
}
/**
 * What was picked for an order and waits. Two statements, whatever the count.
 * @param reading what stands at its site, as it is in force for the order; it may still be under way
 */
export async function stagingOf(
	sql: Db,
	order: Order,
	reading: readonly OnHand[] | Promise<readonly OnHand[]>
): Promise<Staging> {
	const bins = await stagingBins(sql, order);
	if (!bins.length) return { bins, waits: new Map(), reasons: new Map() };
	const [stock, rows] = await Promise.all([
		reading,
		sql<{ line: string; mark: string; at: string; qty: string; reason: string | null }[]>`
			SELECT v.order_line_id AS line, v.mark_id AS mark, v.mark_id || ' ' || p.code AS at, trim_scale(v.qty)::text AS qty,
				(SELECT e.reason FROM effective_movement m JOIN event e ON e.id = m.event_id
					WHERE m.order_line_id = v.order_line_id AND m.mark_id = v.mark_id AND m.to_place = v.place_id ORDER BY m.id DESC LIMIT 1) AS reason
			FROM order_staged v JOIN place p ON p.id = v.place_id WHERE v.order_id = ${order.id}`
	]);
	const there = new Map(rows.length ? stock.map((s) => [`${s.mark} ${s.place}`, s]) : []);
	const found = rows.flatMap(({ line, at, qty }) => {
		const s = there.get(at);
		// What waits for it is promised to nobody else.
		return s ? [{ line, row: { ...s, qty, promised: '0', promisedTo: null, staged: '0' } }] : [];
	});
	return {
		bins,
		waits: new Map([...group(found, (f) => f.line)].map(([line, list]) => [line, list.map((f) => f.row)])),
		reasons: new Map(rows.flatMap((r) => (r.reason ? [[r.mark, r.reason] as const] : [])))
	};
}
/** How much of a line waits. */
export const waiting = ({ waits }: Staging, line: string) => total((waits.get(line) ?? []).map((s) => s.qty));

/** What is recorded now: what is picked to wait (use), or what is shipped (output); where nobody says, whatever is next. */
export function sideOf(order: Order, staging: Staging, mode: Mode): 'picks' | 'ships' {
	if (!staging.bins.length) return 'ships';
	if (mode !== 'both') return mode === 'use' ? 'picks' : 'ships';
	const toPick = order.lines.some((l) => less(total([l.done, waiting(staging, l.id)]), l.qty));
	return toPick || !staging.waits.size ? 'picks' : 'ships';
}

/** What an order may be picked from: not what waits already. */
export const pickable = (stock: readonly OnHand[]) => stock.filter((s) => !s.staging);

/** What the scans of an order take, where its site picks in an act of its own. */
export const takes: NonNullable<Builder['takes']> = async (sql, order, mode) => {
	if (!(await stagingBins(sql, order)).length) return null;
	const stock = await onHand(
		sql,
		order.lines.map((l) => l.itemId),
		order.id,
		{ site: order.place!.split('/')[0] }
	);
	const staging = await stagingOf(sql, order, stock);
	const ships = sideOf(order, staging, mode) === 'ships';
	const missing = async (number: string, lines: readonly OrderLine[]) => {
		const mine = new Set(lines.map((l) => l.itemId));
		const at = stock.find((s) => s.number === number && mine.has(s.itemId));
		if (!at) return null;
		if (!ships) return `${number} is picked already: it waits at ${at.place}, ${at.stagedFor ?? `for ${order.code}`}.`;
		return at.staging
			? `${number} waits at ${at.place}, ${at.stagedFor ?? 'for nobody'}. Pick it for ${order.code} from where it belongs.`
			: `${number} is not picked yet: it is at ${at.place}. Pick it first, under Picking.`;
	};
	return { stock: ships ? [...staging.waits.values()].flat() : pickable(stock), missing };
};
