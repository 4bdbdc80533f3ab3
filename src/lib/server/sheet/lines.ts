import { found, together, type Check, type Finding, type Level } from '../../core/checks/check.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import { weigh } from '../../core/weight/weight.ts';
import { rest } from '../../core/quantity/quantity.ts';
import { findingOf, type ShownFinding, type Missing, type SheetLine, type SheetState } from '../../core/sheet/sheet.ts';
import type { Order, OrderLine } from '../document/orders.ts';

/** A movement as booking takes it. */
export type Movement = NonNullable<EventInput['movements']>[number];

/** Something of a sheet that findings are shown at: a row, what is picked, or a line. */
export type Target = { findings: ShownFinding[] };
/** Something found about a sheet: at which line, and at what of it. */
export interface SheetFinding {
	line: SheetLine;
	of: Target;
	found: Finding;
}
/** A movement that the button would book, with the part of the sheet that it stands for. */
export interface Move {
	movement: Movement;
	line: SheetLine;
	of: Target;
}

/** Something that a document's own checks find about a line as a whole. */
export const atLine = <A>(line: SheetLine, check: Check<A>, args: A, level?: Level): SheetFinding => ({
	line,
	of: line,
	found: found(check, args, { line: -1, about: null, level })
});

/** A line of a sheet before anything is entered in it. */
export const sheetLine = (l: OrderLine): SheetLine => ({
	id: l.id,
	no: l.no,
	role: l.role,
	item: l.item,
	itemName: l.itemName,
	unit: l.unit,
	decimals: l.decimals,
	lotPattern: l.lotPattern?.code ?? null,
	serialPattern: l.serialPattern?.code ?? null,
	serialAsked: l.rule.serial,
	facts: l.facts,
	supplierNumber: l.supplierNumber,
	picture: l.picture,
	forPartner: l.forPartner,
	bins: [],
	tracking: l.tracking,
	expiry: l.expiry,
	qty: l.qty,
	done: l.done,
	invoiced: l.invoiced,
	open: rest(l.qty, l.done),
	entered: '0',
	rows: [],
	cells: [],
	now: null,
	leftOut: [],
	promises: [],
	findings: []
});

/** What stands at the head of a document's sheet. */
export const orderPart = (
	o: Order
): Omit<SheetState, 'lines' | 'missing' | 'long' | 'checked' | 'ready' | 'stamp' | 'events' | 'scans'> => ({
	code: o.code,
	kind: o.kind,
	partnerName: o.partnerName,
	job: o.job ? { code: o.job, name: o.jobName! } : null,
	place: o.place,
	todos: o.todos,
	noted: o.noted,
	reason: o.reason,
	dueOn: o.dueOn,
	note: o.note,
	theirs: o.theirs,
	closedAt: o.closedAt,
	closedShort: o.closedShort,
	zone: o.zone,
	unitRuns: false,
	started: [],
	atStations: 0,
	weighed: weigh(
		o.lines.filter((l) => l.role !== 'component').map(({ no, qty, measures }) => ({ no, qty, measures })),
		o.way,
		o.divisor
	)
});

const RANK: Record<Level, number> = { stop: 0, reason: 1, missing: 2, note: 3 };

/** Writes what was found to where it is shown; what is said of several numbers of one row is said once. */
export function showFindings(said: readonly SheetFinding[]): void {
	const byTarget = new Map<Target, Finding[]>();
	for (const s of said) {
		const list = byTarget.get(s.of);
		if (list) list.push(s.found);
		else byTarget.set(s.of, [s.found]);
	}
	for (const [target, list] of byTarget) target.findings = together(list).map((g) => findingOf(g.first, g.message));
}

/** Everything the foot bar says: stops first, then what wants a reason, then what stays open; the same thing once a line. */
export function footBar(said: readonly SheetFinding[]): Missing[] {
	const byLine = new Map<SheetLine, SheetFinding[]>();
	for (const s of said) {
		const list = byLine.get(s.line);
		if (list) list.push(s);
		else byLine.set(s.line, [s]);
	}
	return [...byLine]
		.flatMap(([line, list]) => {
			const own = list.filter((s) => s.of === line).map((s) => s.found);
			const rows = list.filter((s) => s.of !== line).map((s) => s.found);
			return [...together(own), ...together(rows)].map(({ first, message }) => ({
				line: line.no,
				level: first.level,
				message,
				code: first.code
			}));
		})
		.filter((m) => m.level !== 'note')
		.sort((a, b) => RANK[a.level] - RANK[b.level] || a.line - b.line);
}
