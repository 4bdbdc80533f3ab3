import type { Db } from '../database/connect.ts';
import type { Order } from '../document/orders.ts';
import { liesAt, marksCalled, unknownNumber } from '../marks/called.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import type { Builder, Built, BuildInput } from '../sheet/build.ts';
import { buildTaken } from '../sheet/taken.ts';
import { saleOf } from './sale.ts';

const WORDS = { are: 'are sold', asked: 'were to', less: 'sell less', can: 'can be sold' };

const there = (sql: Db, order: Order, items: readonly string[]) =>
	onHand(sql, items, order.id, { site: order.place?.split('/')[0] });

/** What is sold over the counter: what was scanned, from wherever at its site it lies. */
async function buildCounter(sql: Db, given: BuildInput): Promise<Built> {
	const built = await buildTaken(sql, given, {
		...{ kind: 'shipment', to: '@customer', purpose: 'shipment', words: WORDS }
	});
	return { ...built, shows: { sale: await saleOf(sql, given.order, built.lines) } };
}

/** Sales over the counter. */
export const counterSales: Builder = {
	build: buildCounter,
	async takes(sql, order, _mode, asked) {
		if ('itemId' in asked) return { stock: await there(sql, order, [asked.itemId]), missing: async () => null };
		// By its number it is found whether or not its item has a line yet; what carries none, by the code of its item.
		const named =
			'number' in asked ? await marksCalled(sql, asked.number, asked.gtin) : await itemsOf(sql, asked.marks);
		const loose = 'number' in asked && !named.length ? await withoutNumber(sql, asked.number, asked.gtin) : [];
		const stock = await there(
			sql,
			order,
			[...named, ...loose].map((n) => n.itemId)
		);
		const isNamed = (s: OnHand) =>
			!s.transit &&
			(named.some((n) => n.id === s.mark) || loose.some((n) => n.itemId === s.itemId && s.kind === 'unmarked'));
		return {
			stock: stock.filter(isNamed),
			exact: true,
			loose: true,
			missing: (number) =>
				notHere(
					sql,
					order,
					number,
					named.map((n) => n.id)
				)
		};
	}
};

const itemsOf = (sql: Db, marks: readonly string[]) =>
	sql<
		{ id: string; itemId: string }[]
	>`SELECT id, item_id AS "itemId" FROM mark WHERE id = ANY(${[...marks]}::bigint[])`;
const withoutNumber = (sql: Db, code: string, gtin?: string) =>
	sql<
		{ itemId: string }[]
	>`SELECT id AS "itemId" FROM item WHERE tracking = 'none' AND (code = ${code} OR ${gtin ?? null}::text IS NOT NULL AND gtin = ${gtin ?? null})`;

/** Why a number cannot be sold here. */
async function notHere(sql: Db, order: Order, number: string, marks: readonly string[]): Promise<string> {
	if (!marks.length) return unknownNumber(sql, number);
	const at = await liesAt(sql, marks);
	if (!at) return `${number} is not on hand, so it cannot be sold. Look at its page for where it went.`;
	return at.transit
		? `${number} is in transit. Receive its transfer first.`
		: `${number} is at ${at.place}, and this counter is at ${order.place}. Move it here first, or sell it there.`;
}
