import Fraction from 'fraction.js';
import { pickedIn } from '../../core/sheet/entered.ts';
import type { Db } from '../database/connect.ts';
import { fillCells } from '../../core/allocation/cells.ts';
import {
	contentLacks,
	contentLeft,
	lossAbove,
	lossInParts,
	mixedNumber,
	moreThanOrdered,
	packOpened,
	packsMix,
	unread
} from '../../core/checks/catalogue.ts';
import { subjectOf } from '../../core/checks/check.ts';
import type { Facts } from '../../core/facts/fact.ts';
import type { Evidence } from '../../core/ledger/evidence.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import {
	amount,
	exact,
	isZero,
	least,
	less,
	parseQty,
	roundUp,
	show,
	sub,
	total
} from '../../core/quantity/quantity.ts';
import { planRepack, type Mixing, type Plan } from '../../core/repack/plan.ts';
import type { RepackLot, RepackPart, SheetLine } from '../../core/sheet/sheet.ts';
import type { OrderLine } from '../document/orders.ts';
import { onHand } from '../marks/onhand.ts';
import { termsFor } from '../marks/terms.ts';
import type { Built, BuildInput } from '../sheet/build.ts';
import type { DraftRow } from '../sheet/drafts.ts';
import { atLine, sheetLine, type Move, type Movement, type SheetFinding } from '../sheet/lines.ts';
import { quantityNow } from '../sheet/now.ts';
import { canGo, chosenFor, namePicks, pickedAs, pickFindings, stockOf } from '../sheet/picks.ts';
import { NONE } from '../sheet/taken.ts';

/** The finest part of a unit that a loss or an opened pack is written in. */
const FINEST = 6;

/** What comes out of a repacking, with how much of it now. */
interface Out {
	line: SheetLine;
	order: OrderLine;
	now: string;
	/** content of one base unit */
	each: string;
	/** the number of the new lot, where lots mix in it */
	lot: string;
	evidence: Evidence;
}
/** What is recorded of a lot or serial that goes in, for what is packed of it. */
interface Origin {
	id: string;
	lot: string | null;
	expiresOn: string | null;
	madeOn: string | null;
	supplierLot: string | null;
	facts: Facts;
}

/**
 * A repacking: lots of one item go in, packs of other items of the same content come out, each holding one lot where that
 * can be; what is lost is written as lost. Every lot's content adds up before it is booked.
 */
export async function buildRepack(sql: Db, given: BuildInput): Promise<Built> {
	const { order, drafts, today, policy } = given;
	const input = order.lines.find((l) => l.role === 'component')!;
	const outputs = order.lines.filter((l) => l.role === 'output');
	const holds = input.content?.qty ?? '1';
	const unit = input.content?.unit ?? '';
	const said: SheetFinding[] = [];
	const outs = outputs.map((l): Out => {
		const line = sheetLine(l);
		const now = quantityNow(line, l, drafts, said);
		line.entered = now;
		if (less(line.open, now)) {
			const what = `${show(now)} come out, ${show(line.open)} are asked for`;
			said.push(atLine(line, moreThanOrdered, { what, out: 'pack less' }, policy[moreThanOrdered.code]));
		}
		const row = drafts.find((d) => d.lineId === l.id && d.data.lot !== undefined);
		return {
			line,
			order: l,
			now,
			each: l.content?.qty ?? '1',
			lot: row?.data.lot?.trim() ?? '',
			evidence: row?.data.scanned ? 'scanned' : 'entered'
		};
	});
	const site = order.place?.split('/')[0] ?? null;
	const [all, termsOf] = await Promise.all([
		given.alone ?? onHand(sql, [input.itemId], order.id, { site }),
		termsFor(sql, [input.itemId], { place: site, customer: null, purpose: 'use' })
	]);
	const stock = stockOf(all, input);
	const terms = termsOf(input.itemId);
	const setting = drafts.find((d) => d.lineId === input.id && d.data.mixing);
	const mixing: Mixing = setting?.data.mixing ?? 'apart';

	const line = sheetLine(input);
	const typed = readLosses(line, drafts, unit, said);
	const content = total(outs.map((o) => exact(new Fraction(o.now).mul(o.each))));
	const chosen = chosenFor(input, drafts);
	const fill = (lost: readonly string[]) =>
		fillCells([{ unit: null, need: roundUp(total([content, ...lost]), holds, input.decimals) }], chosen, stock, today, {
			terms,
			line: input.id,
			...(given.named ? { suggests: NONE } : {})
		});
	// What is lost has to go in too; a loss of a lot that does not go in counts for nothing.
	const goesIn = new Set(fill([]).cells.flatMap((c) => c.picks.map((p) => p.mark)));
	const losses = new Map([...typed].filter(([mark]) => goesIn.has(mark)));
	const filled = fill([...losses.values()]);
	line.cells = filled.cells;
	line.leftOut = filled.leftOut;
	line.entered = pickedIn(line.cells);
	said.push(...pickFindings(line, chosen, stock));
	await namePicks(sql, [line], new Map([[input.id, input]]));
	const picks = line.cells.flatMap((c) => c.picks.filter(canGo));
	const marks = [...new Set(picks.map((p) => p.mark))];
	const origins = await originsOf(sql, marks);
	const inOf = (mark: string) => total(picks.filter((p) => p.mark === mark).map((p) => p.qty));
	const sources = marks.map((mark) => {
		const contained = exact(new Fraction(inOf(mark)).mul(holds));
		return { key: mark, content: contained, loss: least(losses.get(mark) ?? '0', contained) };
	});
	const plan = await planRepack(
		sources,
		outs.map((o) => ({ key: o.line.id, qty: o.now, each: o.each, decimals: o.order.decimals })),
		mixing
	);
	const nameOf = (mark: string) => picks.find((p) => p.mark === mark)!;
	const lots = plan.balance.map((b): RepackLot => {
		const pick = nameOf(b.source);
		const loss = drafts.find((d) => d.lineId === input.id && d.data.lossOf === b.source);
		return {
			mark: b.source,
			kind: pick.kind,
			number: pick.number,
			expiresOn: pick.expiresOn,
			in: b.content,
			packs: plan.filled
				.filter((f) => f.source === b.source)
				.map((f) => ({ line: outs.find((o) => o.line.id === f.packs)!.line.no, qty: f.qty })),
			mixed: plan.mixed?.from.find((f) => f.source === b.source)?.content ?? '0',
			loss: loss ? { id: loss.id, version: loss.version, qty: loss.data.loss ?? '' } : null,
			lost: b.loss,
			left: b.left
		};
	});
	said.push(...planFindings(plan, line, lots, outs, unit, input));
	const numberOf = `${order.code}.${(await bookedBefore(sql, order.id)) + 1}`;
	const { runs, moves, found } = repackMoves({
		input,
		line,
		holds,
		unit,
		plan,
		outs,
		picks,
		origins,
		code: numberOf,
		place: order.place!
	});
	said.push(...found);
	const lines = [line, ...outs.map((o) => o.line)].sort((a, b) => a.no - b.no);
	const repack: RepackPart = {
		unit,
		holds,
		mixing: { kind: mixing, id: setting?.id ?? null, version: setting?.version ?? 0 },
		lots,
		mixed: plan.mixed
			? plan.mixed.packs.map((p) => {
					const out = outs.find((o) => o.line.id === p.key)!;
					const row = drafts.find((d) => d.lineId === out.line.id && d.data.lot !== undefined);
					return { line: out.line.no, qty: p.qty, lot: out.lot, id: row?.id ?? null, version: row?.version ?? 0 };
				})
			: [],
		each: outs.map((o) => ({ line: o.line.no, holds: o.each }))
	};
	return {
		lines,
		shows: { repack },
		said,
		kind: 'repack',
		runs,
		moves,
		enough: moves.length > 0,
		used: drafts.map((d) => d.id)
	};
}

/** Losses as typed, in content, by the lot or serial that they are of. */
function readLosses(
	line: SheetLine,
	drafts: readonly DraftRow[],
	unit: string,
	said: SheetFinding[]
): Map<string, string> {
	const out = new Map<string, string>();
	for (const { lineId, data } of drafts) {
		if (lineId !== line.id || !data.lossOf || !data.loss?.trim() || /^0+$/.test(data.loss.trim())) continue;
		const q = parseQty(data.loss, FINEST, unit);
		if ('qty' in q) out.set(data.lossOf, q.qty);
		else said.push(atLine(line, unread, { problem: `Loss: ${q.problem}` }));
	}
	return out;
}

/** What stands between a plan and its booking: content in nothing, packs that nothing fills, more loss than usual. */
function planFindings(
	plan: Plan,
	line: SheetLine,
	lots: readonly RepackLot[],
	outs: readonly Out[],
	unit: string,
	input: OrderLine
): SheetFinding[] {
	const said: SheetFinding[] = [];
	if (plan.lacking !== '0') said.push(atLine(line, contentLacks, { lacks: `${show(plan.lacking)} ${unit}` }));
	else
		for (const { key, qty } of plan.unfilled) {
			const out = outs.find((o) => o.line.id === key)!;
			said.push(
				atLine(out.line, packsMix, { packs: amount(qty, out.order.unit), name: out.order.itemName, one: qty === '1' })
			);
		}
	for (const l of lots) {
		const name = l.kind === 'unmarked' ? line.itemName : subjectOf([l]).text;
		if (!isZero(l.left) && plan.lacking === '0' && !plan.unfilled.length)
			said.push(atLine(line, contentLeft, { name, left: `${show(l.left)} ${unit}` }));
		const most = new Fraction(l.in).mul(input.lossTolerance).div(100);
		if (new Fraction(l.lost).compare(most) > 0)
			said.push(
				atLine(line, lossAbove, {
					name,
					lost: `${show(l.lost)} ${unit}`,
					share: share(l.lost, l.in),
					most: input.lossTolerance
				})
			);
	}
	for (const { key } of plan.mixed?.packs ?? []) {
		const out = outs.find((o) => o.line.id === key)!;
		if (out.order.carries.includes('lot') && !out.lot)
			said.push(atLine(out.line, mixedNumber, { name: out.order.itemName }));
	}
	return said;
}
const share = (part: string, whole: string) => show(exact(new Fraction(part).div(whole).mul(100).round(2)));

/** How often something was booked on an order: each time makes runs of its own. */
async function bookedBefore(sql: Db, orderId: string): Promise<number> {
	const [{ n }] = await sql<
		{ n: number }[]
	>`SELECT count(*)::int AS n FROM event WHERE order_id = ${orderId} AND kind = 'repack'`;
	return n;
}

const originsOf = async (sql: Db, marks: readonly string[]): Promise<Map<string, Origin>> => {
	const rows = marks.length
		? await sql<Origin[]>`
			SELECT n.id, CASE WHEN k.kind = 'lot' THEN k.lot_no ELSE p.lot_no END AS lot, n.expires_on AS "expiresOn", coalesce(k.made_on, p.made_on) AS "madeOn",
				coalesce(k.supplier_lot, p.supplier_lot) AS "supplierLot", CASE WHEN k.kind = 'lot' THEN k.facts ELSE coalesce(p.facts, '{}') END AS facts
			FROM mark_now n JOIN mark k ON k.id = n.id LEFT JOIN mark p ON p.id = n.parent_id WHERE n.id = ANY(${[...marks]}::bigint[])`
		: [];
	return new Map(rows.map((r) => [r.id, r]));
};

interface Making {
	input: OrderLine;
	line: SheetLine;
	holds: string;
	unit: string;
	plan: Plan;
	outs: readonly Out[];
	picks: readonly SheetLine['cells'][number]['picks'][number][];
	origins: ReadonlyMap<string, Origin>;
	code: string;
	place: string;
}
/**
 * The movements of a plan: a run for each lot that is kept apart, one for what mixes. A lot's number, dates and details
 * go along with its content.
 */
function repackMoves(m: Making): { runs: NonNullable<EventInput['runs']>; moves: Move[]; found: SheetFinding[] } {
	const { input, line, holds, unit, plan, outs, picks, origins, code, place } = m;
	const found: SheetFinding[] = [];
	const runs: NonNullable<EventInput['runs']> = [];
	const uses: Move[] = [];
	const makes: Move[] = [];
	const codes = new Set<string>();
	const declare = (name: string) => {
		let run = `${code}/${name}`;
		for (let n = 2; codes.has(run); n++) run = `${code}/${name}-${n}`;
		codes.add(run);
		runs.push({ code: run, closed: true });
		return run;
	};
	const mixed = plan.mixed ? declare('mixed') : null;
	const make = (run: string, out: Out, qty: string, more: Partial<Movement>): void =>
		void makes.push({
			movement: {
				item: out.order.item,
				qty,
				from: '@process',
				to: place,
				run,
				role: 'make',
				orderLine: out.line.id,
				...more
			},
			line: out.line,
			of: out.line
		});
	for (const balance of plan.balance) {
		const mine = picks.filter((p) => p.mark === balance.source);
		const [{ kind, number }] = mine;
		const mixes = plan.mixed?.from.find((f) => f.source === balance.source)?.content ?? '0';
		const filled = plan.filled.filter((f) => f.source === balance.source);
		const apart = filled.length > 0 || isZero(mixes);
		const run = apart ? declare(number) : mixed!;
		// What mixes goes into another run than the rest of its lot: that part is taken off its last picks.
		let open = new Fraction(apart && !isZero(mixes) ? mixes : 0).div(holds);
		if (!found.length && (!ends(open) || (open.n !== 0n && kind === 'serial')))
			found.push(
				atLine(line, packOpened, { name: number, part: `${show(mixes)} ${unit}`, pack: `${show(holds)} ${unit}` })
			);
		const toMix: Move[] = [];
		for (const p of [...mine].reverse()) {
			const take = open.compare(p.qty) < 0 ? open : new Fraction(p.qty);
			open = open.sub(take);
			const [mix, rest] = [exact(take), sub(p.qty, exact(take))];
			const go = (qty: string, into: string): Move => ({
				movement: {
					...pickedAs(line, { ...p, qty }),
					from: p.place,
					to: '@process',
					run: into,
					role: 'use',
					orderLine: line.id
				},
				line,
				of: p
			});
			if (mix !== '0') toMix.unshift(go(mix, mixed!));
			if (rest !== '0') uses.unshift(go(rest, run));
		}
		uses.push(...toMix);
		const origin = origins.get(balance.source);
		const carried = origin ? carry(origin, kind === 'serial' && !origin.lot ? number : origin.lot) : {};
		for (const f of filled) {
			const out = outs.find((o) => o.line.id === f.packs)!;
			make(run, out, f.qty, kind !== 'unmarked' && out.order.carries.includes('lot') ? carried : {});
		}
		if (!isZero(balance.loss)) {
			const lost = lossIn(
				balance.loss,
				{ input, holds, kind, mark: balance.source },
				filled.length ? outs : [],
				carried
			);
			if (lost)
				makes.push({ movement: { ...lost, from: '@process', to: '@scrap', run, role: 'make' }, line, of: line });
			else
				found.push(
					atLine(line, lossInParts, {
						name: number,
						lost: `${show(balance.loss)} ${unit}`,
						pack: `${show(holds)} ${unit}`
					})
				);
		}
	}
	if (mixed && plan.mixed) {
		const dates = plan.mixed.from.flatMap((f) => origins.get(f.source)?.expiresOn ?? []).sort();
		for (const { key, qty } of plan.mixed.packs) {
			const out = outs.find((o) => o.line.id === key)!;
			const carries = out.order.carries.includes('lot');
			const lot = carries && out.lot;
			// What needs a number and has none is said of its line.
			if (lot || !carries)
				make(mixed, out, qty, lot ? { lot, evidence: out.evidence, ...(dates[0] ? { expiresOn: dates[0] } : {}) } : {});
		}
	}
	return { runs, moves: [...uses, ...makes], found };
}
/** Can it be written in the finest part? */
const ends = (f: Fraction) => f.mul(10 ** FINEST).equals(f.mul(10 ** FINEST).floor());
/** What belongs to the content, and stays with it in another pack. */
const carry = (o: Origin, lot: string | null): Partial<Movement> => ({
	lot,
	...(o.expiresOn ? { expiresOn: o.expiresOn } : {}),
	...(o.madeOn ? { madeOn: o.madeOn } : {}),
	...(o.supplierLot ? { supplierLot: o.supplierLot } : {}),
	...(Object.keys(o.facts).length ? { facts: o.facts } : {})
});

/** A loss as a movement names it: in what went in, or where that cannot be written, in what came out of the same lot. */
function lossIn(
	loss: string,
	from: { input: OrderLine; holds: string; kind: string; mark: string },
	outs: readonly Out[],
	carried: Partial<Movement>
): (Pick<Movement, 'item' | 'qty'> & Partial<Movement>) | null {
	const parts = (each: string) => new Fraction(loss).div(each);
	if (from.kind !== 'serial' && ends(parts(from.holds)))
		return { item: from.input.item, mark: from.mark, qty: exact(parts(from.holds)) };
	const out = outs.find((o) => ends(parts(o.each)) && o.order.carries.includes('lot') === (from.kind !== 'unmarked'));
	return out
		? { item: out.order.item, qty: exact(parts(out.each)), ...(from.kind === 'unmarked' ? {} : carried) }
		: null;
}
