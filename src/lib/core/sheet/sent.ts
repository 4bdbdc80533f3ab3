import { group } from '../group/group.ts';
import { isSome, least, rest, sub, type Qty } from '../quantity/quantity.ts';
import { enteredIn, pickedIn } from './entered.ts';
import type { Cell, PickRow, SheetLine, SheetRow, SheetState } from './sheet.ts';

/*
 * How a sheet goes to the page that shows it: of what the page has already only what changed, of each row only what is not as
 * it mostly is. A sheet of ten thousand rows is megabytes otherwise, and sent again with each scan.
 */

/** From so many rows or pieces on a sheet is long: a change is answered by itself, and the whole is checked behind it. */
export const LONG = 500;

/** A list against what it was: its things that are new or different, by their keys, and what of it is gone. */
export interface Changed<T> {
	set: T[];
	gone?: string[];
	/** all keys in their order, where it is not that of before with what is new after it */
	order?: string[];
}
/** A row, or stock taken, without what is as it mostly is. */
export type Lean<T> = Partial<T>;
/** Part of a line: what goes into one unit, or into all of it. */
export interface SentCell {
	head: Omit<Cell, 'picks' | 'still'>;
	picks: Changed<Lean<PickRow>>;
}
/** A line as it is sent. */
export interface SentLine {
	id: string;
	/** all that is no list of rows; left out where it is as it was */
	head?: Omit<SheetLine, 'rows' | 'cells'>;
	rows: Changed<Lean<SheetRow>>;
	cells: Changed<SentCell>;
}
/** A sheet as it is sent. */
export interface SentSheet {
	/** what the page says that it has, the next time it asks; null where nobody keeps it */
	is: string | null;
	/** what it is told against; null where it is told whole */
	since: string | null;
	state: Omit<SheetState, 'lines'>;
	lines: SentLine[];
}
/** Rows of a long sheet that one change was about, as they read. What the checks say of them comes after. */
export interface SheetPart {
	rows: { line: string; row: SheetRow }[];
	picks: { line: string; unit: string | null; pick: PickRow }[];
	gone: string[];
	scans?: SheetState['scans'];
}

/** A row as it mostly is. */
const ROW: Omit<SheetRow, 'id'> = {
	...{ version: 1, by: '', lot: '', serial: '', last: '', count: 1, step: 1, qty: '1', expiresOn: '' },
	...{ supplierLot: '', supplierSerial: '', madeOn: '', cost: '', place: '', facts: {}, known: '', findings: [] },
	...{ expiryWorkedOut: false, expiryFrom: '' }
};
/** Stock taken as it mostly is. */
const PICK: Omit<PickRow, 'mark' | 'number'> = {
	...{ id: null, version: 0, kind: 'serial', lot: null, place: '', qty: '1', expiresOn: null, expiryTyped: '' },
	...{ facts: {}, evidence: 'accepted', findings: [] }
};
const isPlain = (value: unknown, plain: unknown) =>
	value === plain ||
	(!!value && typeof value === 'object' && !!plain && !Object.keys(value).length && !Object.keys(plain).length);
function lean<T extends object>(thing: T, plain: Partial<T>): Lean<T> {
	const kept: Lean<T> = {};
	for (const name in thing) if (!(name in plain && isPlain(thing[name], plain[name]))) kept[name] = thing[name];
	return kept;
}
const leanRow = (row: SheetRow) => lean<SheetRow>(row.last === row.serial ? { ...row, last: '' } : row, ROW);
const wholeRow = (row: Lean<SheetRow>): SheetRow => {
	const whole = Object.assign({ ...ROW }, row) as SheetRow;
	whole.last ||= whole.serial;
	return whole;
};
const leanPick = (pick: PickRow) => lean<PickRow>(pick, PICK);
const wholePick = (pick: Lean<PickRow>) => Object.assign({ ...PICK }, pick) as PickRow;

const pickKey = (p: Lean<PickRow>) => p.id ?? `${p.mark} ${p.place ?? ''}`;
const rowKey = (r: Lean<SheetRow>) => r.id!;
const cellKey = (c: { unit: string | null }) => c.unit ?? '';
const sentCellKey = (c: SentCell) => cellKey(c.head);

/** What a list was, as texts by their keys. */
type Texts = Map<string, string>;
/** What a sheet was, as the server remembers it to tell what changed. */
export type Remembered = Map<string, { head: string; rows: Texts; cells: Map<string, { head: string; picks: Texts }> }>;

const NOTHING: ReadonlyMap<string, unknown> = new Map();
/** Says of a list what is not as it was. */
function changes<T>(
	was: ReadonlyMap<string, unknown>,
	now: readonly T[],
	key: (t: T) => string,
	isNew: (t: T, key: string) => boolean
): { set: T[]; gone?: string[]; order?: string[] } {
	const keys = now.map(key);
	const there = new Set(keys);
	const stayed = [...was.keys()].filter((k) => there.has(k));
	const appended = [...stayed, ...keys.filter((k) => !was.has(k))];
	const gone = was.size > stayed.length ? [...was.keys()].filter((k) => !there.has(k)) : [];
	return {
		set: now.filter((t, n) => isNew(t, keys[n])),
		...(gone.length ? { gone } : {}),
		...(appended.every((k, n) => k === keys[n]) ? {} : { order: keys })
	};
}
const isSame = ({ set, gone, order }: Changed<unknown>) => !set.length && !gone && !order;
/** Says of a list of plain things what is not as it was. */
function listed<T>(was: Texts | undefined, now: readonly T[], key: (t: T) => string): [Changed<T>, Texts] {
	const texts: Texts = new Map(now.map((t) => [key(t), JSON.stringify(t)]));
	return [changes(was ?? NOTHING, now, key, (_t, k) => was?.get(k) !== texts.get(k)), texts];
}

/**
 * What of a sheet is not as it was.
 * @param was what it was, and what that is called; null to tell all of it
 * @param is what it is called now; null where nobody will ask for what changed since
 */
export function sent(
	state: SheetState,
	was: { is: string; remembered: Remembered } | null,
	is: string | null
): { sent: SentSheet; remembered: Remembered } {
	const { lines, ...rest } = state;
	const remembered: Remembered = new Map();
	const told = lines.map((line): SentLine => {
		const { rows, cells, ...head } = line;
		const before = was?.remembered.get(line.id);
		const [changedRows, rowTexts] = listed(before?.rows, rows.map(leanRow), rowKey);
		const kept: Remembered extends Map<string, infer L> ? L : never = {
			head: JSON.stringify(head),
			rows: rowTexts,
			cells: new Map()
		};
		const all = cells.map((cell) => {
			const { picks, ...own } = cell;
			const old = before?.cells.get(cellKey(cell));
			const [changedPicks, pickTexts] = listed(old?.picks, picks.map(leanPick), pickKey);
			const text = JSON.stringify(own);
			kept.cells.set(cellKey(cell), { head: text, picks: pickTexts });
			const same = text === old?.head && isSame(changedPicks);
			return { cell: { head: own, picks: changedPicks }, same };
		});
		const unchanged = new Set(all.flatMap((c) => (c.same ? [c.cell] : [])));
		remembered.set(line.id, kept);
		return {
			id: line.id,
			...(kept.head === before?.head ? {} : { head }),
			rows: changedRows,
			cells: changes(
				before?.cells ?? NOTHING,
				all.map((c) => c.cell),
				sentCellKey,
				(c) => !unchanged.has(c)
			)
		};
	});
	return { sent: { is, since: was?.is ?? null, state: rest, lines: told }, remembered };
}

/** A list as it is now. */
function patched<T, S>(
	was: readonly T[],
	{ set, gone = [], order }: Changed<S>,
	key: (t: T) => string,
	keySent: (s: S) => string,
	read: (s: S, was: T | undefined) => T
): T[] {
	if (!was.length && !order) return set.map((s) => read(s, undefined));
	const there = new Map(was.map((t) => [key(t), t]));
	for (const k of gone) there.delete(k);
	for (const s of set) {
		const k = keySent(s);
		there.set(k, read(s, there.get(k)));
	}
	return order ? order.flatMap((k) => there.get(k) ?? []) : [...there.values()];
}

/**
 * A sheet as it is now, of what was told of it.
 * @param was the sheet that it is told against; any, where it is told whole
 */
export function received({ state, lines, since }: SentSheet, was: SheetState | null): SheetState {
	const before = new Map((since ? (was?.lines ?? []) : []).map((l) => [l.id, l]));
	return {
		...state,
		lines: lines.map((line): SheetLine => {
			const old = before.get(line.id);
			return {
				...(line.head ?? old!),
				rows: patched(old?.rows ?? [], line.rows, rowKey, rowKey, wholeRow),
				cells: patched(old?.cells ?? [], line.cells, cellKey, sentCellKey, (c, cell: Cell | undefined) => ({
					...c.head,
					picks: patched(cell?.picks ?? [], c.picks, pickKey, pickKey, wholePick)
				}))
			};
		})
	};
}

/** A sheet as it is told whole, without the rows of its lines: what a page shows of a long one before it reads them. */
export function headsOf(sent: SentSheet): SheetState {
	const none = { set: [] };
	return received({ ...sent, lines: sent.lines.map((line) => ({ ...line, rows: none, cells: none })) }, null);
}

/**
 * Picks with no more suggested beside what was chosen than is needed: a number that was chosen is not suggested too, and the
 * last suggestions give way first.
 */
function suggestedLess(picks: readonly PickRow[], need: Qty): PickRow[] {
	const byHand = picks.filter((p) => p.id);
	const chosen = new Set(byHand.map((p) => `${p.mark} ${p.place}`));
	let left = rest(need, pickedIn([{ picks: byHand }]));
	return picks.flatMap((p): PickRow[] => {
		if (p.id) return [p];
		if (chosen.has(`${p.mark} ${p.place}`) || !isSome(left)) return [];
		const qty = least(p.qty, left);
		left = sub(left, qty);
		return [qty === p.qty ? p : { ...p, qty }];
	});
}

/** A sheet with what one change was about, until all of it is checked again: the rest stays suggested. */
export function withPart(state: SheetState, part: SheetPart): SheetState {
	const gone = new Set(part.gone);
	const [rows, picks] = [group(part.rows, (r) => r.line), group(part.picks, (p) => p.line)];
	const lines = state.lines.map((line): SheetLine => {
		const mine = rows.get(line.id)?.map((r) => r.row) ?? [];
		const byUnit = group(picks.get(line.id) ?? [], (p) => p.unit);
		const put = <T extends { id: string | null }>(all: readonly T[], changed: readonly T[]): T[] => {
			const now = new Map(changed.map((c) => [c.id, c]));
			const kept = all.filter((r) => !r.id || !gone.has(r.id)).map((r) => now.get(r.id) ?? r);
			const old = new Set(all.map((r) => r.id));
			return [...kept, ...changed.filter((c) => !old.has(c.id))];
		};
		if (!gone.size && !mine.length && !byUnit.size) return line;
		const now = put(line.rows, mine);
		const cells = line.cells.map((cell): Cell => {
			const chosen = byUnit.get(cell.unit)?.map((p) => p.pick) ?? [];
			if (!gone.size && !chosen.length) return cell;
			return { ...cell, picks: suggestedLess(put(cell.picks, chosen), cell.need) };
		});
		return { ...line, rows: now, cells, entered: cells.length ? pickedIn(cells) : enteredIn(now) };
	});
	return { ...state, lines, ...(part.scans ? { scans: part.scans } : {}) };
}
