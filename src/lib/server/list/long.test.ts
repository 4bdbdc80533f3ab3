import { beforeAll, describe, expect, it } from 'vitest';
import { makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { MOST_COUNTED, readCursor, readView } from '../../core/list/list.ts';
import { documentList } from '../document/list.ts';
import { addPlace } from '../setup/places.ts';
import { countAll, listAll, listPage } from './read.ts';

const db = testDatabase();
const list = documentList('purchase');
/** More than are counted: half of them without a due date, a third without a line. */
const ORDERS = MOST_COUNTED + 40;

beforeAll(async () => {
	await makeItems(db.sql);
	await addPlace(db.sql, 'ines', { code: 'QS', name: 'QS' });
	await db.sql`
		INSERT INTO orders (code, kind, place_id, due_on, created_by)
		SELECT 'PO-' || n, 'purchase', (SELECT min(id) FROM place WHERE NOT virtual), CASE WHEN n % 2 = 0 THEN date '2026-01-01' + n % 50 END, 'ines' FROM generate_series(1, ${ORDERS}::int) n`;
	await db.sql`
		INSERT INTO order_line (order_id, no, item_id, role, qty)
		SELECT o.id, l.no, i.id, 'goods', 1 + o.id % 12 FROM orders o CROSS JOIN generate_series(1, 2) AS l (no)
			JOIN (SELECT id, row_number() OVER (ORDER BY id) AS n FROM item) i ON i.n = 1 + (o.id / 3 + l.no) % 3 WHERE o.id % 3 > 0`;
	await db.sql`UPDATE orders SET due_on = '2026-09-09' WHERE code IN ('PO-7', 'PO-9')`;
});

const page = (asked: string, at: { after?: string | null; before?: string | null } = {}) => {
	const view = readView(list, new URLSearchParams(asked));
	const { after = null, before = null } = at;
	return listPage(
		db.sql,
		list,
		{ ...view, size: 500, after: readCursor(after), before: readCursor(before) },
		{ today: '2026-11-27', login: 'ines' }
	);
};

describe('a list that is longer than is counted', () => {
	it('says that there are more, and counts them all when it is asked', async () => {
		const first = await page('which=all');
		expect([first.count, first.more]).toEqual([MOST_COUNTED, true]);
		const view = readView(list, new URLSearchParams('which=all'));
		expect(await countAll(db.sql, list, view, '2026-11-27')).toBe(ORDERS);
		const few = await page('which=all&due.from=2026-09-01');
		expect([few.count, few.more]).toEqual([2, false]);
	});
	it.each(['due', '-due', 'code', '-code', 'content', '-content'])(
		'its pages by %s, walked there and back, are the whole in its order; what has no value stands last',
		async (sort) => {
			const asked = `which=all&sort=${sort}`;
			const rows: Record<string, string | null>[] = [];
			let at = await page(asked);
			const firsts: (string | null)[] = [];
			for (;;) {
				firsts.push(at.rows[0].code);
				rows.push(...at.rows.map(({ code, due, content }) => ({ code, due, content })));
				expect(at.first + at.rows.length).toBe(rows.length);
				if (!at.next) break;
				at = await page(asked, { after: at.next });
			}
			expect(new Set(rows.map((r) => r.code)).size).toBe(ORDERS);
			const down = sort.startsWith('-');
			const key = (r: (typeof rows)[number]) => r[sort.replace('-', '')];
			const order = new Intl.Collator('en', { numeric: true });
			for (let i = 1; i < rows.length; i++) {
				const [a, b] = [key(rows[i - 1]), key(rows[i])];
				if (a === null) expect(b).toBeNull();
				else if (b !== null) expect(order.compare(a, b) * (down ? -1 : 1)).toBeLessThanOrEqual(0);
			}
			for (let n = firsts.length - 1; n > firsts.length - 4 && n > 0; n--) {
				expect(at.rows[0].code).toBe(firsts[n]);
				at = await page(asked, { before: at.previous });
			}
			const exported: (string | null)[] = [];
			const view = readView(list, new URLSearchParams(asked));
			for await (const some of listAll(db.sql, list, view, '2026-11-27')) exported.push(...some.map((r) => r.code));
			expect(exported).toEqual(rows.map((r) => r.code));
		}
	);
});
