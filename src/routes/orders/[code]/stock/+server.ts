import { json } from '@sveltejs/kit';
import { sayStopped, stopReason } from '$lib/core/allocation/allocate';
import { documentKind } from '$lib/core/document/kinds';
import { Problem } from '$lib/core/problem/problem';
import { rest } from '$lib/core/quantity/quantity';
import { compare } from '$lib/core/ranges/ranges';
import { dayIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { onHand, type OnHand } from '$lib/server/marks/onhand';
import { allow, answer } from '$lib/server/request';
import { builders } from '$lib/server/builders';
import { findOrder, modeOf } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

/** What came back from a customer last; first expired first, then as it came, then as people count. */
const inTurn = (a: OnHand, b: OnHand) => {
	const [x, y] = [a, b].map((s) => `${s.cameBack ? 1 : 0} ${s.expiresOn ?? '9999'} ${s.since}`);
	return x === y ? compare(a.number, b.number) : x < y ? -1 : 1;
};

/** What there is of a line's item, with what is free of it; at most a hundred, and the true count. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const order = await findOrder(pool(), event.params.code);
		const line = order.lines.find((l) => l.id === event.url.searchParams.get('line'));
		if (!line) throw new Problem('This line is not there any more. Reload the page.', 404);
		const q = (event.url.searchParams.get('q') ?? '').toLowerCase();
		const site = documentKind(order.kind).siteOnly ? (order.place?.split('/')[0] ?? null) : null;
		const today = dayIn(order.zone, new Date());
		const takes = await builders[order.kind].takes?.(pool(), order, modeOf(event.url), { itemId: line.itemId });
		const all =
			takes?.stock.filter((s) => s.itemId === line.itemId) ?? (await onHand(pool(), [line.itemId], order.id, { site }));
		const stopped = (s: OnHand) => {
			const why = takes?.any ? null : stopReason(s, today);
			// What has expired may be taken with a reason; what is stopped may not.
			return why?.why === 'status' ? sayStopped(why) : s.transit && !takes ? 'in transit' : null;
		};
		const found = all.filter((s) => !q || `${s.number} ${s.place} ${s.lot ?? ''}`.toLowerCase().includes(q));
		const last = (s: { stopped: string | null; owner?: string | null }) => (s.stopped ? 2 : s.owner ? 1 : 0);
		return json({
			total: found.length,
			// What may be taken stands before what may not.
			stock: found
				.map((s) => ({ ...s, free: s.owner ? '0' : rest(s.qty, s.promised ?? '0'), stopped: stopped(s) }))
				.sort((a, b) => last(a) - last(b) || inTurn(a, b))
				.slice(0, 100)
		});
	});
