import { Problem } from '$lib/core/problem/problem';
import { parseDay } from '$lib/core/dates/dates';
import { readPool } from '$lib/server/database/pool';
import { traceCsv } from '$lib/server/trace/csv';
import { traceView } from '$lib/server/trace/view';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const p = event.url.searchParams;
		const mark = p.get('mark') ?? '';
		const day = (name: string) => {
			const d = p.get(name) ? parseDay(p.get(name)!) : null;
			return d && 'day' in d ? d.day : null;
		};
		const [since, asOf] = [day('since'), day('asOf')];
		const view = /^\d{1,18}$/.test(mark)
			? await traceView(readPool(), mark, p.get('direction') === 'back' ? 'back' : 'forward', { since: since && `${since}T00:00:00Z`, asOf: asOf && `${asOf}T23:59:59.999Z` }) // prettier-ignore
			: null;
		if (!view) throw new Problem('There is no such lot or serial.', 404);
		const part = p.get('part') === 'numbers' ? 'numbers' : 'where';
		const root = view.marks.find((m) => m.id === view.root)!.number.replace(/[^\w.-]/g, '_');
		return new Response(traceCsv(view, part), {
			headers: {
				'content-type': 'text/csv; charset=utf-8',
				'content-disposition': `attachment; filename="trace-${view.direction}-${root}-${part}.csv"`
			}
		});
	});
