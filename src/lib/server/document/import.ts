import { grouped, typedNumber } from '../../core/quantity/sign.ts';
import Papa from 'papaparse';
import { DOCUMENT_NAMES, documentKind, type Kind } from '../../core/document/kinds.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { can } from '../../core/people/can.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { badText } from '../../core/text/text.ts';
import { transaction, type Sql } from '../database/connect.ts';
import { checkDocument, documentInput, insertDocuments, lookUp } from './create.ts';

/** What came of a file of orders. */
export interface ImportResult {
	rows: number;
	orders: { code: string; kind: Kind; lines: number }[];
	faults: Fault[];
	/** true when the orders were made */
	made: boolean;
}
const COLUMNS = ['order', 'kind', 'partner', 'job', 'place', 'to', 'due', 'item', 'qty', 'for', 'reason'];
const NEEDED = ['order', 'kind', 'item', 'qty'];
const MOST_ROWS = 20_000;

/** The rows of one order in the file. */
interface Group {
	rows: number[];
	given: {
		code: string;
		kind: string;
		partner: string;
		job: string;
		place: string;
		to: string;
		dueOn: string;
		reason: string;
		lines: { item: string; qty: string; for: string }[];
	};
}

/**
 * Reads orders from CSV with the headings order, kind, partner, job, place, to, due, item, qty, for; one row a line. All or
 * nothing.
 * @param dryRun true only checks
 * @returns what it holds, with each faulty row named by its number in the file
 */
export async function importOrders(
	sql: Sql,
	who: Pick<Actor, 'name' | 'role'>,
	csv: string,
	dryRun: boolean
): Promise<ImportResult> {
	const { groups, faults, rows } = readGroups(csv);
	const result: ImportResult = { rows, orders: [], faults, made: false };
	await transaction(sql, async (tx) => {
		const parsed = [...groups.values()].map((g) => ({ g, read: documentInput.safeParse(g.given) }));
		const known = await lookUp(
			tx,
			parsed.flatMap(({ read }) => (read.success ? [read.data] : []))
		);
		const ready = parsed.flatMap(({ g, read }) => {
			const checked = read.success ? checkDocument(read.data, known) : null;
			const found =
				checked?.faults ??
				(read.error?.issues ?? []).map((i): Fault => ({
					message:
						i.path[0] === 'kind'
							? `The kind is “${g.given.kind.slice(0, 20)}”. Use one of: ${DOCUMENT_NAMES.join(', ')}.`
							: i.message,
					at: i.path[0] === 'lines' ? `line ${Number(i.path[1] ?? 0) + 1}` : ''
				}));
			if (checked && !can(who.role, documentKind(checked.kind).create))
				found.push({
					message: `Your role (${who.role}) makes no ${documentKind(checked.kind).name}. Leave it out, or ask the coordinator.`,
					at: ''
				});
			for (const f of found) {
				const line = /^line (\d+)$/.exec(f.at ?? '');
				faults.push({ ...f, at: `row ${line ? g.rows[Number(line[1]) - 1] : g.rows[0]}` });
			}
			if (!checked || found.length) return [];
			result.orders.push({ code: g.given.code, kind: checked.kind, lines: g.given.lines.length });
			return [{ ...checked, code: g.given.code }];
		});
		if (dryRun) return;
		if (faults.length) throw new Problem(faults);
		await insertDocuments(tx, who.name, ready);
	});
	faults.sort((a, b) => Number(a.at?.slice(4)) - Number(b.at?.slice(4)));
	result.made = !dryRun;
	return result;
}

function readGroups(csv: string): { groups: Map<string, Group>; faults: Fault[]; rows: number } {
	const why = badText(csv);
	if (why) throw new Problem(`The file ${why.replace('Type it again', 'Save it anew, in UTF-8')}`);
	const { data, meta, errors } = Papa.parse<Record<string, string>>(csv.replace(/^\uFEFF/, ''), {
		header: true,
		skipEmptyLines: 'greedy',
		transformHeader: (h) => h.trim().toLowerCase()
	});
	const missing = NEEDED.filter((c) => !meta.fields?.includes(c));
	if (missing.length)
		throw new Problem([
			{
				message: `The file has no column ${missing.join(', ')}. Its first row needs the headings: ${COLUMNS.join(', ')}.`,
				at: 'row 1'
			}
		]);
	if (!data.length) throw new Problem([{ message: 'The file has headings and no rows.', at: 'row 2' }]);
	if (data.length > MOST_ROWS)
		throw new Problem(`The file has ${data.length} rows; ${grouped(MOST_ROWS)} go in at once. Split it.`);
	const faults: Fault[] = errors
		.filter((e) => e.type !== 'Delimiter')
		.map((e) => ({ message: `${e.message}. Correct the row.`, at: `row ${(e.row ?? 0) + 2}` }));
	const groups = new Map<string, Group>();
	data.forEach((r, i) => {
		const row = i + 2;
		const of = (column: string) => (typeof r[column] === 'string' ? r[column].trim() : '');
		const code = of('order');
		if (!code)
			return void faults.push({
				message: 'No order number. Type one; rows with the same number make one order.',
				at: `row ${row}`
			});
		const there = groups.get(code) ?? {
			rows: [],
			given: {
				code,
				kind: of('kind'),
				partner: of('partner'),
				job: of('job'),
				place: of('place'),
				to: of('to'),
				dueOn: of('due'),
				reason: of('reason'),
				lines: []
			}
		};
		const { given } = there;
		for (const [column, first] of [
			['kind', given.kind],
			['partner', given.partner],
			['job', given.job],
			['place', given.place],
			['to', given.to],
			['reason', given.reason],
			['due', given.dueOn]
		] as const)
			if (first !== of(column))
				faults.push({
					message: `Order ${code} has another ${column} here than in row ${there.rows[0]}. Make them the same.`,
					at: `row ${row}`
				});
		there.rows.push(row);
		given.lines.push({ item: of('item'), qty: typedNumber(of('qty'), undefined, '.'), for: of('for') });
		groups.set(code, there);
	});
	return { groups, faults, rows: data.length };
}
