import type { PartLine } from '../../core/parts/levels.ts';
import type { Db } from '../database/connect.ts';

/** Every line of a parts list that lies below an item or above it, in one statement. */
export const partsAround = (sql: Db, item: string) => sql<PartLine[]>`
	WITH RECURSIVE top AS (SELECT id FROM item WHERE code = ${item}),
	down AS (SELECT p.* FROM part p JOIN top ON p.item_id = top.id UNION SELECT p.* FROM down d JOIN part p ON p.item_id = d.part_item_id),
	up AS (SELECT p.* FROM part p JOIN top ON p.part_item_id = top.id UNION SELECT p.* FROM up u JOIN part p ON p.part_item_id = u.item_id)
	SELECT i.code AS item, k.code AS part, trim_scale(x.qty)::text AS qty FROM (SELECT * FROM down UNION SELECT * FROM up) x
		JOIN item i ON i.id = x.item_id JOIN item k ON k.id = x.part_item_id ORDER BY i.code, k.code`;
