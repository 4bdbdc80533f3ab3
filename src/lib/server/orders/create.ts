import Papa from 'papaparse';
import { z } from 'zod';
import type { Db, Sql } from '../database/connect.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { parseQty } from '../../core/quantity/quantity.ts';
import { parseDay, type Day } from '../../core/dates/dates.ts';
import { mul } from '../../core/quantity/quantity.ts';
import { parse } from '../people/people.ts';
import { drawAtRelease } from '../numbering/released.ts';
import type { OrderKind } from './orders.ts';

const code = z.string().trim().min(1, 'Type an order number.').max(60, 'An order number has at most 60 characters.')
	.regex(/^[^\s/?#%\p{Cc}]+$/u, 'An order number has no blanks and none of / ? # %.'); // prettier-ignore
export const orderInput = z.object({
	code: code.nullish(),
	kind: z.enum(['purchase', 'production', 'sale']),
	partner: z.string().trim().max(60).nullish(),
	place: z.string().trim().max(45).nullish(),
	dueOn: z.string().trim().max(40).nullish(),
	note: z.string().trim().max(1000, 'A note has at most 1,000 characters.').nullish(),
	lines: z.array(z.object({ item: z.string().trim().min(1, 'Name the item.').max(60, 'An item’s code has at most 60 characters.'), qty: z.string().max(40, 'A quantity has at most 40 characters.') })).min(1, 'An order needs at least one line.').max(500) // prettier-ignore
});
export type OrderInput = z.input<typeof orderInput>;
const prefix = { purchase: 'PO', production: 'MO', sale: 'SO' } as const;

/**
 * Makes an order. A production order's one line is what is made; its parts list becomes the component lines.
 * @returns its code
 * @throws Problem naming each faulty field
 */
export async function createOrder(sql: Sql, by: string, input: OrderInput): Promise<string> {
	const order = parse(orderInput, input);
	return sql.begin(async (raw) => {
		const tx = raw as unknown as Db;
		const { faults, dueOn, lines } = await checkOrder(tx, order);
		if (faults.length) throw new Problem(faults);
		const number = order.code || (await nextCode(tx, order.kind));
		await insertOrder(tx, by, { ...order, code: number, dueOn, lines });
		return number;
	}) as Promise<string>;
}

async function nextCode(tx: Db, kind: OrderKind): Promise<string> {
	for (;;) {
		const [{ n }] = await tx<{ n: string }[]>`SELECT nextval('order_number') AS n`;
		const candidate = `${prefix[kind]}-${n.padStart(4, '0')}`;
		const [taken] = await tx`SELECT 1 FROM orders WHERE code = ${candidate}`;
		if (!taken) return candidate;
	}
}

interface Checked {
	faults: Fault[];
	dueOn: Day | null;
	lines: { itemId: string; qty: string }[];
}
async function checkOrder(tx: Db, order: z.output<typeof orderInput>): Promise<Checked> {
	const faults: Fault[] = [];
	const items = new Map(
		(await tx<{ id: string; code: string; unit: string; decimals: number; parts: number }[]>`
			SELECT id, code, unit, decimals, (SELECT count(*)::int FROM part p WHERE p.item_id = i.id) AS parts FROM item i
			WHERE code = ANY(${order.lines.map((l) => l.item)})`).map((i) => [i.code, i]) // prettier-ignore
	);
	const lines = order.lines.flatMap((l, n) => {
		const at = `line ${n + 1}`;
		const item = items.get(l.item);
		if (!item) {
			faults.push({ message: `There is no item ${l.item}. Add it in Setup, or correct the code.`, at });
			return [];
		}
		const q = parseQty(l.qty, item.decimals, item.unit);
		if ('problem' in q) {
			faults.push({ message: `${l.item}: ${q.problem}`, at });
			return [];
		}
		if (order.kind === 'production' && !item.parts)
			faults.push({ message: `${l.item} has no parts list. Add one in Setup before it is made.`, at });
		return [{ itemId: item.id, qty: q.qty }];
	});
	if (order.kind === 'production' && order.lines.length > 1)
		faults.push({ message: 'A production order makes one item. Make an order for each.', at: 'line 2' });
	let dueOn: Day | null = null;
	if (order.dueOn) {
		const d = parseDay(order.dueOn);
		if ('day' in d) dueOn = d.day;
		else faults.push({ message: d.problem, at: 'dueOn' });
	}
	if (order.code && (await tx`SELECT 1 FROM orders WHERE code = ${order.code}`).length)
		faults.push({ message: `Order ${order.code} is there already. Open it, or take another number.`, at: 'code' });
	if (order.partner) {
		if (!(await tx`SELECT 1 FROM partner WHERE code = ${order.partner}`).length)
			faults.push({
				message: `There is no partner ${order.partner}. Add it in Setup, or correct the code.`,
				at: 'partner'
			});
	} else if (order.kind !== 'production')
		faults.push({ message: `Choose the ${order.kind === 'sale' ? 'customer' : 'supplier'}.`, at: 'partner' });
	if (order.place) {
		if (!(await tx`SELECT 1 FROM place WHERE code = ${order.place} AND NOT virtual`).length)
			faults.push({ message: `There is no place ${order.place}. Add it in Setup, or correct the code.`, at: 'place' });
	} else if (order.kind !== 'sale') faults.push({ message: 'Choose the place where it arrives.', at: 'place' });
	return { faults, dueOn, lines };
}

async function insertOrder(
	tx: Db,
	by: string,
	o: { code: string; kind: OrderKind; partner?: string | null; place?: string | null; note?: string | null } & Omit<
		Checked,
		'faults'
	>
) {
	const [{ id }] = await tx<{ id: string }[]>`
		INSERT INTO orders (code, kind, partner_id, place_id, due_on, note, created_by)
		VALUES (${o.code}, ${o.kind}, (SELECT id FROM partner WHERE code = ${o.partner ?? null}), (SELECT id FROM place WHERE code = ${o.place ?? null}),
			${o.dueOn}, ${o.note ?? ''}, ${by}) RETURNING id`;
	const lines = o.lines.map((l, i) => ({ ...l, no: i + 1, role: o.kind === 'production' ? 'output' : 'goods' }));
	if (o.kind === 'production')
		for (const p of await tx<{ id: string; qty: string }[]>`
			SELECT part_item_id AS id, qty FROM part p JOIN item i ON i.id = p.part_item_id WHERE p.item_id = ${lines[0].itemId} ORDER BY i.code`)
			lines.push({ itemId: p.id, qty: mul(p.qty, lines[0].qty), no: lines.length + 1, role: 'component' });
	await tx`INSERT INTO order_line (order_id, no, role, item_id, qty)
		SELECT ${id}::bigint, * FROM unnest(${lines.map((l) => l.no)}::int[], ${lines.map((l) => l.role)}::text[],
			${lines.map((l) => l.itemId)}::bigint[], ${lines.map((l) => l.qty)}::numeric[])`;
	await drawAtRelease(tx, by, { id, place: o.place ?? null });
}

export interface ImportResult {
	rows: number;
	orders: { code: string; kind: string; lines: number }[];
	faults: Fault[];
	/** true when the orders were made */
	made: boolean;
}
const columns = ['order', 'kind', 'partner', 'place', 'due', 'item', 'qty'];

/**
 * Reads orders from CSV with the headings order, kind, partner, place, due, item, qty; one row a line. All or nothing.
 * @param dryRun true only checks
 * @returns what it holds, with each faulty row named by its number in the file
 */
export async function importOrders(sql: Sql, by: string, csv: string, dryRun: boolean): Promise<ImportResult> {
	const { data, meta, errors } = Papa.parse<Record<string, string>>(csv.replace(/^\uFEFF/, ''), {
		header: true,
		skipEmptyLines: 'greedy',
		transformHeader: (h) => h.trim().toLowerCase()
	});
	const missing = columns.filter((c) => !meta.fields?.includes(c) && !['place', 'due', 'partner'].includes(c));
	if (missing.length)
		throw new Problem([{ message: `The file has no column ${missing.join(', ')}. Its first row needs the headings: ${columns.join(', ')}.`, at: 'row 1' }]); // prettier-ignore
	if (!data.length) throw new Problem([{ message: 'The file has headings and no rows.', at: 'row 2' }]);
	if (data.length > 20_000) throw new Problem(`The file has ${data.length} rows; 20,000 go in at once. Split it.`);
	const faults: Fault[] = errors.filter((e) => e.type !== 'Delimiter').map((e) => ({ message: `${e.message}. Mend the row.`, at: `row ${(e.row ?? 0) + 2}` })); // prettier-ignore
	const orders = new Map<string, { rows: number[]; input: OrderInput }>();
	data.forEach((r, i) => {
		const row = i + 2;
		const key = r.order?.trim();
		if (!key) return void faults.push({ message: 'No order number. Type one; rows with the same number make one order.', at: `row ${row}` }); // prettier-ignore
		const there = orders.get(key) ?? {
			rows: [],
			input: {
				code: key,
				kind: r.kind?.trim() as OrderKind,
				partner: r.partner,
				place: r.place,
				dueOn: r.due,
				lines: []
			}
		};
		const head = there.input;
		for (const [name, a, b] of [
			['kind', head.kind, r.kind],
			['partner', head.partner, r.partner],
			['due', head.dueOn, r.due]
		] as const)
			// prettier-ignore
			if ((a ?? '').trim() !== (b ?? '').trim())
				faults.push({ message: `Order ${key} has another ${name} here than in row ${there.rows[0]}. Make them the same.`, at: `row ${row}` });
		there.rows.push(row);
		head.lines.push({ item: r.item?.trim() ?? '', qty: r.qty ?? '' });
		orders.set(key, there);
	});
	const result: ImportResult = { rows: data.length, orders: [], faults, made: false };
	await sql.begin(async (raw) => {
		const tx = raw as unknown as Db;
		for (const { rows, input } of orders.values()) {
			const parsed = orderInput.safeParse(input);
			const found: Fault[] = parsed.success
				? []
				: parsed.error.issues.map((i) => ({
						message:
							i.path[0] === 'kind'
								? `The kind is “${String(input.kind).slice(0, 20)}”. Use purchase, production or sale.`
								: i.message,
						at: i.path[0] === 'lines' ? `line ${Number(i.path[1] ?? 0) + 1}` : ''
					}));
			if (parsed.success) {
				const checked = await checkOrder(tx, parsed.data);
				found.push(...checked.faults);
				if (!found.length) {
					result.orders.push({ code: input.code!, kind: input.kind, lines: input.lines.length });
					if (!dryRun && !faults.length)
						await insertOrder(tx, by, {
							...parsed.data,
							code: input.code!,
							dueOn: checked.dueOn,
							lines: checked.lines
						});
				}
			}
			for (const f of found) {
				const line = /^line (\d+)$/.exec(f.at ?? '');
				faults.push({ message: f.message, at: `row ${line ? rows[Number(line[1]) - 1] : rows[0]}` });
			}
		}
		if (faults.length && !dryRun) throw new Problem(faults);
	});
	faults.sort((a, b) => Number(a.at?.slice(4)) - Number(b.at?.slice(4)));
	result.made = !dryRun;
	return result;
}
