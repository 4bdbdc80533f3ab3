import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { firmZone } from '$lib/server/marks/zone';
import { allow, answer } from '$lib/server/request';
import { askedTrace } from '$lib/server/trace/asked';
import { sizeNow } from '$lib/server/trace/moment';
import { goOnFor } from '$lib/server/work/going';
import { inThread } from '$lib/server/work/pool';
import type { RequestHandler } from './$types';

/** A trace as CSV, as the page beside shows it. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const { searchParams } = event.url;
		const asked = askedTrace(searchParams, await firmZone(pool()));
		const { mark, direction, times } = asked;
		const ledgerSize = asked.ledgerSize ?? (await sizeNow(pool()));
		const part = searchParams.get('part') === 'numbers' ? ('numbers' as const) : ('where' as const);
		const file = mark
			? await goOnFor(event, who.name, (how) => inThread('traceCsv', { mark, direction, times, ledgerSize, part }, how))
			: null;
		if (!file) throw new Problem('There is no such lot or serial.', 404);
		return new Response(file.csv, {
			headers: {
				'content-type': 'text/csv; charset=utf-8',
				'content-disposition': `attachment; filename="${file.name}"`
			}
		});
	});
