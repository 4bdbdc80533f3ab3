import { randomUUID } from 'node:crypto';
import { setTimeout as after } from 'node:timers/promises';
import { redirect } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { seenIn } from '$lib/core/trace/seen';
import type { Looked } from '$lib/core/trace/shown';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { timeIn } from '$lib/core/time/clock';
import { firmZone } from '$lib/server/marks/zone';
import { find } from '$lib/server/register/find';
import { idOf, page } from '$lib/server/request';
import { askedTrace } from '$lib/server/trace/asked';
import { lookInput, type Look } from '$lib/server/trace/look';
import { notYet, sealedWhen, sizeNow } from '$lib/server/trace/moment';
import { runCancellable } from '$lib/server/work/going';
import { inThread } from '$lib/server/work/pool';
import type { PageServerLoad } from './$types';

/** What takes longer than this comes after the page, which says meanwhile what is being done, in ms. */
const SOON = 300;

/** What came of a look: what is shown, or what is said instead. */
type Answer = { looked: Looked } | { looked: null; said: string };
const begin = (asked: Look, who: string): Promise<Answer> =>
	runCancellable(asked.look, who, (how) => inThread('look', asked, how)).then(
		(looked): Answer => (looked ? { looked } : { looked, said: 'There is no such lot or serial.' }),
		(e: unknown) => {
			if (e instanceof Problem) return { looked: null, said: e.message };
			throw e;
		}
	);

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const p = event.url.searchParams;
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
		const zone = await firmZone(pool());
		const read = askedTrace(p, zone);
		const { direction } = read;
		const asked = { since: read.since, asOf: read.asOf };
		if (!mark) return { direction, typed, said, hits, asked, look: null, when: null, mayHold: false };
		if (read.said) said = read.said;
		const id = idOf(mark);
		if (!id) throw new Problem('There is no such lot or serial.', 404);
		const now = await sizeNow(pool());
		if (read.ledgerSize === null) {
			// The address names the moment: opened again, or sent to somebody, it shows the same.
			const pinned = new URLSearchParams(p);
			pinned.set('ledgerSize', String(now));
			redirect(303, `/trace?${pinned}`);
		}
		const { ledgerSize } = read;
		if (ledgerSize > now) throw notYet(ledgerSize, now);
		const sealed = await sealedWhen(pool(), ledgerSize);
		const when = { at: sealed && timeIn(zone, sealed), newer: now - ledgerSize };
		const of = { look: randomUUID(), mark: id, direction, ledgerSize, ...read.times };
		// Another part, page or bar of the same trace is no other trace: the page asks for it by itself.
		const seen = event.untrack(() => seenIn(event.url.searchParams, direction));
		const answer = begin(lookInput.parse({ ...of, ...seen, want: 'all' }), who.name);
		const soon = await Promise.race([answer, after(SOON, null)]);
		if (soon && !soon.looked) throw new Problem(soon.said, 404);
		return {
			direction,
			typed,
			said,
			hits,
			asked,
			look: { ...of, answer: soon ?? answer },
			when,
			mayHold: can(who.role, 'hold')
		};
	});
