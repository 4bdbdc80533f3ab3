import { belongsTo } from '../../core/allocation/allocate.ts';
import { isPicked } from '../../core/document/kinds.ts';
import type { Scan } from '../../core/codes/scan.ts';
import { placeName } from '../../core/ledger/places.ts';
import { sayStatus } from '../../core/ledger/status.ts';
import { add, amount, isZero, least, less, rest, total } from '../../core/quantity/quantity.ts';
import { Positions } from '../../core/ranges/positions.ts';
import type { Db } from '../database/connect.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import type { ScanSource } from './build.ts';
import { calledNow, liesAt } from '../marks/called.ts';
import { nearNumbers } from '../marks/near.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import type { DraftRow } from './drafts.ts';
import { Refused, type Placed } from './placed.ts';
import type { StockThere } from './stockthere.ts';

/**
 * What a scan takes from stock for a document: the lot or serial that the code names, from where it stands. Scanned
 * again, a lot takes more only where the code says how much.
 * @param hint id of the line that the cursor stands in
 * @param from `at`: the place that it is taken from, where it stands there too; `takes`: what may be taken, where that is
 *   not all that stands at its site; `marks`: ids of what is called so, where they are known; `stock`: all that stands there
 * @throws Refused when no line wants it, it stands nowhere here, or it is taken already
 */
export async function pickFromScan(
	db: Db,
	order: Order,
	scan: Scan,
	hint: string | null,
	drafts: readonly DraftRow[],
	{
		at = null,
		takes = null,
		marks,
		stock: standingThere
	}: { at?: string | null; takes?: ScanSource | null; marks?: readonly string[]; stock?: StockThere } = {}
): Promise<{ line: OrderLine; row: Placed; stock: readonly OnHand[] }> {
	const number = scan.serial ?? scan.lot ?? (scan.coded ? '' : scan.text.trim());
	const said = number.slice(0, 60);
	if (!number && !(takes?.loose && takes.stock.length))
		throw new Refused('The code names no lot and no serial. Scan the label with its number.');
	const lines = order.lines.filter(
		(l) => (l.role === 'goods' || l.role === 'component') && (!scan.gtin || l.gtin === scan.gtin)
	);
	if (!lines.length && !takes?.exact) throw new Refused(await notOn(db, order, scan.gtin!));
	const site = order.place?.split('/')[0] ?? null;
	const items = lines.map((l) => l.itemId);
	const called = async () => marks ?? (await calledNow(db, items, number)).map((m) => m.id);
	const all = order.lines.map((l) => l.itemId);
	const stock =
		takes?.stock ??
		(standingThere ? await standingThere.of(all) : await onHand(db, items, order.id, { site, marks: await called() }));
	const there = takes?.exact
		? namedBy(takes)
		: stock.filter((s) => s.number === number && (takes || items.includes(s.itemId)));
	if (!there.length) {
		const why = (await takes?.missing(number, lines)) ?? (await elsewhere(db, order, number, items));
		if (why) throw new Refused(why);
		const near = await nearNumbers(db, number, 3, items);
		const meant = near.filter((n) => n.slips <= 2).map((n) => n.number);
		throw new Refused(
			`${said} stands nowhere${site ? ` at ${site}` : ''} as an item of ${order.code}. ${meant.length ? `Was it ${meant.join(' or ')}? ` : ''}Check the label, or find it in the register.`
		);
	}
	if (!takes && there.every((s) => s.transit)) throw new Refused(`${said} is in transit. Receive its transfer first.`);
	const may = there.filter((s) => takes?.any || (s.status === 'released' && (takes || !s.transit)));
	/** All of it there was picked for other orders. */
	const isStaged = (s: OnHand) => !!s.staged && !less(s.staged, s.qty);
	if (may.length && may.every(isStaged))
		throw new Refused(`${said} is ${may[0].stagedFor}, and waits at ${may[0].place}. Take another.`);
	// What is not ours goes to its owner, or is chosen at the desk.
	const others = takes?.any ? [] : may.filter((s) => s.owner && s.ownerCode !== order.partner);
	if (others.length && others.length === may.length)
		throw new Refused(
			`${said} ${belongsTo(others[0].owner!)}. Take another; who takes it all the same chooses it at the desk, with a reason.`
		);
	if (!may.length)
		throw new Refused(`${said} is ${sayStatus(there[0].status)} and stays here. Take another, or have it released.`);
	if (!takes?.any && may.every((s) => isZero(rest(s.qty, s.reserved ?? '0'))))
		throw new Refused(
			`${said} is ${may[0].promisedTo}. Take another; who takes it over chooses it at the desk, with a reason.`
		);
	const wants = (l: OrderLine) => may.some((s) => s.itemId === l.itemId);
	const line =
		lines.find((l) => l.id === hint && wants(l)) ??
		lines.find((l) => wants(l) && less(l.done, l.qty)) ??
		lines.find(wants)!;
	return {
		line,
		stock: there,
		row: pick(
			line,
			scan,
			may
				.filter((s) => s.itemId === line.itemId)
				.sort((a, b) => Number(isStaged(a)) - Number(isStaged(b)) || Number(b.place === at) - Number(a.place === at)),
			drafts,
			isPicked(order.kind) && !line.scanned
		)
	};
}

/** What a scan names of what it may take. */
export const namedBy = ({ stock, loose }: ScanSource) => (loose ? stock : stock.filter((s) => s.kind !== 'unmarked'));

/** Why a number that there is of these items cannot be taken here; null where there is none of it. */
async function elsewhere(db: Db, order: Order, number: string, items: readonly string[]): Promise<string | null> {
	const known = (await calledNow(db, items, number)).map((m) => m.id);
	if (!known.length) return null;
	const at = await liesAt(db, known);
	const said = number.slice(0, 60);
	if (!at) return `${said} is nowhere on hand. Take another, or look at its page for where it went.`;
	return at.transit
		? `${said} is in transit. Receive its transfer first.`
		: `${said} is at ${at.place}, and ${order.code} takes from ${order.place}. Take another, or move it first.`;
}

async function notOn(db: Db, order: Order, gtin: string): Promise<string> {
	const [item] = await db<{ name: string }[]>`SELECT name FROM item WHERE gtin = ${gtin}`;
	return item
		? `This is ${item.name}, which is not on ${order.code}. Put it back.`
		: `No item has the GTIN ${gtin}. Enter it in Setup, Items, or type the number from the label.`;
}

/** @param swaps what is scanned may go in place of what was only chosen */
function pick(
	line: OrderLine,
	scan: Scan,
	there: readonly OnHand[],
	drafts: readonly DraftRow[],
	swaps: boolean
): Placed {
	const mine = drafts.filter((d) => d.lineId === line.id && d.data.mark);
	const takenOf = (s: OnHand) =>
		total(mine.filter((d) => d.data.mark === s.mark && d.data.place === s.place).map((d) => readable(d.data.qty)));
	// Where it stands in several places, the first that still has some.
	const from = there.find((s) => less(takenOf(s), s.qty)) ?? there[0];
	const old = mine.find((d) => d.data.mark === from.mark && d.data.place === from.place);
	const named = from.kind === 'unmarked' ? 'One' : `${from.kind === 'serial' ? 'Serial' : 'Lot'} ${from.number}`;
	const what = `${named} from ${placeName(from.place)}`;
	const looked = !!old && Positions.read(old.data.scanned).has(0);
	if (old && !looked && (from.serial || !scan.qty))
		return {
			id: old.id,
			before: old.data,
			after: { ...old.data, scanned: '0' },
			version: old.version,
			what: `${what} looked at`,
			looked: true
		};
	if (old && (from.serial || (!scan.qty && !line.scanned)))
		throw new Refused(`${from.number} is in this sheet already. Change its quantity there, if more of it goes.`);
	if (old)
		return {
			id: old.id,
			before: old.data,
			after: { ...old.data, qty: add(readable(old.data.qty), scan.qty ?? '1'), scanned: '0' },
			version: old.version,
			what: `${amount(scan.qty ?? '1', line.unit)} more of ${from.number}`
		};
	const open = rest(line.qty, line.done);
	const held = total(mine.map((d) => readable(d.data.qty)));
	const left = rest(open, held);
	// Where all of it is named already, it goes in place of the last that nobody has fetched.
	const instead =
		swaps && left === '0' ? mine.findLast((d) => isToFetch(d) && !isZero(readable(d.data.qty))) : undefined;
	if (instead && !scan.qty)
		return {
			id: instead.id,
			before: instead.data,
			after: { mark: from.mark, place: from.place, qty: least(readable(instead.data.qty), from.qty), scanned: '0' },
			version: instead.version,
			what: `${what} instead`
		};
	const all = less(left, from.qty) && left !== '0' ? left : from.qty;
	// A line that scans add grows by the piece.
	const qty = from.serial ? '1' : (scan.qty ?? (line.scanned ? '1' : all));
	return { id: '', before: null, after: { mark: from.mark, place: from.place, qty, scanned: '0' }, version: 0, what };
}
/** It was chosen, and nobody has fetched it yet. */
const isToFetch = ({ data }: DraftRow) => !data.confirmed && !Positions.read(data.scanned).has(0);
/** The quantity of a row; none where it cannot be read. */
const readable = (qty: string | undefined) => (qty && /^\d+(\.\d+)?$/.test(qty) ? qty : '0');
