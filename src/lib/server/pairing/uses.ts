import type { Db } from '../database/connect.ts';
import type { Fragment } from '../database/fragment.ts';

/**
 * Uses of parts with the part (k, of item i), what was made (f, of item g), run, event and order. Joined from outside, so
 * that a count leaves out what it does not need.
 */
export const PAIRINGS = `pairing p LEFT JOIN mark_now k ON k.id = p.part_id LEFT JOIN item i ON i.id = k.item_id LEFT JOIN mark_now f ON f.id = p.made_id LEFT JOIN item g ON g.id = f.item_id
	LEFT JOIN run r ON r.id = p.run_id LEFT JOIN event e ON e.id = p.event_id LEFT JOIN orders o ON o.id = coalesce(r.order_id, e.order_id)`;

/** Ids of the uses of some marks: gathered before any is read, since in the list's order all there are would be looked at. */
export const usesOf = (sql: Db, marks: Fragment): Fragment =>
	sql`SELECT u.id FROM movement u WHERE u.role = 'use' AND u.mark_id = ANY (${marks})`;
/** Ids of the uses in runs that made some marks. */
export const usesIn = (sql: Db, marks: Fragment): Fragment =>
	sql`SELECT u.id FROM movement u WHERE u.role = 'use' AND u.run_id = ANY (ARRAY(SELECT x.id FROM run x WHERE x.unit_mark = ANY (${marks})
		UNION SELECT m.run_id FROM movement m WHERE m.role = 'make' AND m.mark_id = ANY (${marks})))`;
/** Ids of the uses in runs of some orders, by a condition on y. */
export const usesFor = (sql: Db, orders: Fragment): Fragment =>
	sql`SELECT u.id FROM movement u WHERE u.role = 'use' AND u.run_id = ANY (ARRAY(SELECT x.id FROM run x JOIN orders y ON y.id = x.order_id WHERE ${orders}
		UNION SELECT m.run_id FROM orders y JOIN event x ON x.order_id = y.id JOIN movement m ON m.event_id = x.id WHERE m.run_id IS NOT NULL AND ${orders}))`;
