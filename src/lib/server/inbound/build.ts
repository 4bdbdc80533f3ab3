import type { Db } from '../database/connect.ts';
import { checkReleased, releasedFor } from '../numbering/released.ts';
import { arrivingLines } from '../sheet/arriving.ts';
import type { Built, BuildInput } from '../sheet/build.ts';
import { compareNotice } from './notice.ts';

/** A delivery: typed rows under each line, and the receipt that "Book in" would book. */
export async function buildDelivery(sql: Db, given: BuildInput): Promise<Built> {
	const { order, drafts, policy } = given;
	const owner = order.theirs ? order.partner : null;
	const [{ read, arrived }, released] = await Promise.all([
		arrivingLines(sql, given, { from: '@supplier', missing: 'missing', more: 'ordered' }),
		releasedFor(sql, order, drafts)
	]);
	const [notice, notDrawn] = await Promise.all([
		compareNotice(sql, order, read.rows, policy),
		checkReleased(sql, order.lines, read.rows, policy)
	]);
	for (const { line, shown, said } of arrived) {
		line.announced = notice?.lines.get(line.id);
		line.released = released.get(line.id);
		for (const f of [...notDrawn, ...(notice?.odd ?? [])]) {
			const of = shown.get(f.row);
			if (of) said.push({ line, of, found: f.found });
		}
	}
	return {
		lines: arrived.map((a) => a.line),
		shows: notice ? { notice: { name: notice.name, at: notice.at, by: notice.by } } : {},
		said: arrived.flatMap((a) => a.said),
		kind: 'receipt',
		runs: [],
		moves: arrived.flatMap((a) => a.moves).map((m) => (owner ? { ...m, movement: { ...m.movement, owner } } : m)),
		enough: read.rows.length > 0,
		used: read.rows.map((r) => r.id)
	};
}
