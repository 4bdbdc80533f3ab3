import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { findingsOf, bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import { Problem } from '../../core/problem/problem.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { book } from '../ledger/book.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace, setPlaceUse } from '../setup/places.ts';

const db = testDatabase();
const NUMBERS = 200;
const CLIENTS = 50;
const EACH = 12;

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/OUT', 'NG', 'NG/B1']) await addPlace(db.sql, 'ines', { code, name: code });
	await setPlaceUse(db.sql, 'ines', 'QS/OUT', 'staging', true);
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	const serials = Array.from({ length: NUMBERS }, (_, i) => `C-${i + 1}`);
	await bookTest(db.sql, {
		...{ kind: 'receipt', partner: 'S1' },
		movements: serials.map((serial) => ({ item: 'CELL', serial, qty: '1', from: '@supplier', to: 'QS/A1' }))
	});
});

describe('the same two hundred numbers', () => {
	it('picked, shipped, transferred, received, put back and adjusted by fifty at once are each at one place, and nothing is below zero', async () => {
		const lines = [{ item: 'CELL', qty: String(NUMBERS) }];
		const sale = (await getOrder(
			db.sql,
			await createDocument(db.sql, 'ines', { kind: 'sale', partner: 'C1', place: 'QS', lines })
		))!;
		const transfer = (await getOrder(
			db.sql,
			await createDocument(db.sql, 'ines', { kind: 'transfer', place: 'QS', to: 'NG/B1', lines })
		))!;
		const of = (o: typeof sale) => ({ order: o.id, document: o.code });
		const acts: [Partial<EventInput> & { kind: string }, from: string, to: string, of: typeof sale | null][] = [
			[{ kind: 'move', ...of(sale) }, 'QS/A1', 'QS/OUT', sale],
			[{ kind: 'move', ...of(sale) }, 'QS/OUT', 'QS/A1', sale],
			[{ kind: 'shipment', partner: 'C1', ...of(sale) }, 'QS/OUT', '@customer', sale],
			[{ kind: 'transfer', ...of(transfer) }, 'QS/A1', 'IN-TRANSIT', transfer],
			[{ kind: 'transfer', ...of(transfer) }, 'IN-TRANSIT', 'NG/B1', transfer],
			[{ kind: 'adjust', reason: 'not found' }, 'QS/A1', '@adjust', null],
			[{ kind: 'count', reason: 'counted' }, 'QS/OUT', '@adjust', null]
		];
		// A fixed sequence, so that a failure can be looked at again.
		let seed = 20261127;
		const random = (n: number) => (seed = (seed * 48271) % 2147483647) % n;
		let [done, refused] = [0, 0];
		await Promise.all(
			Array.from({ length: CLIENTS }, async () => {
				for (let i = 0; i < EACH; i++) {
					const [event, from, to, o] = acts[random(acts.length)];
					const first = random(NUMBERS - 3);
					const movements = [0, 1, 2].map((k) => ({
						...{ item: 'CELL', serial: `C-${first + k + 1}`, qty: '1', from, to },
						...(o ? { orderLine: o.lines[0].id } : {})
					}));
					const given = { ...event, key: randomUUID(), at: new Date().toISOString(), reason: event.reason ?? 'asked' };
					try {
						await book(db.sql, ines, { ...given, movements });
						done++;
					} catch (e) {
						if (!(e instanceof Problem)) throw e;
						refused++;
					}
				}
			})
		);
		expect(done).toBeGreaterThan(20);
		expect(refused).toBeGreaterThan(20);
		expect(done + refused).toBe(CLIENTS * EACH);
		// Asked of the tables, past the application.
		const [sums] = await db.sql`
			SELECT (SELECT count(*)::int FROM balance b WHERE b.qty < 0 AND NOT b.virtual) AS below,
				(SELECT count(*)::int FROM (SELECT b.mark_id FROM balance b JOIN place p ON p.id = b.place_id AND p.code <> '@supplier' WHERE b.qty > 0 GROUP BY 1 HAVING sum(b.qty) <> 1) x) AS apart,
				(SELECT count(DISTINCT b.mark_id)::int FROM balance b JOIN place p ON p.id = b.place_id AND p.code <> '@supplier' WHERE b.qty > 0) AS there,
				(SELECT coalesce(sum(qty), 0)::int FROM order_staged) - (SELECT coalesce(sum(b.qty), 0)::int FROM balance b JOIN place p ON p.id = b.place_id AND p.staging) AS staged,
				(SELECT coalesce(sum(qty), 0)::int FROM order_transit) - (SELECT coalesce(sum(b.qty), 0)::int FROM balance b JOIN place p ON p.id = b.place_id AND p.transit) AS transit,
				(SELECT coalesce(sum(d.qty), 0)::int FROM line_done d WHERE d.order_line_id = ${sale.lines[0].id})
					- (SELECT coalesce(sum(b.qty), 0)::int FROM balance b JOIN place p ON p.id = b.place_id AND p.code = '@customer') AS shipped`;
		expect(sums).toEqual({ below: 0, apart: 0, there: NUMBERS, staged: 0, transit: 0, shipped: 0 });
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
