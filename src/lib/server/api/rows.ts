import { documentKind, namesStock } from '../../core/document/kinds.ts';
import { virtualPlace } from '../../core/ledger/places.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import type { Mode } from '../../core/sheet/sheet.ts';
import { expand, MOST } from '../../core/ranges/ranges.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { factValues, id, line, number, quantity } from '../../core/text/input.ts';
import { GOES } from '../../core/document/kinds.ts';
import { z } from 'zod';
import { builders } from '../builders.ts';
import type { Db } from '../database/connect.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import { liesAt } from '../marks/called.ts';
import { marksNamed } from '../marks/named.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import { parse } from '../parse.ts';
import type { ScanSource } from '../sheet/build.ts';
import { rowData, type RowData } from '../sheet/drafts.ts';

/** A row of a sheet as programs give it. */
export const rowBody = z.strictObject({
	line: z.int('Give the number of the line.').min(1).max(10_000).describe('The number of the line.'),
	lot: number.optional(),
	serial: number.optional().describe('Of several: the first.'),
	count: z.int().min(1).optional().describe('How many serials from the first on.'),
	step: z.int().min(2).optional().describe('From one serial to the next; 1 where it is left out.'),
	qty: quantity.optional(),
	place: line(45).optional().describe('The bin that it goes to, or is taken from.'),
	picked: z.literal(true).optional().describe('Of what is taken: it was fetched, and this is the one.'),
	expiresOn: line(40).optional(),
	madeOn: line(40).optional(),
	supplierLot: line(60).optional(),
	supplierSerial: line(60).optional(),
	unitCost: line(20).optional().describe('What one costs, of what is put in; proposed from what is known without it.'),
	facts: factValues.optional(),
	unit: number.optional().describe('Of a part: the finished serial that it goes into.'),
	to: line(45).optional().describe('Of what is picked to wait: where it does. Of what came back: where it goes.'),
	goes: z.enum(GOES).optional().describe('Of what came back: what becomes of it.'),
	found: line(200).optional().describe('Of what came back: what was found when it was looked over.'),
	now: quantity.optional().describe('How much of the line goes now; it is a row of its own.'),
	mixing: z
		.enum(['apart', 'rest', 'all'])
		.optional()
		.describe('Of a repacking: what is done with packs that no single lot fills.'),
	loss: quantity.optional().describe('Of a repacking: content of a lot that is lost.'),
	lossOf: id.optional().describe('Id of the lot that it is lost of.')
});
type GivenRow = z.output<typeof rowBody>;
type Field = Exclude<keyof GivenRow, 'line'>;

/** What the row of a line may say: what it says beside that would be booked by nobody, so it is refused. */
function fieldsOf(order: Order, of: OrderLine): ReadonlySet<Field> {
	const kind = documentKind(order.kind);
	const repacks = kind.line.inputs === 'content';
	if (namesStock(order.kind, of.role))
		return new Set<Field>([
			...(['lot', 'serial', 'count', 'step', 'qty', 'place', 'picked', 'expiresOn', 'facts'] as const),
			...(kind.reasons?.includes('take back') ? (['to', 'goes', 'found'] as const) : []),
			...(of.role === 'component' && !repacks ? (['unit'] as const) : []),
			...(repacks ? (['mixing', 'loss', 'lossOf'] as const) : []),
			...(kind.sells && kind.lines === 'written' ? (['now', 'to'] as const) : [])
		]);
	if (repacks) return new Set<Field>(['lot', 'now']);
	return new Set<Field>([
		...(['lot', 'serial', 'count', 'step', 'qty', 'place', 'expiresOn', 'madeOn', 'facts'] as const),
		...(['supplierLot', 'supplierSerial', 'unitCost'] as const)
	]);
}

/** One number that a row names: its n-th row, and of a run one of its serials. */
interface Named {
	n: number;
	row: GivenRow;
	of: OrderLine;
	serial: string | null;
	lot: string | null;
}
/** Says nothing of a number: it sets how much goes now, or how a repacking is done. */
const setsOnly = (row: GivenRow) => row.now !== undefined || row.mixing !== undefined || row.loss !== undefined;

/**
 * Rows as a sheet keeps them. Of a line that takes what is there, each number is looked up with the place where it lies; a
 * run is each of its serials.
 * @param mode what is recorded: a transfer's rows name what leaves (use) or what arrives (output)
 * @throws Problem naming each row that says what is not there, or what its line does not take; nothing is kept then
 */
export async function rowsOf(
	sql: Db,
	order: Order,
	rows: readonly GivenRow[],
	mode: Mode = 'both'
): Promise<{ lineId: string; data: RowData }[]> {
	const faults: Fault[] = [];
	const fault = (n: number, message: string) => void faults.push({ message, at: `rows[${n}]`, code: 'unknown' });
	const lines = rows.map((r, n) => {
		const found = order.lines.find((l) => l.no === r.line);
		if (!found) fault(n, `${order.code} has no line ${r.line}. It has ${order.lines.length}.`);
		return found;
	});
	const kind = documentKind(order.kind);
	const pieces = order.lines.some((l) => l.role === 'output' && l.runMode === 'unit');
	const named: Named[] = [];
	for (const [n, row] of rows.entries()) {
		const of = lines[n];
		if (!of) continue;
		if (row.unitCost && !kind.costs) fault(n, `A ${kind.name} asks no cost. Leave unitCost out.`);
		const part = of.role === 'component';
		if (part && pieces && !row.unit)
			fault(n, 'Each piece is built of parts of its own. Say as unit the finished serial that this goes into.');
		if (row.unit && !(part && pieces)) fault(n, 'It goes into all that is made, or into none of it. Leave unit out.');
		const may = fieldsOf(order, of);
		const extra = Object.entries(row)
			.filter(([f, v]) => v !== undefined && f !== 'line' && !may.has(f as Field))
			.map(([f]) => f)
			.filter((f) => f !== 'unitCost' && f !== 'unit');
		if (extra.length)
			fault(
				n,
				extra.includes('qty') && may.has('now')
					? `How much of line ${of.no} is packed is said with now. Leave ${extra.join(', ')} out.`
					: `${extra.join(', ')} cannot be said of line ${of.no} of ${order.code}. Leave ${extra.length === 1 ? 'it' : 'them'} out.`
			);
		if (namesStock(order.kind, of.role) && !setsOnly(row)) named.push(...numbersOf(n, row, of, fault));
	}
	if (named.length > MOST) throw new Problem(`That is more than ${grouped(MOST)} numbers. Give them in parts.`);
	const taken = await find(sql, order, mode, named, fault);
	if (faults.length) throw new Problem(faults.slice(0, 200));
	const naming = new Set(named.map((w) => w.n));
	const data = (given: unknown): RowData => parse(rowData, given);
	return rows.flatMap((row, n) => {
		const { line: _line, lot, serial, count, step, unitCost: cost, picked, ...rest } = row;
		const lineId = lines[n]!.id;
		if (!naming.has(n))
			return [{ lineId, data: data({ ...rest, lot, serial, count, step, cost, reported: true as const }) }];
		const how = { reported: true as const, ...(picked ? { confirmed: true as const } : {}) };
		return named.flatMap((w) => (w.n === n ? [{ lineId, data: data({ ...rest, ...taken.get(w), ...how }) }] : []));
	});
}

/** The numbers of a row that takes what is there; none where it cannot be read. */
function numbersOf(n: number, row: GivenRow, of: OrderLine, fault: (n: number, message: string) => void): Named[] {
	const lot = row.lot ?? null;
	if (!row.serial) {
		if (row.count !== undefined || row.step !== undefined)
			return (fault(n, 'count says how many serials follow the first. Name that as serial.'), []);
		if (!row.qty)
			return (
				fault(
					n,
					lot ? `Say how much of lot ${lot} it is, as qty.` : `Name the lot or serial of ${of.item}, or how much of it.`
				),
				[]
			);
		return [{ n, row, of, lot, serial: null }];
	}
	if (row.qty !== undefined && row.qty !== '1')
		return (fault(n, `Serial ${row.serial} is one piece. Leave qty out, or say with count how many follow it.`), []);
	if (row.count !== undefined && row.count > MOST) return (fault(n, `A run holds 1 to ${grouped(MOST)} numbers.`), []);
	try {
		return expand(row.serial, row.count ?? 1, row.step).map((serial) => ({ n, row, of, lot, serial }));
	} catch (e) {
		return (fault(n, (e as Error).message), []);
	}
}

/** Looks up what is named, and from where it is taken. What is not there, or lies in several places, is a fault. */
async function find(
	sql: Db,
	order: Order,
	mode: Mode,
	named: readonly Named[],
	fault: (n: number, message: string) => void
): Promise<Map<Named, Pick<RowData, 'mark' | 'place' | 'to' | 'qty'>>> {
	const out = new Map<Named, Pick<RowData, 'mark' | 'place' | 'to' | 'qty'>>();
	if (!named.length) return out;
	const numbered = named.filter((w) => w.serial || w.lot);
	const found = await marksNamed(
		sql,
		numbered.map(({ of, lot, serial }) => ({ item: of.item, lot: serial ? null : lot, serial }))
	);
	const mark = new Map(numbered.map((w, i) => [w, found[i]]));
	const loose = named.filter((w) => !w.serial && !w.lot).map((w) => w.of.itemId);
	const unmarked = new Map(
		loose.length
			? (
					await sql<{ id: string; item: string }[]>`
						SELECT id, item_id AS item FROM mark WHERE kind = 'unmarked' AND item_id = ANY(${loose}::bigint[])`
				).map((m) => [m.item, m.id])
			: []
	);
	const marks = [...found.flatMap((m) => m ?? []), ...unmarked.values()];
	const takes = (await builders[order.kind].takes?.(sql, order, mode, { marks })) ?? null;
	const site = order.place?.split('/')[0] ?? null;
	const stock =
		takes?.stock ??
		(await onHand(
			sql,
			named.map((w) => w.of.itemId),
			order.id,
			{ site: documentKind(order.kind).siteOnly ? site : null, marks }
		));
	const there = new Map<string, OnHand[]>();
	for (const s of stock) {
		const list = there.get(s.mark);
		if (list) list.push(s);
		else there.set(s.mark, [s]);
	}
	for (const w of named) {
		const name = w.serial ? `serial ${w.serial}` : w.lot ? `lot ${w.lot}` : w.of.itemName;
		const Name = name[0].toUpperCase() + name.slice(1);
		const id = w.serial || w.lot ? mark.get(w) : unmarked.get(w.of.itemId);
		if (!id) {
			if (w.serial || w.lot) fault(w.n, `There is no ${name} of item ${w.of.item}. Check the number.`);
			else fault(w.n, `${w.of.item} carries numbers. Name its lot or serial.`);
			continue;
		}
		const rows = there.get(id) ?? [];
		if (!rows.length) {
			fault(w.n, await notThere(sql, order, takes, w, id, name));
			continue;
		}
		if (w.serial && w.lot && rows[0].lot !== w.lot) {
			fault(
				w.n,
				`${Name} is of ${rows[0].lot ? `lot ${rows[0].lot}` : 'no lot'}, not of lot ${w.lot}. Check the label.`
			);
			continue;
		}
		const from = placeOf(w, rows, site);
		if ('problem' in from) fault(w.n, `${Name} ${from.problem}`);
		else out.set(w, { mark: id, ...from, ...(w.serial ? { qty: '1' } : {}) });
	}
	return out;
}

/** The one place that a row takes from, as it says or as there is only one; the nearest to the order where that decides. */
function placeOf(
	{ row }: Named,
	rows: readonly OnHand[],
	site: string | null
): { place: string; to?: string } | { problem: string } {
	const places = [...new Set(rows.map((r) => r.place))];
	// What is with somebody lies in no bin of ours: the place is where it goes.
	if (places.every((p) => virtualPlace(p)))
		return { place: places[0], ...((row.to ?? row.place) ? { to: row.to ?? row.place } : {}) };
	if (row.place)
		return places.includes(row.place)
			? { place: row.place }
			: { problem: `is not at ${row.place}: it is at ${places.join(' and ')}. Say that place, or move it first.` };
	const near = places.filter((p) => site && `${p}/`.startsWith(`${site}/`));
	const choice = near.length ? near : places;
	return choice.length === 1
		? { place: choice[0] }
		: { problem: `lies at ${choice.join(' and ')}. Say from which place.` };
}

/** Why a number that there is cannot be taken for an order, with the way out. */
async function notThere(
	sql: Db,
	order: Order,
	takes: ScanSource | null,
	{ of, serial, lot }: Named,
	mark: string,
	name: string
): Promise<string> {
	const why = serial || lot ? await takes?.missing((serial ?? lot)!, [of]) : null;
	if (why) return why;
	const Name = name[0].toUpperCase() + name.slice(1);
	const at = await liesAt(sql, [mark]);
	if (!at) return `${Name} of ${of.item} is nowhere on hand. Take another.`;
	return at.transit
		? `${Name} is in transit. Receive its transfer first.`
		: `${Name} is at ${at.place}, and ${order.code} takes from ${order.place}. Take another, or move it first.`;
}
