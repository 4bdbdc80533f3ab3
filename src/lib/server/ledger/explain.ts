import type { Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { showWhen } from '../../core/dates/dates.ts';
import { show } from '../../core/quantity/quantity.ts';

/**
 * What the database itself refused, in words. The checks before it name most faults; this speaks for the rules that
 * only the database can hold.
 */
export async function explain(sql: Sql, error: unknown): Promise<unknown> {
	const e = error as { code?: string; detail?: string; message?: string; constraint_name?: string };
	const detail = () => JSON.parse(e.detail ?? '{}') as Record<string, string | number | undefined>;
	if (e.code === 'EM011') {
		const d = detail();
		const text = (key: string) => (d[key] === undefined || d[key] === null ? null : String(d[key]));
		const [what] = await sql<
			{ number: string | null; item: string; place: string; at: string; arrived: string | null; late: boolean | null }[]
		>`
			SELECT k.number, i.code AS item, (SELECT code FROM place WHERE id = ${text('place')}::bigint) AS place,
				shown_time(t.at) AS at, shown_time(t.arrived) AS arrived, t.at < t.arrived AS late
			FROM mark k JOIN item i ON i.id = k.item_id,
				(VALUES (${text('at')}::timestamptz, ${text('arrived')}::timestamptz)) t(at, arrived) WHERE k.id = ${text('mark')}::bigint`;
		const arrived = what.arrived ? showWhen(what.arrived) : 'never';
		return new Problem([
			{
				message: what.late
					? `${what.number ?? what.item} arrived at ${what.place} on ${arrived}; it cannot leave there on ${showWhen(what.at)}. Correct the time.`
					: `${what.number ?? what.item}: less than ${show(text('qty') ?? '0')} stood at ${what.place} on ${showWhen(what.at)} (first arrival ${arrived}). Correct the time or the quantity.`,
				code: 'before it was there'
			}
		]);
	}
	if (e.code === 'EM007') {
		const d = detail();
		return new Problem([
			{
				message: `Run ${d.run}: ${show(String(d.in))} ${d.unit} go in and ${show(String(d.out))} ${d.unit} come out. Record the difference as scrapped, or correct a quantity.`,
				code: 'content'
			}
		]);
	}
	if (e.code === 'EM005') {
		const d = detail();
		return new Problem([
			{
				message: `Serial ${d.serial} is already used by item ${d.item}, and must be unique over all items. Give another.`,
				code: 'shared serial'
			}
		]);
	}
	if (e.code === 'EM008')
		return new Problem([{ message: `${e.message}. Correct the places or the role.`, code: 'direction' }]);
	if (e.code === 'EM010') return new Problem([{ message: `${e.message}.`, code: 'undo' }]);
	if (e.code === '23514' && e.constraint_name === 'below_zero')
		return new Problem([
			{ message: 'Less than nothing would be left at a place. Look at what stands there now.', code: 'short' }
		]);
	if (
		(e.code === '23514' && e.constraint_name === 'serial_is_one') ||
		(e.code === '23505' && e.constraint_name === 'serial_in_one_place')
	)
		return new Problem([
			{
				message: 'A serial would be in two places, or come from its supplier twice. Look at where it is now.',
				code: 'on hand'
			}
		]);
	if (e.code === 'EM040' || e.code === '40P01' || e.code === '40001')
		return new Problem('Others are booking the same numbers at this moment. Nothing was booked; try again.', 409);
	if (e.code === '53100')
		return new Problem('The database’s disk is full. Nothing was booked; make room and try again.', 507);
	return error;
}
