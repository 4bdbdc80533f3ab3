import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { firmZone } from '$lib/server/marks/zone';
import { find } from '$lib/server/register/find';
import { idOf, page } from '$lib/server/request';
import { askedTrace } from '$lib/server/trace/asked';
import { inThread } from '$lib/server/work/pool';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async () => {
		const p = event.url.searchParams;
		const direction = p.get('direction') === 'back' ? ('back' as const) : ('forward' as const);
		const typed = (p.get('q') ?? '').trim().slice(0, 2000);
		let mark = p.get('mark');
		let said = '';
		let hits: { label: string; detail: string; id: string }[] = [];
		if (!mark && typed) {
			const found = await find(pool(), typed);
			const marks = found.hits.flatMap((h) => (h.mark ? [{ label: h.label, detail: h.detail, id: h.mark }] : []));
			if (found.exact && marks.length === 1) mark = marks[0].id;
			else {
				hits = marks;
				said = marks.length
					? found.exact
						? `“${typed}” stands for several. Which one?`
						: `No lot or serial is called “${typed}”. The nearest:`
					: `No lot or serial is called “${typed}”. Check the number, or look in the register.`;
			}
		}
		const asked = { since: (p.get('since') ?? '').slice(0, 40), asOf: (p.get('asOf') ?? '').slice(0, 40) };
		if (!mark) return { direction, typed, said, hits, asked, view: null };
		const read = askedTrace(p, await firmZone(pool()));
		if (read.said) said = read.said;
		const id = idOf(mark);
		const { times } = read;
		const view = id ? await inThread('traceView', { mark: id, direction, times }) : null;
		if (!view) throw new Problem('There is no such lot or serial.', 404);
		return { direction, typed, said, hits, asked, view };
	});
