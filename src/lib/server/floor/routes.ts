import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { noSuch } from '../../core/checks/catalogue.ts';
import { faultFrom } from '../../core/checks/check.ts';
import type { Operation } from '../../core/floor/moves.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';

const code = line(30, 1, 'Give each operation a code.').refine(
	(t) => /^[^\s/?#%]+$/u.test(t),
	'An operation’s code has no blanks and none of / ? # %.'
);
/** A route, as parsed: its operations in order. */
export const routeInput = z.strictObject({
	operations: z
		.array(
			z.strictObject({
				code,
				name: line(100, 1, 'Give each operation a name.'),
				stations: z.array(line(20)).max(50).default([]).describe('Codes of stations; none: it may be done anywhere.'),
				recordsUse: z.boolean().default(false).describe('It is not left before what is used in the unit is recorded.'),
				values: z
					.array(line(30))
					.max(50)
					.default([])
					.describe('Codes of extra fields that must be recorded before it is left.')
			})
		)
		.min(1, 'A route has at least one operation.')
		.max(50, 'A route has at most 50 operations.')
});
/** A route as it is kept. */
export interface Route {
	id: string;
	operations: Operation[];
}

/** The route that counts for units of an item from now on; null when it has none. */
export async function routeOf(sql: Db, item: string): Promise<Route | null> {
	const [route] = await sql<Route[]>`
		SELECT r.id, r.operations FROM route r JOIN item i ON i.id = r.item_id WHERE i.code = ${item} ORDER BY r.id DESC LIMIT 1`;
	return route ?? null;
}

/**
 * Sets the route of an item; units that are on the floor keep theirs. The same again changes nothing.
 * @returns whether it is another one than before
 * @throws Problem 404 for an unknown item; 422 when it carries no serials, or something in the route is not known
 */
export async function setRoute(sql: Sql, by: string, item: string, input: unknown): Promise<boolean> {
	const { operations } = parse(routeInput, input);
	return transaction(sql, async (tx) => {
		const [found] = await tx<{ id: string; tracking: string }[]>`
			SELECT id, tracking FROM item WHERE code = ${item} FOR UPDATE`;
		if (!found) throw new Problem([faultFrom(noSuch, { what: 'item', code: item.slice(0, 60) }, 'item')], 404);
		const faults = [];
		if (!found.tracking.includes('serial'))
			faults.push({ message: `${item} carries no serials: a unit of it cannot be followed on the floor.`, at: 'item' });
		const twice = operations.find((o, i) => operations.findIndex((x) => x.code === o.code) < i);
		if (twice)
			faults.push({
				message: `Operation ${twice.code} stands in the route twice. Give each a code of its own.`,
				at: 'operations'
			});
		const [stations, facts] = await Promise.all([
			tx<{ code: string }[]>`SELECT code FROM station WHERE code = ANY(${operations.flatMap((o) => o.stations)})`,
			tx<{ code: string }[]>`SELECT code FROM fact WHERE code = ANY(${operations.flatMap((o) => o.values)})`
		]);
		const known = (list: readonly { code: string }[]) => new Set(list.map((x) => x.code));
		const [at, asked] = [known(stations), known(facts)];
		for (const [i, o] of operations.entries()) {
			for (const s of o.stations)
				if (!at.has(s))
					faults.push({ message: `There is no station ${s}. Set it up in Setup, Stations.`, at: `operations[${i}]` });
			for (const f of o.values)
				if (!asked.has(f))
					faults.push({
						message: `There is no extra field ${f}. Make it in Setup, Extra fields.`,
						at: `operations[${i}]`
					});
		}
		if (faults.length) throw new Problem(faults);
		const was = await routeOf(tx, item);
		if (was && JSON.stringify(was.operations) === JSON.stringify(operations)) return false;
		const said = (list: readonly Operation[] | undefined) => list?.map((o) => o.code).join(' → ') ?? null;
		if (was) {
			const [same] =
				await tx`SELECT 1 WHERE ${JSON.stringify(was.operations)}::text::jsonb = ${JSON.stringify(operations)}::text::jsonb`;
			if (same) return false;
		}
		await tx`INSERT INTO route (item_id, operations, made_by) VALUES (${found.id}, ${JSON.stringify(operations)}::text::jsonb, ${by})`;
		await keepHistory(tx, by, 'item', item, { route: said(was?.operations) }, { route: said(operations) });
		return true;
	});
}
