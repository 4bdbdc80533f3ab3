import type { Db } from '../database/connect.ts';
import { noSuch } from '../../core/checks/catalogue.ts';
import { faultFrom } from '../../core/checks/check.ts';
import { yieldOf, type StepTaken, type YieldReport } from '../../core/floor/yield.ts';
import type { Act, FloorState, Operation } from '../../core/floor/moves.ts';
import { Problem } from '../../core/problem/problem.ts';

/** The operations of all routes that units of an item took in a period, those of the route that counts now first. */
export interface NamedYield extends YieldReport {
	names: Record<string, string>;
}

/**
 * The yield of an item's operations in a period: from ≤ at < to.
 * @throws Problem 404 when there is no such item
 */
export async function yieldReport(sql: Db, item: string, from: Date, to: Date): Promise<NamedYield> {
	const [found] = await sql<{ id: string }[]>`SELECT id FROM item WHERE code = ${item}`;
	if (!found) throw new Problem([faultFrom(noSuch, { what: 'item', code: item.slice(0, 60) }, 'item')], 404);
	const [routes, steps] = await Promise.all([
		sql<{ operations: Operation[] }[]>`
			SELECT r.operations FROM route r WHERE r.item_id = ${found.id} AND (r.id = (SELECT max(id) FROM route WHERE item_id = ${found.id})
				OR EXISTS (SELECT 1 FROM step s WHERE s.route_id = r.id AND s.at >= ${from} AND s.at < ${to})) ORDER BY r.id DESC`,
		// All steps of the units that did something in the period: what was before it tells whether a time is the first.
		sql<
			{
				unit: string;
				at: Date;
				act: Act;
				fromOperation: string | null;
				fromState: FloorState;
				operation: string;
				state: FloorState;
			}[]
		>`
			SELECT s.mark_id AS unit, s.at, s.act, s.from_operation AS "fromOperation", s.from_state AS "fromState", s.operation, s.state
			FROM step s WHERE s.at < ${to} AND s.mark_id IN (SELECT x.mark_id FROM step x JOIN mark k ON k.id = x.mark_id WHERE k.item_id = ${found.id} AND x.at >= ${from} AND x.at < ${to})
			ORDER BY s.mark_id, s.id`
	]);
	const operations = routes.flatMap((r) => r.operations);
	const codes = [...new Set(operations.map((o) => o.code))];
	const taken = steps.map((s): StepTaken => ({
		unit: s.unit,
		at: s.at.getTime(),
		act: s.act,
		from: s.fromOperation === null ? null : { operation: s.fromOperation, state: s.fromState },
		to: { operation: s.operation, state: s.state }
	}));
	return {
		...yieldOf(taken, codes, from.getTime(), to.getTime()),
		names: Object.fromEntries(operations.map((o) => [o.code, o.name]).reverse())
	};
}

/** How many units of an item are where, and the ones that have been there longest. */
export interface FloorOperation {
	item: string;
	itemName: string;
	code: string;
	name: string;
	counts: Record<'queued' | 'in process' | 'held' | 'rework', number>;
	/** oldest first */
	units: { mark: string; serial: string; state: FloorState; since: string; order: string | null }[];
}
/** The oldest units that are shown of each operation. */
const OLDEST = 8;

/** The floor by operation, in the order of each item's route. */
export async function floorNow(sql: Db, item: string | null = null): Promise<FloorOperation[]> {
	const [routes, rows] = await Promise.all([
		sql<{ item: string; itemName: string; itemId: string; operations: Operation[] }[]>`
			SELECT DISTINCT ON (i.code) i.code AS item, i.name AS "itemName", i.id AS "itemId", r.operations FROM route r JOIN item i ON i.id = r.item_id
			${item ? sql`WHERE i.code = ${item}` : sql``} ORDER BY i.code, r.id DESC`,
		sql<{ itemId: string; operation: string; state: FloorState; n: number; units: FloorOperation['units'] }[]>`
			SELECT f.item_id AS "itemId", f.operation, f.state, count(*)::int AS n,
				(json_agg(json_build_object('mark', k.id::text, 'serial', k.number, 'state', f.state, 'since', shown_time(f.since), 'order', o.code) ORDER BY f.since, k.id) FILTER (WHERE f.pos <= ${OLDEST})) AS units
			FROM (SELECT *, row_number() OVER (PARTITION BY item_id, operation ORDER BY since, mark_id) AS pos FROM floor WHERE state NOT IN ('complete', 'scrapped')) f
			JOIN mark k ON k.id = f.mark_id LEFT JOIN orders o ON o.id = f.order_id GROUP BY 1, 2, 3`
	]);
	return routes.flatMap((r) => {
		const mine = rows.filter((x) => x.itemId === r.itemId);
		// Units on an older route may stand at an operation that the present one does not have.
		const older = [...new Set(mine.map((x) => x.operation))]
			.filter((c) => !r.operations.some((o) => o.code === c))
			.sort();
		const all = [
			...r.operations.map((o) => ({ code: o.code, name: o.name })),
			...older.map((code) => ({ code, name: code }))
		];
		return all.map((o): FloorOperation => {
			const here = mine.filter((x) => x.operation === o.code);
			const n = (state: FloorState) => here.find((x) => x.state === state)?.n ?? 0;
			return {
				...{ item: r.item, itemName: r.itemName, ...o },
				counts: { queued: n('queued'), 'in process': n('in process'), held: n('held'), rework: n('rework') },
				units: here
					.flatMap((x) => x.units ?? [])
					.sort((a, b) => (a.since < b.since ? -1 : 1))
					.slice(0, OLDEST)
			};
		});
	});
}

/** The items that have a route, for a list to choose from. */
export const itemsOnFloor = async (sql: Db): Promise<{ code: string; name: string }[]> => [
	...(await sql<{ code: string; name: string }[]>`
		SELECT i.code, i.name FROM item i WHERE EXISTS (SELECT 1 FROM route r WHERE r.item_id = i.id) ORDER BY i.name`)
];
