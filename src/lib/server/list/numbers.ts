import { MOST_COUNTED } from '../../core/list/list.ts';
import type { Db } from '../database/connect.ts';
import { like } from '../database/like.ts';
import type { Fragment } from '../database/fragment.ts';

/** Beyond so many, each row of a list is looked at instead: walking the list finds a page sooner than sorting all that fits. */
const MOST_NUMBERS = 2000;

/**
 * The ids of numbers that a text is in: their own, the supplier's, what they were called before, or their item.
 * @param most up to how many their ids are of use
 * @returns the pattern, in lower case, and the statement of the ids; null for it where so much fits that each row is to be
 *   looked at instead; and whether more fit than are counted
 */
export async function marksLike(
	sql: Db,
	text: string,
	most = MOST_NUMBERS
): Promise<{ pattern: string; marks: Fragment | null; many: boolean }> {
	const pattern = `%${like(text.toLowerCase())}%`;
	// Too short for the index of trigrams.
	if (text.length < 3) return { pattern, marks: null, many: false };
	const marks = sql`
		SELECT id FROM mark WHERE lower(number) LIKE ${pattern}
		UNION ALL SELECT id FROM mark WHERE lower(supplier_lot) LIKE ${pattern}
		UNION ALL SELECT id FROM mark WHERE lower(supplier_serial) LIKE ${pattern}
		UNION ALL SELECT mark_id FROM mark_alias WHERE lower(number) LIKE ${pattern}
		UNION ALL SELECT m.id FROM item i JOIN mark m ON m.item_id = i.id WHERE lower(i.code || ' ' || i.name) LIKE ${pattern}`;
	const { seen, different } = await firstOf(sql, marks, most);
	return { pattern, marks: seen > most ? null : marks, many: different > MOST_COUNTED };
}

/**
 * How many of some ids there are, as far as it is worth to look; some may come twice.
 * @param least look at so many at least
 */
export async function firstOf(sql: Db, ids: Fragment, least = 0): Promise<{ seen: number; different: number }> {
	const [found] = await sql<{ seen: number; different: number }[]>`
		SELECT count(*)::int AS seen, count(DISTINCT id)::int AS different FROM (SELECT * FROM (${ids}) x (id) LIMIT ${Math.max(least, 2 * MOST_COUNTED) + 1}) y`;
	return found;
}

/** Numbers (k) that belong to a partner, themselves or by their lot. */
export const ownedBy = (sql: Db, code: string): Fragment =>
	sql`(k.id IN (${ownOrLots(sql, (x) => sql`${x}.owner = ${code}`)}) AND k.owner = ${code})`;

/** The ids of numbers of which something holds, and of the serials of such lots: each by an index of its own. */
export const ownOrLots = (sql: Db, holds: (k: Fragment) => Fragment): Fragment => sql`
	SELECT x.id FROM mark x WHERE ${holds(sql`x`)} UNION ALL SELECT c.id FROM mark l JOIN mark c ON c.parent_id = l.id WHERE ${holds(sql`l`)}`;
