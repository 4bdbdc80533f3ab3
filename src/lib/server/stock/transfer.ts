import { pickedIn } from '../../core/sheet/entered.ts';
import type { Db } from '../database/connect.ts';
import { fillCells } from '../../core/allocation/cells.ts';
import { PLAIN } from '../../core/allocation/allocate.ts';
import { moreThanSent, stillOpen } from '../../core/checks/catalogue.ts';
import { found } from '../../core/checks/check.ts';
import { group } from '../../core/group/group.ts';
import { amount, less, rest, show, sub, total } from '../../core/quantity/quantity.ts';
import type { Mode, PickRow, SheetLine } from '../../core/sheet/sheet.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import { termsFor } from '../marks/terms.ts';
import type { Builder, Built, BuildInput } from '../sheet/build.ts';
import { atLine, sheetLine, type SheetFinding } from '../sheet/lines.ts';
import { canGo, chosenFor, namePicks, pickFindings, pickMoves } from '../sheet/picks.ts';
import { NONE, takenLines } from '../sheet/taken.ts';

/** What of a transfer is in transit: by the line, all that stands there for it. */
type OnTheWay = ReadonlyMap<string, readonly OnHand[]>;

/** The place where things stand between sites. */
export async function transitPlace(sql: Db): Promise<string> {
	const [{ code }] = await sql<{ code: string }[]>`SELECT code FROM place WHERE transit`;
	return code;
}

/** What has left with a transfer and has neither arrived nor come back: two statements, whatever the count. */
async function onTheWay(sql: Db, order: Order, place: string): Promise<OnTheWay> {
	const [rows, there] = await Promise.all([
		sql<{ line: string; mark: string; qty: string }[]>`
			SELECT order_line_id AS line, mark_id AS mark, trim_scale(qty)::text AS qty FROM order_transit WHERE order_id = ${order.id}`,
		onHand(
			sql,
			order.lines.map((l) => l.itemId),
			order.id,
			{ site: place }
		)
	]);
	const known = new Map(there.map((s) => [s.mark, s]));
	const found = rows.flatMap(({ line, mark, qty }) => {
		const s = known.get(mark);
		// What it is arrives with it; nobody else takes from there.
		return s ? [{ line, row: { ...s, qty, promised: '0', promisedTo: null, own: undefined } }] : [];
	});
	return new Map([...group(found, (f) => f.line)].map(([line, list]) => [line, list.map((f) => f.row)]));
}

/** What is recorded now: what leaves (use), or what arrives (output); where nobody says, whatever is next. */
function sideOf(order: Order, way: OnTheWay, mode: Mode): 'leaves' | 'arrives' {
	if (mode !== 'both') return mode === 'use' ? 'leaves' : 'arrives';
	return way.size && order.lines.every((l) => !less(l.done, l.qty)) ? 'arrives' : 'leaves';
}
const siteOf = (place: string) => place.split('/')[0];

/** Stock that could leave for a transfer: what is not where it goes to already, and not on its way. */
const leaving = async (sql: Db, order: Order): Promise<OnHand[]> =>
	(
		await onHand(
			sql,
			order.lines.map((l) => l.itemId),
			order.id,
			{ site: order.place && siteOf(order.place) }
		)
	).filter((s) => !s.transit && siteOf(s.place) !== siteOf(order.to!));

/** The sheet of a transfer: what leaves, suggested or chosen; or what arrives of what is in transit. */
async function buildTransfer(sql: Db, given: BuildInput): Promise<Built> {
	const { order, drafts, mode } = given;
	const transit = await transitPlace(sql);
	const way = await onTheWay(sql, order, transit);
	const side = sideOf(order, way, mode);
	const mine = { ...given, drafts: drafts.filter((d) => (d.data.place === transit) === (side === 'arrives')) };
	const { lines, said, goesTo } = side === 'leaves' ? await send(sql, mine, transit) : await receive(sql, mine, way);
	const moves = lines.flatMap((line) => pickMoves(line, goesTo));
	const numbers = [...way.values()].flat().length;
	return {
		...{ lines, said, kind: 'transfer', runs: [], moves },
		shows: { transfer: { to: order.to!, side, inTransit: numbers } },
		enough: moves.length > 0,
		used: mine.drafts.map((d) => d.id)
	};
}
interface Side {
	lines: SheetLine[];
	said: SheetFinding[];
	/** where what is picked goes */
	goesTo: (p: PickRow) => string;
}

async function send(sql: Db, given: BuildInput, transit: string): Promise<Side> {
	const { order } = given;
	const ids = order.lines.map((l) => l.itemId);
	const [stock, terms, areas] = await Promise.all([
		leaving(sql, order),
		termsFor(sql, ids, { place: order.place, customer: null, purpose: 'transfer' }),
		sql<{ code: string }[]>`SELECT code FROM place WHERE site_id IS NULL AND area = ${order.toArea}`
	]);
	const near = new Set(areas.map((a) => a.code));
	const { lines, said } = await takenLines(sql, given, stock, terms, WORDS);
	// Between neighbours it arrives as it leaves.
	return { lines, said, goesTo: (p) => (near.has(siteOf(p.place)) ? order.to! : transit) };
}
const WORDS = { are: 'leave', asked: 'are asked for', less: 'send less', can: 'can leave' };

async function receive(sql: Db, { order, drafts, today, named }: BuildInput, way: OnTheWay): Promise<Side> {
	const said: SheetFinding[] = [];
	const lines = order.lines.map((l) => {
		const mine = [...(way.get(l.id) ?? [])];
		const open = total(mine.map((s) => s.qty));
		const line: SheetLine = { ...sheetLine(l), qty: l.done, done: rest(l.done, open), open };
		const chosen = chosenFor(l, drafts);
		const filled = fillCells([{ unit: null, need: open }], chosen, mine, today, {
			terms: { ...PLAIN, preference: 'by number', arrives: true },
			...(named ? { suggests: NONE } : {})
		});
		// Nothing was put before anything else: all of it is expected.
		for (const c of filled.cells) for (const p of c.picks) delete p.why;
		Object.assign(line, { cells: filled.cells, entered: pickedIn(filled.cells) });
		said.push(...pickFindings(line, chosen, mine), ...tooMuch(line, order, mine));
		if (less(line.entered, open)) {
			const stays = sub(open, line.entered);
			const what = `${show(line.entered)} of ${amount(open, l.unit)} arrive: ${show(stays)} ${stays === '1' ? 'stays' : 'stay'} in transit`;
			said.push(atLine(line, stillOpen, { what }));
		}
		return line;
	});
	await namePicks(sql, lines, new Map(order.lines.map((l) => [l.id, l])));
	return { lines, said, goesTo: () => order.to! };
}
/** Picks that take more of something than was sent. */
function tooMuch(line: SheetLine, order: Order, mine: readonly OnHand[]): SheetFinding[] {
	const sent = new Map(mine.map((s) => [s.mark, s.qty]));
	return line.cells.flatMap((c) =>
		c.picks.flatMap((p): SheetFinding[] => {
			const have = sent.get(p.mark) ?? '0';
			if (!canGo(p) || !less(have, p.qty)) return [];
			const about = { kind: p.kind, number: p.number };
			const args = { sent: amount(have, line.unit), order: order.code };
			return [{ line, of: p, found: found(moreThanSent, args, { line: -1, about, mark: p.mark }) }];
		})
	);
}

/** Transfers between sites. */
export const transfers: Builder = {
	build: buildTransfer,
	async begun(sql, { id }) {
		const [{ n }] = await sql<{ n: number }[]>`SELECT count(*)::int AS n FROM order_transit WHERE order_id = ${id}`;
		return n
			? `${n} ${n === 1 ? 'number is' : 'numbers are'} in transit. Receive what arrived, and say what became of the rest, first.`
			: null;
	},
	async takes(sql, order, mode) {
		const transit = await transitPlace(sql);
		const way = await onTheWay(sql, order, transit);
		if (sideOf(order, way, mode) === 'leaves')
			return { stock: await leaving(sql, order), missing: (number, lines) => elsewhere(sql, order, number, lines) };
		// Whatever its state: it only arrives.
		return {
			stock: [...way.values()].flat(),
			any: true,
			missing: (number, lines) => notSent(sql, order, number, lines)
		};
	}
};

/** Where a number of some items stands, by the ledger. */
const whereIs = (sql: Db, number: string, lines: readonly OrderLine[]) => sql<{ place: string; transit: boolean }[]>`
	SELECT p.code AS place, p.transit FROM mark_now k JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual JOIN place p ON p.id = b.place_id
	WHERE k.number = ${number} AND k.item_id = ANY(${lines.map((l) => l.itemId)}::bigint[]) ORDER BY p.code LIMIT 1`;

async function notSent(sql: Db, order: Order, number: string, lines: readonly OrderLine[]): Promise<string | null> {
	const [at] = await whereIs(sql, number, lines);
	if (!at) return null;
	if (siteOf(at.place) === siteOf(order.to!)) return `${number} has arrived: it is at ${at.place}.`;
	return at.transit
		? `${number} is in transit, not with ${order.code}. Receive it with the transfer that it was sent by.`
		: `${number} was not sent with ${order.code}: the ledger has it at ${at.place}. If it is here, send it with ${order.code} first, under Leaving; then receive it.`;
}
async function elsewhere(sql: Db, order: Order, number: string, lines: readonly OrderLine[]): Promise<string | null> {
	const [at] = await whereIs(sql, number, lines);
	if (!at) return null;
	if (at.transit) return `${number} is in transit already. Take another.`;
	return siteOf(at.place) === siteOf(order.to!)
		? `${number} is at ${at.place} already, where ${order.code} goes to. Take another.`
		: `${number} is at ${at.place}, and ${order.code} takes from ${order.place}. Take another.`;
}
