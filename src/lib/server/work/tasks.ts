import { parentPort } from 'node:worker_threads';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { useDecimalSign, type DecimalSign } from '../../core/quantity/sign.ts';
import type { Dpi, Label, LabelSize } from '../../core/labels/label.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { troubleOf } from '../database/lost.ts';
import { readPool, replicaPool } from '../database/pool.ts';
import type { PackingPaper, TermsPaper } from '../outbound/paper.ts';
import type { CardsPaper } from '../production/cardpaper.ts';
import type { ListPaper } from '../list/paper.ts';
import type { CountPaper } from '../stock/countpaper.ts';
import type { RepackPaper } from '../stock/repackpaper.ts';
import type { NamedMark } from '../marks/named.ts';
import { traceText, type Times } from '../trace/answer.ts';
import type { TraceView } from '../../core/trace/view.ts';
import type { TracePaper } from '../trace/paper.ts';
import { lookAt, type Reading } from '../trace/kept.ts';
import type { Look } from '../trace/look.ts';
import { readAt } from '../trace/moment.ts';
import { traceView } from '../trace/view.ts';
import { sweep } from './sweep.ts';

/** What a thread answers: the task's result, or its refusal or the database's trouble, which lose what they are on the way. */
export type Answer<T> =
	{ result: T } | { refused: { faults: Fault[]; status: number } } | { trouble: { message: string; code: string } };

/** What a task can say while it runs. */
interface Ways {
	/** what it is doing, for people */
	said: (what: string) => void;
	/** a piece of a long text that it answers */
	write: (piece: string) => void;
}
/** What a thread sends while a task runs: which one, and what it says or writes; nothing more of it where it is done. */
export type Sent = { task: number } & ({ said: string } | { piece: Uint8Array } | { done: true });

/** Runs a task; a refusal goes back as data, and so does what is wrong with the database. */
const task =
	<I, O>(work: (input: I, ways: Ways) => Promise<O>) =>
	async (input: I, ways: Ways): Promise<Answer<O>> => {
		try {
			return { result: await work(input, ways) };
		} catch (e) {
			if (e instanceof Problem) return { refused: { faults: e.faults, status: e.status } };
			if (troubleOf(e)) {
				const { message, code } = e as Error & { code: string };
				return { trouble: { message, code } };
			}
			throw e;
		}
	};

interface TraceOf {
	direction: 'forward' | 'back';
	root: NamedMark;
	times: Times;
	ledgerSize: number;
}
interface ViewOf {
	mark: string;
	direction: 'forward' | 'back';
	times: { since?: string | null; asOf?: string | null };
	ledgerSize: number;
}
const at: Reading = (size, read) => readAt({ primary: readPool(), replica: replicaPool() }, size, read);

interface CallOf {
	method: string;
	path: string;
	who: Actor;
	query: Record<string, string>;
	text: string;
}
/** An answer of so many signs leaves much behind. */
const MUCH = 1_000_000;

/** A thread keeps what it once ran: it loads what a task needs when the task is first asked for. What traces need it has. */
const work = {
	/** a call of the interface for programs with a large body, whose right was looked at before */
	call: async ({ method, path, who, query, text }: CallOf) => {
		const [{ operationOf }, { readBody }, { demand }] = await Promise.all([
			import('../api/contract.ts'),
			import('../body.ts'),
			import('../../core/people/can.ts')
		]);
		const { operation, params } = operationOf(method, path)!;
		const answer = await operation.run({
			...{ who, query, params, body: readBody(text) },
			allow: (verb) => demand(who.role, verb)
		});
		return { status: answer.status, text: await answer.text() };
	},
	/** the cells of an XLSX */
	xlsx: async (file: ArrayBuffer) => (await import('../tables/xlsx.ts')).readXlsx(file),
	/** labels as a PDF */
	labels: async ({ labels, dpi, size }: { labels: Label[]; dpi: Dpi; size: LabelSize }, { said }: Ways) =>
		(await import('../labels/draw.ts')).labelsPdf(labels, dpi, size, said),
	/** a packing list, a delivery note or a pick list as a PDF */
	packing: async (paper: PackingPaper) => (await import('../outbound/paper.ts')).renderPacking(paper),
	/** what a customer agreed to, as a PDF */
	terms: async (paper: TermsPaper) => (await import('../outbound/paper.ts')).renderTerms(paper),
	/** a list as it is shown, as a PDF */
	list: async (paper: ListPaper) => (await import('../list/paper.ts')).renderList(paper),
	/** sheets to count by, as a PDF */
	counting: async (paper: CountPaper) => (await import('../stock/countpaper.ts')).renderCount(paper),
	/** the record of a repacking as a PDF */
	repacked: async (paper: RepackPaper) => (await import('../stock/repackpaper.ts')).renderRepack(paper),
	/** work cards as a PDF */
	cards: async (paper: CardsPaper, { said }: Ways) =>
		(await import('../production/cardpaper.ts')).renderCards(paper, said),
	/** a trace for programs, as the pieces of its JSON; false when there is no such number */
	trace: async ({ direction, root, times, ledgerSize }: TraceOf, { write }: Ways) => {
		const pieces = await at(ledgerSize, (sql, moment) => traceText(sql, direction, root, times, moment));
		let signs = 0;
		for (const piece of pieces ?? []) {
			signs += piece.length;
			write(piece);
		}
		// Once the answer is on its way.
		if (signs > MUCH) setImmediate(sweep);
		return pieces !== null;
	},
	/** what the screen shows of a trace; null when there is no such number */
	look: (asked: Look, { said }: Ways) => lookAt(at, asked, said),
	/** a trace as CSV, with what its file is to be called; null when there is no such number */
	traceCsv: async (
		{ mark, direction, times, ledgerSize, part }: ViewOf & { part: 'where' | 'numbers' },
		{ said }: Ways
	) => {
		const view = await at(ledgerSize, (sql, moment) => traceView(sql, mark, direction, times, said, moment));
		if (!view) return null;
		const { traceCsv } = await import('../trace/csv.ts');
		return { csv: traceCsv(view, part), name: `${fileName(view)}-${part}.csv` };
	},
	/** a trace as a PDF, with what its file is to be called; null when there is no such number */
	tracePaper: async (
		{ mark, direction, times, ledgerSize, about }: ViewOf & { about: Omit<TracePaper, 'view'> },
		{ said }: Ways
	) => {
		const view = await at(ledgerSize, (sql, moment) => traceView(sql, mark, direction, times, said, moment));
		if (!view) return null;
		said('Drawing the report');
		const { renderTrace } = await import('../trace/paper.ts');
		return { pdf: await renderTrace({ view, ...about }), name: `${fileName(view)}.pdf` };
	}
};
/** What the file of a trace is called, without its ending. */
const fileName = (view: TraceView) =>
	`trace-${view.direction}-${view.marks.find((m) => m.id === view.root)!.number.replace(/[^\w.-]/g, '_')}`;
/** What runs in a thread, by its name. */
export type Tasks = typeof work;

/** The pool asks for a task by its name; numbers are written as the firm writes them, in every thread. */
export default async ({
	name,
	input,
	sign,
	task: number
}: {
	name: keyof Tasks;
	input: never;
	sign: DecimalSign;
	/** what it is called when it says what it is doing */
	task: number;
}): Promise<Answer<unknown>> => {
	useDecimalSign(sign);
	const encoder = new TextEncoder();
	const send = (sent: Sent) => parentPort?.postMessage(sent);
	const answer = await task<never, unknown>(work[name])(input, {
		said: (said) => send({ task: number, said }),
		// Handed over, not copied: a long text stands once.
		write: (text) => {
			const piece = encoder.encode(text);
			parentPort?.postMessage({ task: number, piece } satisfies Sent, [piece.buffer]);
		}
	});
	send({ task: number, done: true });
	return answer;
};
