import type { Db, Sql, Tx } from '../database/connect.ts';
import { short } from '../../core/checks/catalogue.ts';
import { sentence, type Found } from '../../core/checks/check.ts';
import { bearer, checkMovements } from '../../core/checks/movements.ts';
import { fileOf, type Fact } from '../../core/facts/fact.ts';
import { EVENT_KINDS } from '../../core/ledger/events.ts';
import { eventInput, type Actor, type EventInput, type ParsedEvent } from '../../core/ledger/input.ts';
import type { Line, Mark, Run } from '../../core/ledger/line.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { append, type AppendOptions, type Booked, type Written } from './append.ts';
import { saveChanges, type Change } from './changes.ts';
import { Marks, resolveLines, resolveNames, resolveRuns, type Create } from './resolve.ts';
import { mirror } from './undo.ts';
import { loadTakers, loadWorld, noteReceipt } from './world.ts';

export type { Booked };
/** What an event is booked with, beyond what any is written with. */
export interface BookOptions extends AppendOptions {
	/** make sites, bins or partners that are not known yet */
	create?: Create;
}

/**
 * Books an event of movements, or the undoing of one.
 * @throws Problem naming each faulty line, with the check that says so; nothing is booked then
 */
export async function book(sql: Sql, actor: Actor, input: EventInput, options: BookOptions = {}): Promise<Booked> {
	const event = readEvent(input);
	const write = (tx: Tx, id: string) =>
		event.kind === 'undo' ? mirror(tx, event, id) : writeMovements(tx, actor, event, id, options.create ?? {});
	return append(sql, actor, event, write, { request: event, ...options });
}

/** Reads an event as it is given. @throws Problem naming each field that cannot be read */
export function readEvent(input: unknown): ParsedEvent {
	const parsed = eventInput.safeParse(input);
	if (!parsed.success)
		throw new Problem(
			parsed.error.issues.slice(0, 200).map((i) => ({
				message: i.message,
				at: i.path
					.map((p) => (typeof p === 'number' ? `[${p}]` : String(p)))
					.join('.')
					.replaceAll('.[', '['),
				code: 'form'
			}))
		);
	const event = parsed.data;
	const refuse = (message: string, at: string) => new Problem([{ message, at, code: 'form' }]);
	if (EVENT_KINDS[event.kind].writes === 'changes')
		throw refuse(`${event.kind} changes a lot's or serial's facts, not its stock. Do it on its page.`, 'kind');
	if (event.kind === 'undo') {
		if (!event.undoes) throw refuse('Name the key of the event to undo.', 'undoes');
		if (event.movements?.length) throw refuse('An undo brings its own movements. Leave them out.', 'movements');
	} else if (event.undoes) throw refuse('Only an undo names an event to undo.', 'undoes');
	else if (!event.movements?.length && !event.runs?.some((r) => r.closed))
		throw refuse('Nothing is moved. Give at least one movement.', 'movements');
	return event;
}

/** The movements of an event with everything they name, and what the checks find about them. */
export interface Checked {
	lines: Line[];
	marks: Marks;
	runs: Run[];
	facts: ReadonlyMap<string, Fact>;
	findings: Found[];
}

/**
 * Finds what an event names and checks all of it: the one list of checks that every door goes through.
 * @param save true when it is to be written: new marks get their ids; false only looks
 * @throws Problem naming what is not there at all
 */
export async function checkEvent(tx: Db, event: ParsedEvent, create: Create, save: boolean): Promise<Checked> {
	const names = await resolveNames(tx, event, create);
	const marks = await Marks.load(
		tx,
		[
			...(event.movements ?? []).map((m) => ({ ...m, item: names.items.get(m.item)! })),
			...(event.runs ?? []).flatMap((r) =>
				r.unit ? [{ item: names.items.get(r.unit.item)!, serial: r.unit.serial }] : []
			)
		],
		save
	);
	const runs = await resolveRuns(tx, event, names.items, marks);
	const lines = resolveLines(event, names, marks, runs);
	const declared = [...runs.values()];
	const world = await loadWorld(tx, lines, names.facts, new Date(event.at));
	const checking = { kind: event.kind, lines, runs: declared, world };
	let findings = checkMovements(checking);
	if (findings.some((f) => f.code === short.code)) {
		const takers = await loadTakers(
			tx,
			lines.filter((l) => findings.some((f) => f.code === short.code && f.line === l.index))
		);
		findings = checkMovements({ ...checking, world: { ...world, takers } });
	}
	return { lines, marks, runs: declared, facts: names.facts, findings };
}

/** A finding as a fault of an event: the movement it is about, and the check that says so. */
export const faultOf = (f: Found): Fault => ({
	message: sentence(f),
	at: f.line < 0 ? 'runs' : `movements[${f.line}]`,
	code: f.code,
	level: f.level === 'reason' ? 'reason' : 'stop'
});

/** Checks and writes marks, runs and movements of one event. */
async function writeMovements(tx: Tx, actor: Actor, event: ParsedEvent, id: string, create: Create): Promise<Written> {
	const { lines, marks, runs, facts, findings } = await checkEvent(tx, event, create, true);
	const faults = findings.filter((f) => f.level === 'stop' || (f.level === 'reason' && !event.reason));
	if (faults.length) throw new Problem(faults.slice(0, 200).map(faultOf));
	const notes = [...findings.filter((f) => f.level === 'note'), ...(await noteReceipt(tx, lines))];

	const changes = takeFacts(lines, facts);
	await marks.save(tx, id);
	await saveChanges(tx, id, changes);
	await keepFiles(tx, actor, lines, facts);
	await saveRuns(tx, id, event.order ?? null, runs);
	await tx`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, unit_cost, order_line_id)
		SELECT ${id}::bigint, ${event.at}::timestamptz, mark, qty, f, t, run, role, cost, line FROM unnest(
			${lines.map((l) => l.mark.id)}::bigint[], ${lines.map((l) => l.given.qty)}::numeric[],
			${lines.map((l) => l.from.id)}::bigint[], ${lines.map((l) => l.to.id)}::bigint[],
			${lines.map((l) => l.run?.id ?? null)}::bigint[], ${lines.map((l) => l.given.role ?? null)}::text[],
			${lines.map((l) => l.given.unitCost ?? null)}::numeric[], ${lines.map((l) => l.given.orderLine ?? null)}::bigint[])
			WITH ORDINALITY AS n(mark, qty, f, t, run, role, cost, line, pos) ORDER BY pos`;
	return { movements: lines.length, notes };
}

/** Files that movements give as facts are kept with the lot or serial that keeps the fact. */
async function keepFiles(tx: Tx, actor: Actor, lines: readonly Line[], facts: ReadonlyMap<string, Fact>) {
	if (![...facts.values()].some((f) => f.kind === 'file')) return;
	const files = lines.flatMap((l) =>
		Object.entries(l.given.facts ?? {}).flatMap(([code, value]) => {
			const fact = facts.get(code);
			const file = fact?.kind === 'file' && l.mark.kind !== 'unmarked' ? fileOf(value) : null;
			return file ? [{ ...file, mark: bearer(fact!, l).id }] : [];
		})
	);
	if (files.length)
		await tx`INSERT INTO mark_file (mark_id, name, sha256, added_by)
			SELECT DISTINCT ON (mark, sha) mark, name, sha, ${actor.name}::text FROM unnest(${files.map((f) => f.mark)}::bigint[], ${files.map((f) => f.name)}::text[], ${files.map((f) => f.sha256)}::text[]) n(mark, name, sha)
			ON CONFLICT DO NOTHING`;
}

/**
 * What is given with a movement besides its numbers: set on new marks; on known ones dates and the supplier's numbers
 * are filled in where they were empty, and the firm's own facts replaced by what is measured now.
 */
function takeFacts(lines: readonly Line[], facts: ReadonlyMap<string, Fact>): Change[] {
	const changes = new Map<string, Change>();
	const changed = (mark: Mark, field: Change['field'], value: string) => {
		if (!mark.fresh) changes.set(`${mark.id} ${field}`, { mark: mark.id, field, value });
	};
	for (const l of lines) {
		if (l.mark.kind === 'unmarked') continue;
		const { given } = l;
		if (given.expiresOn || given.madeOn || given.supplierLot)
			for (const mark of given.serial && given.lot && l.lot ? [l.mark, l.lot] : [l.mark])
				for (const [field, value] of [
					['expires_on', given.expiresOn],
					['made_on', given.madeOn],
					['supplier_lot', given.supplierLot]
				] as const) {
					if (!value || mark[field]) continue;
					mark[field] = value;
					changed(mark, field, value);
				}
		if (given.supplierSerial && l.mark.kind === 'serial' && !l.mark.supplier_serial) {
			l.mark.supplier_serial = given.supplierSerial;
			changed(l.mark, 'supplier_serial', given.supplierSerial);
		}
		if (!given.facts) continue;
		for (const [code, value] of Object.entries(given.facts)) {
			const mark = bearer(facts.get(code)!, l);
			if (mark.facts[code] === value) continue;
			mark.facts = { ...mark.facts, [code]: value };
			changed(mark, 'facts', JSON.stringify(mark.facts));
		}
	}
	return [...changes.values()];
}

async function saveRuns(tx: Tx, event: string, order: string | null, runs: Run[]) {
	const fresh = runs.filter((r) => !r.id);
	if (fresh.length) {
		const rows = await tx<{ id: string; code: string }[]>`
			INSERT INTO run (code, order_id, unit_mark, planned, event_id)
			SELECT code, ${order}::bigint, unit, planned, ${event}::bigint FROM unnest(${fresh.map((r) => r.code)}::text[],
				${fresh.map((r) => r.unit?.id ?? null)}::bigint[], ${fresh.map((r) => r.planned)}::numeric[]) n(code, unit, planned)
			RETURNING id, code`;
		const ids = new Map(rows.map((r) => [r.code, r.id]));
		for (const r of fresh) r.id = ids.get(r.code)!;
	}
	const closing = runs.filter((r) => r.closes).map((r) => r.id!);
	if (closing.length)
		await tx`INSERT INTO run_closing (run_id, event_id) SELECT r, ${event}::bigint FROM unnest(${closing}::bigint[]) r`;
}
