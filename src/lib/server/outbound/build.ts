import { pickedIn } from '../../core/sheet/entered.ts';
import type { Db } from '../database/connect.ts';
import { PLAIN, type Terms } from '../../core/allocation/allocate.ts';
import { fillCells } from '../../core/allocation/cells.ts';
import { moreThanOrdered, stillOpen, tooFewSerials, tooManySerials } from '../../core/checks/catalogue.ts';
import type { Evidence } from '../../core/ledger/evidence.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import { add, amount, less, rest, show, sub, total } from '../../core/quantity/quantity.ts';
import type { Cell, PickRow, SheetLine } from '../../core/sheet/sheet.ts';
import type { OrderLine } from '../document/orders.ts';
import type { OnHand } from '../marks/onhand.ts';
import { termsFor } from '../marks/terms.ts';
import type { Builder, Built, BuildInput, Held } from '../sheet/build.ts';
import { atLine, sheetLine, type Move, type SheetFinding } from '../sheet/lines.ts';
import { quantityNow } from '../sheet/now.ts';
import { saleOf } from './sale.ts';
import { canGo, chosenFor, namePicks, pickedAs, pickFindings, pickMoves, stockOf } from '../sheet/picks.ts';
import { pickable, sideOf, stagingOf, takes, waiting as waitingOf, type Staging } from './staging.ts';
import { NONE, takenLines } from '../sheet/taken.ts';
import { knownAt, placeRows, readRows } from '../sheet/rows.ts';

/** A serial that a piece gets as it goes, with the row it stands in. */
interface LateSerial {
	serial: string;
	facts: Record<string, string>;
	evidence: Evidence;
	row: Move['of'];
}

/**
 * A shipment: suggested or chosen stock for each line, and the event that "Ship" would book. Where its site picks in an act
 * of its own, what is picked goes to where it waits first, and what waits is shipped.
 */
async function buildShipment(sql: Db, given: BuildInput): Promise<Built> {
	const { order } = given;
	const items = order.lines.map((l) => l.itemId);
	const reading = given.alone ?? given.stock.of(items);
	const [all, staging, terms] = await Promise.all([
		reading,
		stagingOf(sql, order, reading),
		// Of what is closed nothing goes any more.
		order.closedAt
			? () => PLAIN
			: termsFor(sql, items, { place: order.place, customer: order.partner, purpose: 'shipment' })
	]);
	const stock = held(all, given.held ?? []);
	const side = sideOf(order, staging, given.mode);
	const waits = new Set(staging.bins);
	const drafts = waits.size
		? given.drafts.filter((d) => !d.data.mark || waits.has(d.data.place ?? '') === (side === 'ships'))
		: given.drafts;
	const [at] = staging.bins;
	const of = { staging, stock, terms };
	const made = side === 'picks' ? await pick(sql, given, of) : await ship(sql, { ...given, drafts }, of);
	const built = { ...made, terms };
	if (given.alone) return built;
	const sale = await saleOf(sql, order, built.lines, (line) => waitingOf(staging, line));
	return {
		...built,
		shows: {
			sale,
			...(at ? { staging: { at, bins: staging.bins, side, waits: [...staging.waits.values()].flat().length } } : {})
		}
	};
}

/** Stock of which other sheets take some: that is not offered here. */
const held = (stock: readonly OnHand[], by: readonly Held[]): readonly OnHand[] => {
	if (!by.length) return stock;
	return stock.map((s) => {
		const taken = by.filter((h) => h.mark === s.mark && h.place === s.place);
		if (!taken.length) return s;
		const promised = total([s.promised ?? '0', ...taken.map((h) => h.qty)]);
		return { ...s, promised, promisedTo: `goes with ${taken.map((h) => h.for).join(', ')}` };
	});
};

/** What goes is taken from: what stands there, what of it waits, and what is asked of each item. */
interface From {
	staging: Staging;
	stock: readonly OnHand[];
	terms: (itemId: string) => Terms;
}

/** What is picked, to wait until it is shipped. */
async function pick(sql: Db, given: BuildInput, { staging, stock, terms }: From): Promise<Built> {
	const [at] = staging.bins;
	const waits = new Set(staging.bins);
	const drafts = given.drafts.filter((d) => d.data.mark && !waits.has(d.data.place ?? ''));
	// What waits is not picked again.
	const begin = (l: OrderLine): SheetLine => {
		const line = sheetLine(l);
		const waiting = waitingOf(staging, l.id);
		return { ...line, done: add(line.done, waiting), open: rest(line.open, waiting) };
	};
	const { lines, said } = await takenLines(sql, { ...given, drafts }, pickable(stock), terms, WORDS, { begin });
	const moves = given.ahead
		? []
		: lines.flatMap((line) => pickMoves(line, ({ to }) => (to && waits.has(to) ? to : at)));
	return {
		...{ lines, said, kind: 'move', runs: [], moves },
		enough: moves.length > 0,
		used: drafts.map((d) => d.id),
		next: { kind: 'shipment', to: '@customer' }
	};
}
const WORDS = { are: 'are picked', asked: 'are open', less: 'pick less', can: 'can be picked' };

async function ship(
	sql: Db,
	{ order, drafts, today, policy, ahead, named }: BuildInput,
	{ staging, stock, terms }: From
): Promise<Built> {
	// Serials that are given only now: to pieces that lie here with a lot, or with no number at all.
	const late = order.lines
		.filter((l) => l.tracking.includes('serial'))
		.map((l): OrderLine => ({ ...l, tracking: 'serial', expiry: 'not asked' }));
	const read = await readRows(sql, late, drafts, { today, arriving: false, place: order.place });
	const said: SheetFinding[] = [];
	const runs: NonNullable<EventInput['runs']> = [];
	const built = order.lines.map((l) => {
		const line = sheetLine(l);
		const need = quantityNow(line, l, drafts, said);
		const mine = staging.bins.length ? [...(staging.waits.get(l.id) ?? [])] : stockOf(stock, l);
		const chosen = chosenFor(l, drafts);
		const filled = fillCells([{ unit: null, need }], chosen, mine, today, {
			// What waits was chosen by whoever picked it.
			terms: { ...terms(l.itemId), chosen: staging.bins.length > 0 },
			line: l.id,
			picked: staging.bins.length > 0,
			// What waits was named when it was picked; who names some of it now means that alone.
			...(named && (!staging.bins.length || chosen.length) ? { suggests: NONE } : {})
		});
		line.cells = filled.cells;
		line.leftOut = filled.leftOut;
		line.entered = pickedIn(line.cells);
		said.push(...pickFindings(line, chosen, mine));
		if (less(line.open, line.entered) || less(line.open, need)) {
			const what = `${show(less(line.entered, need) ? need : line.entered)} go, ${show(line.open)} are ordered`;
			said.push(atLine(line, moreThanOrdered, { what, out: 'send less' }, policy[moreThanOrdered.code]));
		}
		const toNumber = total(unnumbered(l, line.cells).map((p) => p.qty));
		const serials: LateSerial[] = [];
		if (toNumber !== '0') {
			const keep = line.entered;
			const placed = placeRows(line, read);
			line.entered = keep;
			said.push(...placed.said);
			for (const [row, shown] of placed.shown)
				if (!row.faulty)
					serials.push(
						...row.serials.map((serial, i) => ({ serial, facts: row.facts, evidence: knownAt(row, i), row: shown }))
					);
			line.toNumber = toNumber;
			const have = String(serials.length);
			if (less(have, toNumber))
				said.push(
					atLine(line, tooFewSerials, { count: sub(toNumber, have) }, l.rule.serial === 'required' ? 'stop' : 'reason')
				);
			if (less(toNumber, have)) said.push(atLine(line, tooManySerials, { count: sub(have, toNumber) }));
		}
		const [{ short }] = line.cells;
		if (short !== '0')
			said.push(
				atLine(line, stillOpen, {
					what: `${amount(short, l.unit)} short: ${show(line.entered)} can go, the rest stays ordered`
				})
			);
		else if (less(line.entered, line.open))
			said.push(atLine(line, stillOpen, { what: `${show(line.entered)} of ${amount(line.open, l.unit)} go now` }));
		return { line, order: l, serials };
	});
	const lines = built.map((b) => b.line);
	await namePicks(sql, lines, new Map(order.lines.map((l) => [l.id, l])));
	const moves = ahead ? [] : built.flatMap((b) => shipMoves(order.code, b.line, b.order, b.serials, runs));
	return {
		...{ lines, said, kind: 'shipment', runs, moves },
		enough: moves.length > 0,
		used: drafts.map((d) => d.id),
		answered: staging.reasons
	};
}

/** Picks of pieces that have no serial yet, where the shipment asks for one. */
const unnumbered = (line: OrderLine, cells: readonly Cell[]): PickRow[] =>
	line.tracking.includes('serial')
		? cells.flatMap((c) => c.picks.filter((p) => p.kind !== 'serial' && /^[1-9]\d*$/.test(p.qty)))
		: [];

/** What goes of a line. What gets its number now goes through a run first: used without, made with; then it goes. */
function shipMoves(
	code: string,
	line: SheetLine,
	l: OrderLine,
	serials: LateSerial[],
	runs: NonNullable<EventInput['runs']>
): Move[] {
	const without = new Set(unnumbered(l, line.cells));
	if (!without.size) return pickMoves(line, '@customer');
	const waiting = [...serials];
	return line.cells.flatMap((c) =>
		c.picks.filter(canGo).flatMap((p): Move[] => {
			const taken = without.has(p) ? waiting.splice(0, Number(p.qty)) : [];
			const rest = taken.length ? sub(p.qty, String(taken.length)) : p.qty;
			const go = { from: p.place, to: '@customer', orderLine: line.id };
			const ship = rest === '0' ? [] : [{ movement: { ...pickedAs(line, { ...p, qty: rest }), ...go }, line, of: p }];
			if (!taken.length) return ship;
			const run = `${code}/numbered-${taken[0].serial}`;
			runs.push({ code: run });
			const piece = (g: LateSerial) => ({
				item: l.item,
				serial: g.serial,
				lot: p.kind === 'lot' ? p.number : null,
				qty: '1',
				evidence: g.evidence
			});
			const used: Move = {
				movement: {
					...pickedAs(line, { ...p, qty: String(taken.length) }),
					lot: p.kind === 'lot' ? p.number : null,
					from: p.place,
					to: '@process',
					run,
					role: 'use'
				},
				line,
				of: p
			};
			return [
				used,
				...taken.map((g): Move => ({
					movement: { ...piece(g), from: '@process', to: p.place, run, role: 'make' },
					line,
					of: g.row
				})),
				...taken.map((g): Move => ({ movement: { ...piece(g), facts: g.facts, ...go }, line, of: g.row })),
				...ship
			];
		})
	);
}

/** Orders to ship. */
export const shipments: Builder = {
	build: buildShipment,
	takes,
	async begun(sql, { id }) {
		const [{ n }] = await sql<{ n: number }[]>`SELECT count(*)::int AS n FROM order_staged WHERE order_id = ${id}`;
		return n
			? `${n} ${n === 1 ? 'number is' : 'numbers are'} picked and wait. Ship them, or put them back, first.`
			: null;
	}
};
