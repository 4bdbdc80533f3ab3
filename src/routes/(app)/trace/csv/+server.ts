import { Problem } from '$lib/core/problem/problem';
import { parseDay } from '$lib/core/dates/dates';
import { endOf, startOf } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { firmZone } from '$lib/server/marks/zone';
import { allow, answer, idOf } from '$lib/server/request';
import { inThread } from '$lib/server/work/pool';
import type { RequestHandler } from './$types';

/** A trace as CSV, as the page beside shows it. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const p = event.url.searchParams;
		const mark = idOf(p.get('mark'));
		const zone = await firmZone(pool());
		const moment = (name: string, of: typeof startOf) => {
			const d = p.get(name) ? parseDay(p.get(name)!) : null;
			return d && 'day' in d ? of(zone, d.day).toISOString() : null;
		};
		const file = mark
			? await inThread('traceCsv', {
					mark,
					direction: p.get('direction') === 'back' ? 'back' : 'forward',
					times: { since: moment('since', startOf), asOf: moment('asOf', endOf) },
					part: p.get('part') === 'numbers' ? 'numbers' : 'where'
				})
			: null;
		if (!file) throw new Problem('There is no such lot or serial.', 404);
		return new Response(file.csv, {
			headers: {
				'content-type': 'text/csv; charset=utf-8',
				'content-disposition': `attachment; filename="${file.name}"`
			}
		});
	});
