import type { Db } from '../database/connect.ts';
import { DAY, timesIn } from '../../core/time/clock.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { traceBack } from '../../core/trace/back.ts';
import { traceForward } from '../../core/trace/forward.ts';
import { presentTrace } from '../../core/trace/present.ts';
import type { Where } from '../../core/trace/types.ts';
import type { TraceView } from '../../core/trace/view.ts';
import { firmZone } from '../marks/zone.ts';
import { eventPapers } from './answer.ts';
import { stood, type Moment } from './moment.ts';
import { backSlice, forwardSlice, sliceTime } from './slice.ts';

/**
 * A trace as the screen and the CSV show it.
 * @param mark id of the lot or serial
 * @param since,asOf moments, ISO 8601
 * @param said is told what is being done, for people
 * @param moment the ledger as it was with so many entries; as it is where it is null
 * @returns null when there is none
 */
export async function traceView(
	sql: Db,
	mark: string,
	direction: 'forward' | 'back',
	{ since, asOf }: { since?: string | null; asOf?: string | null } = {},
	said: (what: string) => void = () => {},
	moment: Moment | null = null
): Promise<TraceView | null> {
	const forward = direction === 'forward';
	said('Reading the ledger');
	const slice = await (forward ? forwardSlice : backSlice)(sql, { mark }, asOf ?? null, moment);
	if (!slice) return null;
	const { roots } = slice;
	const numbers = grouped(slice.marks.size);
	said(`Following ${numbers} numbers through ${grouped(slice.movements.length)} movements`);
	const result = forward ? traceForward(slice, roots, since ? sliceTime(since) : undefined) : traceBack(slice, roots);
	said(`Looking up the papers of ${numbers} numbers`);
	const receipts = 'receipts' in result ? result.receipts : [];
	const [zone, events, gone] = await Promise.all([
		firmZone(sql),
		eventPapers(
			sql,
			[...result.flows, ...result.gaps, ...receipts].map((x) => x.event)
		),
		'where' in result ? lastPapers(sql, result.where, moment) : []
	]);
	const [time, day] = [timesIn(zone), timesIn(zone, DAY)];
	const papers = {
		events: new Map([...events].map(([id, e]) => [id, { document: e.document, at: time(e.at) }])),
		gone: new Map(gone.map((g) => [`${g.mark} ${g.holder}`, { document: g.document, at: day(g.at) }])),
		time: (at: string) => time(new Date(at))
	};
	return presentTrace(slice, roots, result, papers);
}

/** Of what is gone to somebody: the last paper that it went on, by mark and partner or job. */
async function lastPapers(sql: Db, where: Iterable<Where>, moment: Moment | null) {
	const gone: string[] = [];
	for (const w of where) if (w.mark && w.at && w.state !== 'on hand') gone.push(w.mark);
	if (!gone.length) return [];
	return sql<{ mark: string; holder: string; document: string | null; at: Date }[]>`
		SELECT DISTINCT ON (m.mark_id, 2) m.mark_id AS mark, coalesce(e.job_id, e.partner_id) AS holder, e.document, e.at
		FROM movement m JOIN event e ON e.id = m.event_id AND ${stood(sql, moment, sql`e`)} JOIN place p ON p.id = m.to_place AND p.virtual
		WHERE m.mark_id = ANY(${gone}::bigint[]) AND (e.partner_id IS NOT NULL OR e.job_id IS NOT NULL) ORDER BY m.mark_id, 2, m.at DESC, m.id DESC`;
}
