import type { Content } from 'pdfmake/interfaces';
import { showDay, showWhen } from '../../core/dates/dates.ts';
import { KNOWN_BY, sayKnown } from '../../core/ledger/evidence.ts';
import { show } from '../../core/quantity/quantity.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { unitWord } from '../../core/quantity/units.ts';
import { foldWhere } from '../../core/trace/fold.ts';
import type { TraceMark, TraceView } from '../../core/trace/view.ts';
import type { PaperHead } from '../ledger/seal.ts';
import { headOf } from '../pdf/head.ts';
import { paperTable, renderPaper, titled } from '../pdf/page.ts';

/** A trace as a paper says it. */
export interface TracePaper {
	view: TraceView;
	/** the head of the ledger when it was printed */
	head: PaperHead;
	/** when it was printed, and what was asked besides, as people read it */
	printed: string;
	by: string;
	since: string | null;
	asOf: string | null;
}
/** The most rows of a table; what is more is counted, and stands in the CSV. */
const MOST = 1500;

/** Draws the report of a trace: what was asked, what adds up, where it is or where it came from, how it is known, the gaps. */
export async function renderTrace(paper: TracePaper): Promise<Uint8Array> {
	const { view } = paper;
	const marks = new Map(view.marks.map((m) => [m.id, m]));
	const root = marks.get(view.root)!;
	const forward = view.direction === 'forward';
	const title = `Trace ${view.direction} of ${root.number}`;
	return renderPaper({
		info: { title },
		content: [
			{ text: title, style: 'title' },
			{
				columns: [
					titled('Item', root.itemName),
					titled('As of', paper.asOf ? showDay(paper.asOf) : 'now'),
					...(forward ? [titled('From', paper.since ? showDay(paper.since) : 'its first day')] : []),
					titled('Printed', `${showWhen(paper.printed)}, ${paper.by}`)
				],
				margin: [0, 6, 0, 12]
			},
			...summary(view),
			...(forward ? whereTable(view, marks, root.number) : supplierTable(view, marks)),
			...(forward ? [] : contentTable(view, marks)),
			...gapTable(view, marks),
			headOf(paper.head)
		]
	});
}

function summary(view: TraceView): Content[] {
	const known = sayKnown(view.known);
	const lines = [
		`${grouped(view.reached.length)} ${view.reached.length === 1 ? 'number' : 'numbers'} ${view.direction === 'forward' ? 'reached' : 'in it'}, over ${grouped(view.steps.length)} ${view.steps.length === 1 ? 'run' : 'runs'}: ${grouped(view.exact)} piece by piece, ${grouped(view.pooled)} by batch.`,
		...(known ? [`${known}.`] : [])
	];
	if (view.direction === 'forward')
		lines.push(
			`${view.accounted === false ? 'Not all of it is accounted for' : 'All of it is accounted for'}: ${view.balance
				.map((b) => `${show(b.content)} ${unitWord(view.unit)} ${b.state}`)
				.join(', ')}; ${view.rootQty ? show(view.rootQty) : '0'} ${unitWord(view.unit)} in all.`
		);
	return lines.map((text) => ({ text, margin: [0, 0, 0, 3] as [number, number, number, number] }));
}

/** A table with its heading; what is more than a paper holds is said. */
function part(
	heading: string,
	titles: string[],
	widths: (string | number)[],
	rows: Content[][],
	none: string
): Content[] {
	const more = rows.length - MOST;
	return [
		{ text: heading, style: 'part' },
		rows.length ? paperTable(titles, widths, rows.slice(0, MOST)) : { text: none, style: 'soft' },
		...(more > 0 ? [{ text: `${grouped(more)} more rows stand in the CSV of this trace.`, style: 'soft' }] : [])
	];
}
const mono = (text: string): Content => ({ text, font: 'Mono', fontSize: 8 });
const right = (text: string): Content => ({ text, alignment: 'right' });
const numbers = (first: TraceMark | null, last: TraceMark | null, run: string | null, count: number) =>
	first ? (count > 1 ? `${first.number} … ${last!.number} (${count})` : first.number) : `run ${run}`;

function whereTable(view: TraceView, marks: ReadonlyMap<string, TraceMark>, root: string): Content[] {
	const rows = foldWhere(view.where, marks).map((r): Content[] => [
		mono(numbers(r.first, r.last, r.run, r.inner.length || 1)),
		r.first?.itemName ?? '',
		`${r.state}${r.at ? `, ${r.at}` : ''}`,
		mono([r.document, r.date && showWhen(r.date)].filter(Boolean).join(' ')),
		['on hand', 'in process', 'unmarked'].includes(r.state) ? '–' : KNOWN_BY[r.known ?? 'unknown'],
		right(r.qty ? `${show(r.qty)} ${unitWord(r.first?.unit ?? '')}` : '–'),
		right(`${show(r.content)} ${unitWord(view.unit)}`)
	]);
	return part(
		'Where it is now',
		['Number', 'Item', 'Where', 'Document', 'Known by', 'Quantity', view.shares ? `Share of ${root}` : `From ${root}`],
		[90, '*', 95, 70, 45, 55, 55],
		rows,
		'Nowhere: nothing of it ever came to a place.'
	);
}
function supplierTable(view: TraceView, marks: ReadonlyMap<string, TraceMark>): Content[] {
	const rows = view.suppliers.map((s): Content[] => {
		const m = marks.get(s.mark)!;
		return [
			s.partner,
			mono(m.number),
			m.itemName,
			mono(s.document ?? '–'),
			showWhen(s.at),
			KNOWN_BY[s.known ?? 'unknown'],
			right(`${show(s.qty)} ${unitWord(m.unit)}`)
		];
	});
	return part(
		'Suppliers',
		['Supplier', 'Number', 'Item', 'Document', 'Received', 'Known by', 'Quantity'],
		[90, 85, '*', 60, 60, 50, 50],
		rows,
		'Nothing in it was received from a supplier.'
	);
}
/** What is in it, run by run. */
function contentTable(view: TraceView, marks: ReadonlyMap<string, TraceMark>): Content[] {
	const rows = view.steps.flatMap((s) =>
		s.inputs
			.filter((i) => i.role === 'use')
			.map((i): Content[] => {
				const m = marks.get(i.mark)!;
				return [
					mono(m.number),
					m.itemName,
					mono(s.run),
					mono(s.document ?? ''),
					showWhen(s.at.slice(0, 10)),
					m.kind === 'unmarked' ? '–' : KNOWN_BY[i.known ?? 'unknown'],
					right(`${show(i.qty)} ${unitWord(m.unit)}`)
				];
			})
	);
	return part(
		'What went in',
		['Number', 'Item', 'Run', 'Document', 'When', 'Known by', 'Quantity'],
		[85, '*', 95, 60, 55, 50, 50],
		rows,
		'Nothing: it came in as it is.'
	);
}
function gapTable(view: TraceView, marks: ReadonlyMap<string, TraceMark>): Content[] {
	const rows = view.gaps.map((g): Content[] => {
		const m = g.mark ? marks.get(g.mark) : null;
		return [
			g.what,
			m ? { stack: [mono(m.number), { text: m.itemName, style: 'soft' }] } : '',
			mono(g.run ?? ''),
			mono(g.document ?? ''),
			right(show(g.qty))
		];
	});
	return part(
		'Gaps',
		['What', 'Of', 'Run', 'Document', 'Quantity'],
		['*', 110, 95, 65, 50],
		rows,
		'None: every step is proven, and nothing was booked without a look at it.'
	);
}
