import type { Db } from '../database/connect.ts';
import type { Chosen } from '../../core/allocation/cells.ts';
import { promised, unread } from '../../core/checks/catalogue.ts';
import { found } from '../../core/checks/check.ts';
import type { Evidence } from '../../core/ledger/evidence.ts';
import { isSome, less, parseQty, total } from '../../core/quantity/quantity.ts';
import { Positions } from '../../core/ranges/positions.ts';
import type { Cell, PickRow, SheetLine } from '../../core/sheet/sheet.ts';
import type { OrderLine } from '../document/orders.ts';
import { marksById, type OnHand } from '../marks/onhand.ts';
import type { DraftRow } from './drafts.ts';
import type { Move, Movement, SheetFinding } from './lines.ts';

/** The stock of a line's item. */
export const stockOf = (stock: readonly OnHand[], line: OrderLine) => stock.filter((s) => s.itemId === line.itemId);

/** What was picked by hand for a line; a quantity that cannot be read is kept and said. */
export const chosenFor = (line: OrderLine, drafts: readonly DraftRow[]): Chosen[] =>
	drafts
		.filter((d) => d.lineId === line.id && d.data.mark)
		.map((d) => {
			const typed = d.data.qty ?? '1';
			const q = typed === '0' ? { qty: '0' } : parseQty(typed, line.decimals, line.unit);
			const chosen = {
				id: d.id,
				version: d.version,
				unit: d.data.unit ?? null,
				mark: d.data.mark!,
				place: d.data.place ?? '',
				...(d.data.to ? { to: d.data.to } : {}),
				...(d.data.goes ? { goes: d.data.goes } : {}),
				...(d.data.found ? { found: d.data.found } : {}),
				...(d.data.confirmed ? { confirmed: d.data.confirmed } : {}),
				expiryTyped: d.data.expiresOn?.trim() ?? '',
				facts: d.data.facts ?? {},
				evidence: evidenceOfPick(d)
			};
			return 'qty' in q ? { ...chosen, qty: q.qty } : { ...chosen, qty: typed, problem: q.problem };
		});

const evidenceOfPick = ({ data }: DraftRow): Evidence =>
	Positions.read(data.scanned).has(0) ? 'scanned' : data.accepted ? 'accepted' : data.reported ? 'reported' : 'entered';

/** Names what was picked and stands nowhere any more, so that what is said of it says which. One statement, or none. */
export async function namePicks(
	sql: Db,
	lines: readonly SheetLine[],
	items: ReadonlyMap<string, OrderLine>
): Promise<void> {
	const nameless = lines.flatMap((l) =>
		l.cells.flatMap((c) => c.picks.filter((p) => p.number === '?').map((pick) => ({ pick, line: l })))
	);
	if (!nameless.length) return;
	const known = new Map(
		(
			await marksById(
				sql,
				nameless.map((n) => n.pick.mark)
			)
		).map((m) => [m.id, m])
	);
	for (const { pick, line } of nameless) {
		const mark = known.get(pick.mark);
		if (!mark || mark.itemId !== items.get(line.id)?.itemId) continue;
		const { kind, number, lot, expiresOn } = mark;
		Object.assign(pick, { kind, number, lot, expiresOn });
	}
}

/** What is wrong with picks before they are movements: a quantity that cannot be read; what others hold of it. */
export function pickFindings(line: SheetLine, chosen: readonly Chosen[], stock: readonly OnHand[]): SheetFinding[] {
	// What is suggested takes nothing that others hold.
	if (!chosen.length) return [];
	const problems = new Map(chosen.flatMap((c) => (c.problem ? [[c.id, c.problem]] : [])));
	const named = new Set(chosen.map((c) => c.mark));
	const there = new Map(stock.flatMap((s) => (named.has(s.mark) ? [[`${s.mark} ${s.place}`, s] as const] : [])));
	return line.cells.flatMap((c) =>
		c.picks.flatMap((p): SheetFinding[] => {
			if (!p.id) return [];
			const about = { kind: p.kind, number: p.number };
			const problem = problems.get(p.id);
			if (problem) return [{ line, of: p, found: found(unread, { problem }, { line: -1, about }) }];
			const s = there.get(`${p.mark} ${p.place}`);
			const over = s && less(s.qty, total([p.qty, s.promised ?? '0'])) && !less(s.qty, p.qty);
			return over
				? [
						{
							line,
							of: p,
							found: found(
								promised,
								{ qty: s.promised!, to: s.promisedTo ?? 'picked for another order' },
								{ line: -1, about, mark: p.mark }
							)
						}
					]
				: [];
		})
	);
}

/** May a pick be made a movement: is it a quantity, and is it known what is taken? */
export const canGo = (p: PickRow) => isSome(p.qty) && p.number !== '?';

/** What a pick takes, as a movement names it: by what it is, whatever is printed on it. */
export const pickedAs = (
	line: { item: string },
	p: PickRow
): Pick<Movement, 'item' | 'mark' | 'qty' | 'evidence' | 'expiresOn' | 'facts'> => {
	const taken: ReturnType<typeof pickedAs> = { item: line.item, mark: p.mark, qty: p.qty, evidence: p.evidence };
	if (p.kind === 'unmarked') return taken;
	if (p.expiryTyped) taken.expiresOn = p.expiryTyped;
	const facts = Object.entries(p.facts).filter(([, v]) => v);
	if (facts.length) taken.facts = Object.fromEntries(facts);
	return taken;
};

/** The picks of a line as movements to somewhere, each to its own place where that is asked. */
export const pickMoves = (
	line: SheetLine,
	to: string | ((p: PickRow) => string),
	more: (cell: Cell) => Partial<Movement> = () => ({})
): Move[] =>
	line.cells.flatMap((c) =>
		c.picks.filter(canGo).map((p) => ({
			movement: {
				...pickedAs(line, p),
				from: p.place,
				to: typeof to === 'string' ? to : to(p),
				orderLine: line.id,
				...more(c)
			},
			line,
			of: p
		}))
	);
