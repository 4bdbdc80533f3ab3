import { grouped } from '../../core/quantity/sign.ts';
import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line, number } from '../../core/text/input.ts';
import {
	labelOf,
	SIZES,
	symbols,
	type Dpi,
	type Label,
	type LabelSize,
	type Subject,
	type SymbolKind
} from '../../core/labels/label.ts';
import { gs1Valid } from '../../core/codes/check.ts';
import { fitCode } from './draw.ts';
import { amount } from '../../core/quantity/quantity.ts';
import { parse } from '../parse.ts';

/** The most labels in one job. */
export const MOST_LABELS = 5000;
/** What to print, and how. */
export const jobInput = z.strictObject({
	/** what to print: some lots or serials, everything that an event brought, a place, or a pallet */
	marks: z.array(z.string().regex(/^\d+$/)).max(MOST_LABELS).optional(),
	event: z.string().regex(/^\d+$/).optional(),
	place: z.string().max(45).optional(),
	/** an announced pallet by its SSCC */
	pallet: z.string().trim().max(18).optional(),
	/** work cards of an order: of the order itself, and of some finished serials */
	card: z
		.strictObject({
			order: line(60),
			own: z.boolean().default(false),
			serials: z.array(number).max(MOST_LABELS)
		})
		.optional(),
	size: z.enum(Object.keys(SIZES) as [LabelSize, ...LabelSize[]]).default('70 × 35'),
	symbol: z.enum(symbols).default('GS1 DataMatrix'),
	dpi: z.coerce
		.number()
		.pipe(z.union([z.literal(203), z.literal(300), z.literal(600)]))
		.default(203),
	copies: z.coerce
		.number()
		.int()
		.min(1, 'Print at least one copy.')
		.max(100, 'At most 100 copies at a time.')
		.default(1)
});

/** A print job as the list shows it. */
export interface Job {
	id: string;
	title: string;
	symbol: SymbolKind;
	dpi: Dpi;
	/** in mm, wide × high */
	label: LabelSize;
	/** how many labels */
	size: number;
	printed: number;
	cancelled: boolean;
	reprintOf: string | null;
	by: string;
	at: string;
}
const columns = (
	sql: Db
) => sql`j.id, j.title, j.symbol, j.dpi, j.label_size AS label, j.size, j.printed, j.cancelled_at IS NOT NULL AS cancelled, j.reprint_of AS "reprintOf",
	coalesce(p.name, j.made_by) AS by, shown_time(j.made_at) AS at`;

/** The latest jobs, newest first. */
export const listJobs = (sql: Db) => sql<Job[]>`
	SELECT ${columns(sql)} FROM print_job j LEFT JOIN person p ON p.login = j.made_by ORDER BY j.id DESC LIMIT 50`;

/** Five thousand labels are as many as go into one job: each is drawn in hundredths of a second, so many in minutes, in ms. */
export const LABELS_LONGEST = 240_000;
/** The labels of a job as they were made, and how far it is printed; null when there is no such job. */
export async function jobLabels(
	sql: Db,
	id: string
): Promise<{ labels: Label[]; dpi: Dpi; label: LabelSize; printed: number } | null> {
	const [job] = await sql<
		{ labels: Label[]; dpi: Dpi; label: LabelSize; printed: number }[]
	>`SELECT labels, dpi, label_size AS label, printed FROM print_job WHERE id = ${id}`;
	return job ?? null;
}

async function subjects(sql: Db, input: z.output<typeof jobInput>): Promise<{ title: string; list: Subject[] }> {
	if (input.place) {
		const [place] = await sql<
			{ code: string; name: string }[]
		>`SELECT code, name FROM place WHERE code = ${input.place} AND NOT virtual`;
		if (!place) throw new Problem(`There is no place ${input.place}. Check the code.`);
		return {
			title: place.code,
			list: [
				{
					subject: `place ${place.code}`,
					kind: 'place',
					number: place.code,
					name: place.name,
					lot: null,
					item: null,
					gtin: null,
					expiresOn: null,
					qty: null
				}
			]
		};
	}
	if (input.card) return cardSubjects(sql, input.card);
	if (input.pallet) {
		if (!/^\d{18}$/.test(input.pallet) || !gs1Valid(input.pallet))
			throw new Problem([
				{
					message: `${input.pallet} is not an SSCC: it has 18 digits, and the last one is its check digit. Copy it from the notice.`,
					at: 'pallet'
				}
			]);
		const [there] = await sql<{ code: string; numbers: number }[]>`
			SELECT o.code, sum(r.count)::int AS numbers FROM notice_row r JOIN notice n ON n.id = r.notice_id JOIN orders o ON o.id = n.order_id WHERE r.pallet = ${input.pallet} GROUP BY o.code, n.id ORDER BY n.id DESC LIMIT 1`;
		if (!there)
			throw new Problem([
				{ message: `No pallet ${input.pallet} is announced. Take in the supplier’s notice first.`, at: 'pallet' }
			]);
		return {
			title: input.pallet,
			list: [
				{
					subject: `pallet ${input.pallet}`,
					kind: 'pallet',
					number: input.pallet,
					name: `Pallet for ${there.code}`,
					lot: null,
					item: null,
					gtin: null,
					expiresOn: null,
					qty: `${grouped(there.numbers)} announced`
				}
			]
		};
	}
	const rows = await sql<
		{
			theirs: string | null;
			id: string;
			kind: 'lot' | 'serial';
			number: string;
			lot: string | null;
			name: string;
			item: string;
			gtin: string | null;
			unit: string;
			expiresOn: string | null;
			qty: string | null;
			document: string | null;
		}[]
	>`
		SELECT k.id, k.kind, k.number, l.number AS lot, i.name, i.code AS item, i.gtin, i.unit, coalesce(k.expires_on, l.expires_on) AS "expiresOn",
			CASE WHEN i.supplier_number = 'printed' THEN concat_ws(', ', 'lot ' || coalesce(k.supplier_lot, l.supplier_lot), 'serial ' || k.supplier_serial) END AS theirs,
			CASE k.kind WHEN 'lot' THEN trim_scale(${input.event ? sql`n.qty` : sql`(SELECT sum(b.qty) FROM balance b WHERE b.mark_id = k.id AND NOT b.virtual)`})::text END AS qty,
			${input.event ? sql`(SELECT document FROM event WHERE id = ${input.event})` : sql`NULL`} AS document
		FROM ${
			input.event
				? sql`(SELECT m.mark_id AS id, sum(m.qty) AS qty, min(m.id) AS pos FROM movement m JOIN place t ON t.id = m.to_place AND NOT t.virtual WHERE m.event_id = ${input.event} GROUP BY m.mark_id) n`
				: sql`(SELECT x.id, x.pos FROM unnest(${input.marks ?? []}::bigint[]) WITH ORDINALITY x(id, pos)) n`
		} JOIN mark k ON k.id = n.id AND k.kind <> 'unmarked' JOIN item i ON i.id = k.item_id LEFT JOIN mark l ON l.id = k.parent_id
		ORDER BY n.pos LIMIT ${MOST_LABELS + 1}`;
	if (!rows.length) throw new Problem('There is nothing to print a label for: it brought no lot or serial.');
	return {
		title: rows.length === 1 ? rows[0].number : (rows[0].document ?? `${rows[0].number} and ${rows.length - 1} more`),
		list: rows.map(({ id, unit, qty, document: _d, ...r }) => ({
			...r,
			subject: `mark ${id}`,
			qty: qty && qty !== '0' ? amount(qty, unit) : null,
			theirs: r.theirs || null
		}))
	};
}

/** Work cards as labels: what each is for, and the code that a station reads. */
async function cardSubjects(
	sql: Db,
	{ order, own, serials }: { order: string; own: boolean; serials: readonly string[] }
): Promise<{ title: string; list: Subject[] }> {
	const [made] = await sql<
		{ code: string; no: number; name: string; item: string; gtin: string | null; qty: string; unit: string }[]
	>`
		SELECT o.code, l.no, i.name, i.code AS item, i.gtin, trim_scale(l.qty)::text AS qty, i.unit FROM orders o JOIN order_line l ON l.order_id = o.id AND l.role = 'output' JOIN item i ON i.id = l.item_id
		WHERE o.code = ${order} AND o.kind = 'production'`;
	if (!made) throw new Problem(`There is no production order ${order}. Look it up in the list.`, 404);
	const { code, no, name, item, gtin } = made;
	const subject = (serial: string | null): Subject => ({
		...{ subject: `card ${code}${serial ? ` ${serial}` : ''}`, kind: 'card', number: serial ?? code, name, item, gtin },
		...{
			lot: null,
			expiresOn: null,
			qty: serial ? null : amount(made.qty, made.unit),
			card: { order: code, line: no, serial }
		}
	});
	const list = [...(own ? [null] : []), ...serials].map(subject);
	if (!list.length) throw new Problem('Choose the cards to print.');
	return { title: `Cards ${code}`, list };
}

/**
 * Sends labels to the printer. What it cannot print now waits in its queue.
 * @returns the job's number and how much of it is printed
 */
export async function printLabels(sql: Sql, by: string, input: unknown): Promise<Job> {
	const given = parse(jobInput, input);
	const { title, list } = await subjects(sql, given);
	const labels = list.flatMap((s) => Array.from({ length: given.copies }, () => labelOf(s, given.symbol)));
	// The code with the most in it is the widest.
	const longest = labels.reduce((a, b) => (b.reads.length > a.reads.length ? b : a));
	if (!(await fitCode(longest, given.dpi, given.size)))
		throw new Problem([
			{
				message: `The ${given.symbol} of ${longest.number} does not fit on a label of ${given.size} mm. Take a larger label, or another code.`,
				at: 'size'
			}
		]);
	return queue(sql, by, { title, symbol: given.symbol, dpi: given.dpi, label: given.size, labels, reprintOf: null });
}

/** Prints a job once more, as a job of its own that names the first. */
export async function reprint(sql: Sql, by: string, id: string): Promise<Job> {
	const [job] = await sql<
		{ title: string; symbol: SymbolKind; dpi: Dpi; label: LabelSize; labels: Label[] }[]
	>`SELECT title, symbol, dpi, label_size AS label, labels FROM print_job WHERE id = ${id}`;
	if (!job) throw new Problem(`There is no print job ${id}. Reload the page.`, 404);
	return queue(sql, by, { ...job, reprintOf: id });
}

async function queue(
	sql: Sql,
	by: string,
	job: { title: string; symbol: SymbolKind; dpi: Dpi; label: LabelSize; labels: Label[]; reprintOf: string | null }
): Promise<Job> {
	if (job.labels.length > MOST_LABELS)
		throw new Problem(
			`${grouped(job.labels.length)} labels are too many for one job. Print at most ${grouped(MOST_LABELS)} at a time.`
		);
	const [{ id }] = await sql<
		{ id: string }[]
	>`INSERT INTO print_job (title, symbol, dpi, label_size, labels, size, reprint_of, made_by)
		VALUES (${job.title}, ${job.symbol}, ${job.dpi}, ${job.label}, ${JSON.stringify(job.labels)}::text::jsonb, ${job.labels.length}, ${job.reprintOf}, ${by}) RETURNING id`;
	await runPrinter(sql);
	const [made] = await sql<
		Job[]
	>`SELECT ${columns(sql)} FROM print_job j LEFT JOIN person p ON p.login = j.made_by WHERE j.id = ${id}`;
	return made;
}

/** The printer as it stands: whether it has paper. */
export interface Printer {
	online: boolean;
	paper: number;
}
/** How the printer stands. */
export const readPrinter = async (sql: Db): Promise<Printer> =>
	(await sql<Printer[]>`SELECT online, paper FROM printer`)[0];

/** Switches the printer on or off, or puts paper in; it goes on with what waits. */
export async function setPrinter(sql: Sql, change: Partial<Printer>): Promise<void> {
	await sql`UPDATE printer SET online = coalesce(${change.online ?? null}::boolean, online), paper = coalesce(${change.paper ?? null}::int, paper)`;
	await runPrinter(sql);
}
/** Takes what is not printed yet out of the queue. */
export async function cancelJob(sql: Sql, id: string): Promise<void> {
	const gone =
		await sql`UPDATE print_job SET cancelled_at = now() WHERE id = ${id} AND printed < size AND cancelled_at IS NULL`;
	if (!gone.count) throw new Problem('That job is printed or cancelled already. Reload the page.', 409);
}

/** The printer that stands in for a real one: takes jobs in their order while it is on and has paper; each label is counted. */
async function runPrinter(sql: Sql): Promise<void> {
	await transaction(sql, async (tx) => {
		const [printer] = await tx<Printer[]>`SELECT online, paper FROM printer FOR UPDATE`;
		if (!printer.online) return;
		for (;;) {
			const [job] = printer.paper
				? await tx<{ id: string; printed: number; size: number }[]>`
					SELECT id, printed, size FROM print_job WHERE printed < size AND cancelled_at IS NULL ORDER BY id LIMIT 1`
				: [];
			if (!job) break;
			const n = Math.min(printer.paper, job.size - job.printed);
			await tx`INSERT INTO label_print (job_id, position, subject)
				SELECT id, pos, labels -> (pos - 1) ->> 'subject' FROM print_job, generate_series(${job.printed + 1}::int, ${job.printed + n}::int) pos WHERE id = ${job.id}`;
			await tx`UPDATE print_job SET printed = printed + ${n} WHERE id = ${job.id}`;
			printer.paper -= n;
		}
		await tx`UPDATE printer SET paper = ${printer.paper}`;
	});
}

/** How often labels were printed for something, and when last. */
export async function printsOf(sql: Db, subject: string): Promise<{ count: number; last: string | null }> {
	const [row] = await sql<{ count: number; last: string | null }[]>`
		SELECT count(*)::int AS count, shown_time(max(printed_at)) AS last FROM label_print WHERE subject = ${subject}`;
	return row;
}

/** The labels printed last, each once. */
export const latestLabels = (sql: Db) => sql<{ reads: string; number: string }[]>`
	SELECT reads, number FROM (
		SELECT DISTINCT ON (l.label ->> 'reads') l.label ->> 'reads' AS reads, l.label ->> 'number' AS number, j.id, l.pos
		FROM (SELECT * FROM print_job WHERE printed > 0 ORDER BY id DESC LIMIT 8) j
		CROSS JOIN LATERAL jsonb_array_elements(j.labels) WITH ORDINALITY l(label, pos) WHERE l.pos <= least(j.printed, 10) ORDER BY 1, j.id DESC) x
	ORDER BY id DESC, pos LIMIT 20`;
