import { error } from '@sveltejs/kit';
import { parseDay } from '$lib/core/dates/dates';
import { pool, readPool } from '$lib/server/database/pool';
import { find } from '$lib/server/register/find';
import { traceView } from '$lib/server/trace/view';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url }) => {
	const p = url.searchParams;
	const direction = p.get('direction') === 'back' ? 'back' : 'forward';
	const typed = (p.get('q') ?? '').trim();
	let mark = p.get('mark');
	let said = '';
	let hits: { label: string; detail: string; id: string }[] = [];
	if (!mark && typed) {
		const found = await find(pool(), typed);
		const marks = found.hits.filter((h) => h.what === 'lot' || h.what === 'serial').map((h) => ({ label: h.label, detail: h.detail, id: h.url.split('/').pop()! })); // prettier-ignore
		if (found.exact && marks.length === 1) mark = marks[0].id;
		else {
			hits = marks;
			said = marks.length ? (found.exact ? `“${typed}” stands for several. Which one?` : `No lot or serial is called “${typed}”. The nearest:`) : `No lot or serial is called “${typed}”. Check the number, or look in the register.`; // prettier-ignore
		}
	}
	const asked = { since: p.get('since') ?? '', asOf: p.get('asOf') ?? '' };
	if (!mark) return { direction, typed, said, hits, asked, view: null } as const;
	if (!/^\d{1,18}$/.test(mark)) error(404, 'There is no such lot or serial.');
	const since = asked.since ? parseDay(asked.since) : null;
	const asOf = asked.asOf ? parseDay(asked.asOf) : null;
	for (const d of [since, asOf]) if (d && 'problem' in d) said = d.problem;
	const view = await traceView(readPool(), mark, direction, {
		since: since && 'day' in since ? `${since.day}T00:00:00Z` : null,
		asOf: asOf && 'day' in asOf ? `${asOf.day}T23:59:59.999Z` : null
	});
	if (!view) error(404, 'There is no such lot or serial.');
	return { direction, typed, said, hits, asked, view } as const;
};
