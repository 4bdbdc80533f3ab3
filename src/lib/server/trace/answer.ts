import type { Db } from '../database/connect.ts';
import { traceBack } from '../../core/trace/back.ts';
import { traceForward } from '../../core/trace/forward.ts';
import type { Gap } from '../../core/trace/types.ts';
import { backSlice, findRoots, forwardSlice, plainTime, sliceTime, type Slice } from './slice.ts';

export interface Named {
	item: string;
	lot: string | null;
	serial: string | null;
}
/** A serial is named by item and serial; its lot is not repeated. */
const named = (slice: Slice, mark: string): Named => {
	const m = slice.marks.get(mark)!;
	return {
		item: m.item,
		lot: m.kind === 'lot' ? m.number : null,
		serial: m.kind === 'serial' ? m.number : null
	};
};
const gapsOf = (slice: Slice, gaps: Gap[]) =>
	gaps.map((g) => ({
		kind: g.kind,
		...(g.mark ? named(slice, g.mark) : {}),
		...{ run: g.run ? slice.runs.get(g.run)!.code : null, event: g.event, qty: g.qty }
	}));

type Root = { item: string; lot?: string | null; serial?: string | null };
interface Times {
	since?: string | null;
	asOf?: string | null;
}

/** The interface for programs' forward answer; null when there is no such lot or serial. Fractions as text ("20/3"). */
export async function forwardAnswer(sql: Db, root: Root, { since, asOf }: Times) {
	const roots = await findRoots(sql, root);
	if (!roots) return null;
	const slice = await forwardSlice(sql, roots, asOf ?? null);
	const trace = traceForward(slice, roots, since ? sliceTime(since) : undefined);
	const { partners } = slice;
	return {
		root: named(slice, roots[0]),
		rootQty: trace.rootQty.toFraction(),
		// Fields one by one: spreading costs more than the rest of the answer.
		marks: trace.marks.map((m) => {
			const { item, lot, serial } = named(slice, m.mark);
			return { item, lot, serial, since: plainTime(m.since), now: m.now };
		}),
		where: trace.where.map((w) => {
			const content = w.content.toFraction();
			if (!w.mark) return { run: slice.runs.get(w.run!)!.code, state: w.state, content };
			const at = w.state === 'on hand' ? slice.places.get(w.at!)!.code : w.at && partners.get(w.at)!.code;
			const { item, lot, serial } = named(slice, w.mark);
			return { item, lot, serial, state: w.state, at, qty: w.qty, content };
		}),
		gaps: gapsOf(slice, trace.gaps)
	};
}

/** The interface for programs' back answer; null when there is no such lot or serial. */
export async function backAnswer(sql: Db, root: Root, { asOf }: Times) {
	const roots = await findRoots(sql, root);
	if (!roots) return null;
	const slice = await backSlice(sql, roots, asOf ?? null);
	const trace = traceBack(slice, roots);
	const { partners } = slice;
	const documents = await eventDocuments(
		sql,
		trace.receipts.map((r) => r.event)
	);
	const suppliers = new Map(
		trace.receipts.map((r) => {
			const s = {
				partner: r.partner ? partners.get(r.partner)!.code : null,
				document: documents.get(r.event)!.document
			};
			return [JSON.stringify(s), s];
		})
	);
	return {
		root: named(slice, roots[0]),
		marks: trace.marks.map((m) => named(slice, m.mark)),
		suppliers: [...suppliers.values()],
		formerly: trace.formerly.map((m) => named(slice, m)),
		gaps: gapsOf(slice, trace.gaps)
	};
}

export async function eventDocuments(sql: Db, ids: string[]) {
	const rows = await sql<
		{
			id: string;
			kind: string;
			at: string;
			document: string | null;
			orderId: string | null;
			partner: string | null;
		}[]
	>`
		SELECT e.id, e.kind, to_char(e.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS at, e.document, e.order_id AS "orderId", p.name AS partner
		FROM event e LEFT JOIN partner p ON p.id = e.partner_id WHERE e.id = ANY(${[...new Set(ids)]}::bigint[])`;
	return new Map(rows.map((r) => [r.id, r]));
}
