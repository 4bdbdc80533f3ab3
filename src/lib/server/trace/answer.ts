import type { Db } from '../database/connect.ts';
import { traceBack } from '../../core/trace/back.ts';
import { traceForward } from '../../core/trace/forward.ts';
import { customerOf, holderOf, knownOf } from '../../core/trace/present.ts';
import type { Gap } from '../../core/trace/types.ts';
import type { NamedMark } from '../marks/named.ts';
import { sweep } from '../work/sweep.ts';
import type { Moment } from './moment.ts';
import { backSlice, forwardSlice, plainTime, sliceTime, type Slice } from './slice.ts';

/** A lot or serial by its item and number, as programs name it. */
export interface Named {
	item: string;
	lot: string | null;
	serial: string | null;
}
/** A serial is named by item and serial; its lot is not repeated. */
const nameOf = (slice: Slice, mark: string): Named => {
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
		...(g.mark ? nameOf(slice, g.mark) : {}),
		run: g.run ? slice.runs.get(g.run)!.code : null,
		event: g.event,
		qty: g.qty
	}));

/** From so many movements on what reading them left over is worth to be swept up before they are replayed. */
const MANY = 20_000;

/** From when and until when; the whole ledger without. */
export interface Times {
	since?: string | null;
	asOf?: string | null;
}

/**
 * The interface for programs' forward answer; null when there is no such lot or serial. Fractions as text ("20/3"). Long lists
 * come row by row, so that they are written as they are read and never stand as a whole.
 */
export async function forwardParts(sql: Db, root: NamedMark, { since, asOf }: Times, moment: Moment | null = null) {
	const slice = await forwardSlice(sql, root, asOf ?? null, moment);
	if (!slice) return null;
	const { roots } = slice;
	if (slice.movements.length > MANY) sweep();
	const trace = traceForward(slice, roots, since ? sliceTime(since) : undefined);
	// Fields one by one: spreading costs more than the rest of the answer.
	function* marks() {
		for (const m of trace.marks) {
			const { item, lot, serial } = nameOf(slice!, m.mark);
			yield { item, lot, serial, since: plainTime(m.since), now: m.now };
		}
	}
	function* where() {
		for (const w of trace.where) {
			const content = w.content.toFraction();
			if (!w.mark) {
				yield { run: slice!.runs.get(w.run!)!.code, state: w.state, content };
				continue;
			}
			const at = holderOf(slice!, w)?.code ?? null;
			const { item, lot, serial } = nameOf(slice!, w.mark);
			// Of a job `at` is the job: whose it is stands beside.
			const customer = w.state === 'issued' ? (customerOf(slice!, w)?.code ?? null) : undefined;
			yield { item, lot, serial, state: w.state, at, customer, qty: w.qty, content };
		}
	}
	return {
		root: nameOf(slice, roots[0]),
		rootQty: trace.rootQty.toFraction(),
		marks: marks(),
		where: where(),
		gaps: gapsOf(slice, trace.gaps),
		evidence: knownOf(slice, trace)
	};
}

/** The interface for programs' back answer; null when there is no such lot or serial. */
export async function backParts(sql: Db, root: NamedMark, { asOf }: Times, moment: Moment | null = null) {
	const slice = await backSlice(sql, root, asOf ?? null, moment);
	if (!slice) return null;
	const { roots } = slice;
	const trace = traceBack(slice, roots);
	const { partners } = slice;
	const documents = await eventPapers(
		sql,
		trace.receipts.map((r) => r.event)
	);
	const suppliers = new Map(
		trace.receipts.map((r) => {
			const s = {
				partner: r.partner ? partners.get(r.partner)!.code : null,
				document: documents.get(r.event)?.document ?? null
			};
			return [JSON.stringify(s), s];
		})
	);
	function* marks() {
		for (const m of trace.marks) yield nameOf(slice!, m.mark);
	}
	return {
		root: nameOf(slice, roots[0]),
		marks: marks(),
		suppliers: suppliers.values(),
		formerly: trace.formerly.map((m) => nameOf(slice, m)),
		gaps: gapsOf(slice, trace.gaps),
		evidence: knownOf(slice, trace)
	};
}

const isList = (value: unknown): value is Iterable<unknown> =>
	typeof value === 'object' && value !== null && Symbol.iterator in value;
/** Signs that are written together. */
const PIECE = 64_000;
/** The JSON of an answer, piece by piece. */
function* written(parts: Readonly<Record<string, unknown>>): Generator<string> {
	let text = '{';
	for (const [n, [name, value]] of Object.entries<unknown>(parts).entries()) {
		text += `${n ? ',' : ''}${JSON.stringify(name)}:`;
		if (!isList(value)) {
			text += JSON.stringify(value);
			continue;
		}
		text += '[';
		let first = true;
		for (const row of value) {
			text += (first ? '' : ',') + JSON.stringify(row);
			first = false;
			if (text.length < PIECE) continue;
			yield text;
			text = '';
		}
		text += ']';
	}
	yield text + '}';
}

/**
 * The answer to a trace of the interface for programs, of one moment of the ledger, as the pieces of its JSON.
 * @returns null when there is no such lot or serial
 */
export async function traceText(
	sql: Db,
	direction: 'forward' | 'back',
	root: NamedMark,
	times: Times,
	moment: Moment
): Promise<Iterable<string> | null> {
	const parts = await (direction === 'forward' ? forwardParts : backParts)(sql, root, times, moment);
	return parts && written({ ledgerSize: moment.size, ...parts });
}

/** Of some events: the document and the time of each. */
export async function eventPapers(
	sql: Db,
	ids: readonly string[]
): Promise<Map<string, { document: string | null; at: Date }>> {
	const rows = await sql<{ id: string; at: Date; document: string | null }[]>`
		SELECT e.id, e.at, e.document FROM event e WHERE e.id = ANY(${[...new Set(ids)]}::bigint[])`;
	return new Map(rows.map((r) => [r.id, r]));
}
