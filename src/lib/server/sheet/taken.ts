import { PLAIN, type Terms } from '../../core/allocation/allocate.ts';
import { fillCells, type Stock } from '../../core/allocation/cells.ts';
import { moreThanOrdered, stillOpen } from '../../core/checks/catalogue.ts';
import { add, amount, isSome, less, show, total } from '../../core/quantity/quantity.ts';
import { pickedIn } from '../../core/sheet/entered.ts';
import type { SheetLine } from '../../core/sheet/sheet.ts';
import type { Db } from '../database/connect.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import { termsFor, type Purpose } from '../marks/terms.ts';
import type { Built, BuildInput } from './build.ts';
import type { DraftRow } from './drafts.ts';
import { atLine, sheetLine, type SheetFinding } from './lines.ts';
import { chosenFor, namePicks, pickFindings, pickMoves, stockOf } from './picks.ts';

/** Whatever its state: held, expired and promised stock can be missing, broken or sent back like any other. */
export const ANY: Terms = { ...PLAIN, preference: 'by number', arrives: true };

/** All that stands at the site of a document, whoever it is promised to or picked for. What is in transit is given up on its transfer. */
export const allThere = async (sql: Db, order: Order): Promise<OnHand[]> =>
	(
		await onHand(
			sql,
			order.lines.map((l) => l.itemId),
			order.id,
			{ site: order.place?.split('/')[0] }
		)
	)
		.filter((s) => !s.transit)
		.map((s) => ({ ...s, staged: undefined, stagedFor: undefined }));

/** A line before anything is taken for it; one that a scan added asks for what was scanned. */
export function beginLine(l: OrderLine, drafts: readonly DraftRow[]): SheetLine {
	const line = sheetLine(l);
	if (!l.scanned) return line;
	const open = total(drafts.flatMap((d) => (d.lineId === l.id && isSome(d.data.qty ?? '') ? [d.data.qty!] : [])));
	return { ...line, qty: add(l.done, open), open };
}
/** Of lines that scans added those that something is entered or booked in. */
export const linesBegun = (lines: readonly OrderLine[], drafts: readonly DraftRow[]): OrderLine[] =>
	lines.filter((l) => !l.scanned || isSome(l.done) || drafts.some((d) => d.lineId === l.id));

/** Nothing is suggested. */
export const NONE = () => false;

/** How a document speaks of what it takes: "3 are issued, 2 are asked for", "issue less", "3 can be issued". */
export interface TakingWords {
	are: string;
	asked: string;
	less: string;
	can: string;
	/** what is said of so much that is not there or not named yet, where it is not “so much can go” */
	short?: (l: OrderLine, short: string) => string | null;
}

/**
 * Lines that take from stock all that is open of them: suggested, or chosen by hand; with what is too much or too little.
 * @param terms what is asked of an item, by its id
 * @param how `begin`: a line before anything is taken for it; `suggests`: what may be suggested, where that is not all
 */
export async function takenLines(
	sql: Db,
	{ order, drafts, today, policy, named }: Pick<BuildInput, 'order' | 'drafts' | 'today' | 'policy' | 'named'>,
	stock: readonly OnHand[],
	terms: (itemId: string) => Terms,
	words: TakingWords,
	{
		begin = (l) => beginLine(l, drafts),
		suggests
	}: { begin?: (l: OrderLine) => SheetLine; suggests?: (s: Stock) => boolean } = {}
): Promise<{ lines: SheetLine[]; said: SheetFinding[] }> {
	const said: SheetFinding[] = [];
	const lines = linesBegun(order.lines, drafts).map((l) => {
		const line = begin(l);
		const mine = stockOf(stock, l);
		const chosen = chosenFor(l, drafts);
		const { cells, leftOut } = fillCells([{ unit: null, need: line.open }], chosen, mine, today, {
			terms: terms(l.itemId),
			line: l.id,
			...(named ? { suggests: NONE } : suggests ? { suggests } : {})
		});
		Object.assign(line, { cells, leftOut, entered: pickedIn(cells) });
		said.push(...pickFindings(line, chosen, mine));
		const [{ short }] = cells;
		if (less(line.open, line.entered)) {
			const what = `${show(line.entered)} ${words.are}, ${show(line.open)} ${words.asked}`;
			said.push(atLine(line, moreThanOrdered, { what, out: words.less }, policy[moreThanOrdered.code]));
		} else if (short !== '0')
			said.push(
				atLine(line, stillOpen, {
					what:
						words.short?.(l, amount(short, l.unit)) ??
						`${amount(short, l.unit)} short: ${show(line.entered)} ${words.can}`
				})
			);
		return line;
	});
	await namePicks(sql, lines, new Map(order.lines.map((l) => [l.id, l])));
	return { lines, said };
}

/**
 * A document that takes what stands at its site, suggested or chosen, out of the shelves.
 * @param way what its event is called, where all of it goes, and for what it is taken
 */
export async function buildTaken(
	sql: Db,
	given: BuildInput,
	way: { kind: string; to: string; purpose: Purpose; words: TakingWords }
): Promise<Built> {
	const { order, drafts } = given;
	const site = order.place?.split('/')[0] ?? null;
	const ids = order.lines.map((l) => l.itemId);
	const [stock, terms] = await Promise.all([
		given.alone ?? given.stock.of(ids),
		termsFor(sql, ids, { place: site, customer: order.partner, purpose: way.purpose })
	]);
	const { lines, said } = await takenLines(sql, given, stock, terms, way.words);
	const moves = given.ahead ? [] : lines.flatMap((line) => pickMoves(line, way.to));
	return { lines, said, kind: way.kind, runs: [], moves, enough: moves.length > 0, used: drafts.map((d) => d.id) };
}
