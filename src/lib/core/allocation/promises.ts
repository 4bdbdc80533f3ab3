import type { Line } from '../ledger/line.ts';
import { add, isZero, least, less, rest, sub, total, type Qty } from '../quantity/quantity.ts';
import { group } from '../group/group.ts';

/** What is left of a promise of a mark to a line of an order. */
export interface Promised {
	id: string;
	/** code of the order, or the name of the customer that it was bought for */
	order: string;
	/** id of the line; 0 where any line of such an order may take it */
	line: string;
	/** code of the site that the order is at; null where it is at none */
	site: string | null;
	qty: Qty;
}
/** Stock of a mark at a place, as far as promises care. */
export interface Held {
	mark: string;
	place: string;
	qty: Qty;
	/** what others hold of it already, and how */
	promised?: Qty;
	promisedTo?: string | null;
	/** how much of that is promised to them, not only picked */
	reserved?: Qty;
}

/**
 * Lays promises to others on the stock of their marks: first on what stands at the order's own site, there on what would be
 * taken last. So much of each place is not free then.
 * @param of by the mark's id; without what an open sheet of the same line holds already
 */
export function layPromises<S extends Held>(stock: readonly S[], of: ReadonlyMap<string, readonly Promised[]>): S[] {
	if (!of.size) return [...stock];
	const laid = stock.map((s) => ({ ...s }));
	for (const [mark, rows] of group(
		laid.filter((s) => of.has(s.mark)),
		(s) => s.mark
	)) {
		const last = rows.toSorted((a, b) => b.place.localeCompare(a.place));
		for (const p of of.get(mark)!) {
			let left = p.qty;
			const here = (s: S) => s.place.split('/')[0] === p.site;
			for (const s of [...last.filter(here), ...last.filter((x) => !here(x))]) {
				const qty = least(left, rest(s.qty, s.promised ?? '0'));
				if (isZero(qty)) continue;
				left = sub(left, qty);
				s.promised = add(s.promised ?? '0', qty);
				s.reserved = add(s.reserved ?? '0', qty);
				const to = `promised to ${p.order}`;
				if (!s.promisedTo?.split(', ').includes(to)) s.promisedTo = s.promisedTo ? `${s.promisedTo}, ${to}` : to;
			}
		}
	}
	return laid;
}

/** So much of a mark is taken that is promised to others. */
export interface TakenOver {
	line: Line;
	of: Overtaken[];
}
/** So much of one promise is taken over. */
export interface Overtaken {
	id: string;
	order: string;
	qty: Qty;
}
/** Whose promise gives way where so much is taken over: the youngest first. */
export function youngestFirst(promises: readonly Pick<Promised, 'id' | 'order' | 'qty'>[], qty: Qty): Overtaken[] {
	let left = qty;
	return promises
		.toSorted((a, b) => Number(b.id) - Number(a.id))
		.flatMap(({ id, order, qty: held }) => {
			const mine = least(left, held);
			left = sub(left, mine);
			return isZero(mine) ? [] : [{ id, order, qty: mine }];
		});
}
/**
 * What movements take of what is promised to others: of each mark, what leaves the firm's places beyond what nobody was
 * promised.
 * @param standing how much of each mark stands at each real place before
 * @param promised to other orders, by the mark's id
 */
export function takenOver(
	lines: readonly Line[],
	standing: ReadonlyMap<string, readonly { qty: Qty }[]>,
	promised: ReadonlyMap<string, readonly Promised[]>
): TakenOver[] {
	if (!promised.size) return [];
	const out: TakenOver[] = [];
	const touched = lines.filter((l) => promised.has(l.mark.id));
	for (const [mark, moves] of group(touched, (l) => l.mark.id)) {
		const leaving = moves.filter((l) => !l.from.virtual && l.to.virtual);
		if (!leaving.length) continue;
		const coming = total(moves.filter((l) => l.from.virtual && !l.to.virtual).map((l) => l.given.qty));
		const there = add(total((standing.get(mark) ?? []).map((s) => s.qty)), coming);
		const stays = rest(there, total(leaving.map((l) => l.given.qty)));
		const to = promised.get(mark)!;
		const all = total(to.map((p) => p.qty));
		if (!less(stays, all)) continue;
		out.push({ line: leaving[leaving.length - 1], of: youngestFirst(to, sub(all, stays)) });
	}
	return out;
}
