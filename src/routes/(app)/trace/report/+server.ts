import { Problem } from '$lib/core/problem/problem';
import { timeIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { headAt } from '$lib/server/ledger/seal';
import { firmZone } from '$lib/server/marks/zone';
import { allow, answer } from '$lib/server/request';
import { askedTrace } from '$lib/server/trace/asked';
import { notYet, sizeNow } from '$lib/server/trace/moment';
import { goOnFor } from '$lib/server/work/going';
import { inThread } from '$lib/server/work/pool';
import type { RequestHandler } from './$types';

/** A trace as a paper, with the head of the ledger as it was at that moment. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const zone = await firmZone(pool());
		const asked = askedTrace(event.url.searchParams, zone);
		const { mark, direction, days, times } = asked;
		const now = await sizeNow(pool());
		const ledgerSize = asked.ledgerSize ?? now;
		if (ledgerSize > now) throw notYet(ledgerSize, now);
		const about = {
			head: await headAt(pool(), ledgerSize),
			printed: timeIn(zone, new Date()),
			by: event.locals.person?.name ?? who.name,
			...days
		};
		const file = mark
			? await goOnFor(event, who.name, (how) =>
					inThread('tracePaper', { mark, direction, times, ledgerSize, about }, how)
				)
			: null;
		if (!file) throw new Problem('There is no such lot or serial.', 404);
		return new Response(new Uint8Array(file.pdf), {
			headers: { 'content-type': 'application/pdf', 'content-disposition': `inline; filename="${file.name}"` }
		});
	});
