import { parseDay } from '$lib/core/dates/dates';
import { dayIn, endOf, startOf } from '$lib/core/time/clock';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { itemsOnFloor, yieldReport } from '$lib/server/floor/report';
import { firmZone } from '$lib/server/marks/zone';
import { page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

/** What is shown where nothing is asked: fourteen days. */
const FORTNIGHT = 13 * 86_400_000;

export const load: PageServerLoad = (event) =>
	page(event, 'read', async () => {
		const [zone, items] = await Promise.all([firmZone(pool()), itemsOnFloor(pool())]);
		const at = event.url.searchParams;
		const today = dayIn(zone, new Date());
		const day = (name: string, none: string) => {
			const typed = at.get(name)?.slice(0, 40);
			if (!typed) return none;
			const read = parseDay(typed, today);
			if ('problem' in read) throw new Problem(read.problem, 422);
			return read.day;
		};
		const [from, to] = [day('from', dayIn(zone, new Date(Date.now() - FORTNIGHT))), day('to', today)];
		const item = at.get('item')?.slice(0, 60) || items[0]?.code || null;
		const report = item ? await yieldReport(pool(), item, startOf(zone, from), endOf(zone, to)) : null;
		return {
			...{ items, item, from, to, today },
			rows:
				report?.operations.map((o) => ({
					...o,
					name: report.names[o.operation],
					firstPassYield: o.firstPassYield?.toFraction() ?? null,
					share: o.firstPassYield?.valueOf() ?? null
				})) ?? [],
			rolled: report?.rolledThroughputYield
				? { exact: report.rolledThroughputYield.toFraction(), share: report.rolledThroughputYield.valueOf() }
				: null
		};
	});
