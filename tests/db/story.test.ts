import { afterEach, describe, expect, it, vi } from 'vitest';
import { seedStory } from '../../demo/story.ts';
import { connect } from '../../src/lib/server/database/connect.ts';
import { findingsOf, testDatabase } from './cluster.ts';
import { copyOf } from './template.ts';
import { migrate } from '../../src/lib/server/database/migrate.ts';

/**
 * The demo firm's story is dated back from the day on which it is told, so its lots are called otherwise each week. These are
 * the days on which calendars differ from what one thinks of; `./earmark test --day MOMENT` runs everything else on them, too.
 */
const DAYS = [['a leap day', '2024-02-29T12:00:00Z']];
/** A minute each: told where somebody asks for every day. */
if (process.env.EARMARK_EVERY_DAY)
	DAYS.push(
		['a day of a 53rd week', '2020-12-31T12:00:00Z'],
		['the night in which clocks go back', '2026-10-25T01:30:00Z'],
		['the first of January', '2026-01-01T12:00:00Z'],
		['a Sunday', '2026-06-07T12:00:00Z'],
		['the night in which clocks go on', '2026-03-29T01:30:00Z']
	);

const db = testDatabase();
afterEach(() => vi.useRealTimers());

describe('the demo firm’s story', () => {
	it.each(DAYS)('is told on %s, %s', async (_, day) => {
		vi.useFakeTimers({ toFake: ['Date'], now: new Date(day) });
		const url = await copyOf(db.url, 'migrated', migrate);
		const sql = connect(url, 'app', 4);
		try {
			expect(await seedStory(sql, new Date(day))).toBe(true);
			const open = await sql<{ code: string }[]>`SELECT code FROM orders WHERE closed_at IS NULL`;
			const codes = open.map((o) => o.code);
			expect(codes).toEqual(
				expect.arrayContaining(['PO-2214', 'PO-2215', 'MO-731', 'MO-732', 'MO-733', 'SO-3344', 'RT-130', 'TR-5'])
			);
			const named = await sql`SELECT DISTINCT number FROM mark WHERE number IN ('QR-26-0417', 'QK-SHORT-1')`;
			expect(named).toHaveLength(2);
			const [{ bulks }] = await sql<{ bulks: number }[]>`
				SELECT count(*)::int AS bulks FROM mark k JOIN item i ON i.id = k.item_id AND i.code = 'CR-BULK' JOIN balance b ON b.mark_id = k.id AND b.qty % 1 <> 0 AND NOT b.virtual`;
			expect(bulks).toBeGreaterThan(0);
			expect(await findingsOf(sql)).toEqual([]);
		} finally {
			await sql.end();
		}
	});
});
