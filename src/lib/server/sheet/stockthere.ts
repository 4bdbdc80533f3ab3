import type { Db } from '../database/connect.ts';
import type { Order } from '../document/orders.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';

/** What stands at the site of an order, read once for all that ask for it while it does not change. */
export class StockThere {
	private readonly read = new Map<string, Promise<readonly OnHand[]>>();
	constructor(
		private readonly sql: Db,
		private readonly order: Pick<Order, 'id' | 'place' | 'closedAt'>
	) {}

	/** @param items by their ids. Of an order that is closed nothing is taken any more, and nothing is read */
	of(items: readonly string[]): Promise<readonly OnHand[]> {
		if (this.order.closedAt) return Promise.resolve([]);
		const wanted = [...new Set(items)].sort().join();
		const known =
			this.read.get(wanted) ??
			onHand(this.sql, items, this.order.id, { site: this.order.place?.split('/')[0] ?? null });
		this.read.set(wanted, known);
		return known;
	}
}
