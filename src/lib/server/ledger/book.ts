import { transaction, type Db, type Sql } from '../database/connect.ts';
import { takenOver } from '../../core/allocation/promises.ts';
import { short } from '../../core/checks/catalogue.ts';
import { sentence, type Finding } from '../../core/checks/check.ts';
import { factKeeper, checkMovements } from '../../core/checks/movements.ts';
import { keepOwners } from '../../core/checks/owner.ts';
import { fileOf, type Fact } from '../../core/facts/fact.ts';
import { evidenceOf } from '../../core/ledger/evidence.ts';
import { EVENT_KINDS } from '../../core/ledger/events.ts';
import { eventInput, type Actor, type EventInput, type ParsedEvent } from '../../core/ledger/input.ts';
import type { Line, Mark, Run } from '../../core/ledger/line.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import {
	append,
	bookedUnder,
	checkTime,
	digest,
	eventHeader,
	openEvent,
	sameRequest,
	withRetry,
	type AppendOptions,
	type Booked
} from './append.ts';
import { Catalogue, catalogueOf } from './catalogue.ts';
import type { Change } from './changes.ts';
import type { TermsOf } from '../marks/terms.ts';
import { createNames, Marks, resolveLines, resolveNames, resolveRuns, type Create } from './resolve.ts';
import { mirror } from './undo.ts';
import { arrivingIn, leavingIn, loadTakers, loadWorld, noteReceipt } from './world.ts';

export type { Booked };
/** What an event is booked with, beyond what any is written with. */
export interface BookOptions extends AppendOptions {
	/** make sites, bins or partners that are not known yet */
	create?: Create;
	/** what its checks found a moment ago, where somebody has just asked them of the same movements */
	checked?: Checked | null;
}

/**
 * Books an event of movements, or the undoing of one.
 *
 * What an event names is read and checked without a lock; then one statement locks what it touches, sees that nothing it
 * was checked by has changed since, and writes all of it. Where something has changed it is read and checked again. So two
 * bookings wait for each other only when they touch the same number, order or run, and no lock is held while this process
 * thinks.
 * @throws Problem naming each faulty line, with the check that says so; nothing is booked then
 */
export const book = async (sql: Sql, actor: Actor, input: EventInput, options: BookOptions = {}): Promise<Booked> =>
	bookRead(sql, actor, readEvent(input), options);

/** Books an event that was read already, or whose movements come from the database itself. @throws Problem as book() */
export async function bookRead(sql: Sql, actor: Actor, event: ParsedEvent, options: BookOptions = {}): Promise<Booked> {
	if (event.kind === 'undo')
		return append(sql, actor, event, (tx, draw) => mirror(tx, event, draw), { request: event, ...options });
	checkTime(event, options.clock);
	const request = digest(options.request ?? event);
	for (const m of event.movements ?? []) m.evidence ??= evidenceOf(actor.source);
	const { create = {}, before, after } = options;
	const catalogue = catalogueOf(sql);
	const stale = () => catalogue.forget();
	// Of what is tried again everything is asked again.
	let first = options.checked && saysHow(options.checked) ? options.checked : null;
	if (!before && !after && !create.places && !create.partners)
		return withRetry(sql, event.key, () => bookOnce(sql, actor, event, request, catalogue), stale);
	return withRetry(
		sql,
		event.key,
		() =>
			transaction(sql, async (tx) => {
				// Before anything is held: two who make places at once wait for each other, and hold nothing meanwhile.
				await createNames(tx, event, create);
				const known = await openEvent(tx, event, request);
				if (known) return known;
				await before?.(tx);
				// What is made in this transaction is not known to others yet.
				const own = create.places || create.partners ? new Catalogue() : catalogue;
				const asked = first;
				first = null;
				const booked = await bookOnce(tx, actor, event, request, own, asked);
				if (!booked.again) await after?.(tx, booked);
				return booked;
			}),
		stale
	);
}

/** What an event was refused by is not so any more: it is read again, as where the database says so. */
class Stale extends Error {
	readonly code = 'EM040';
}

/** Reads, checks and writes an event once. */
async function bookOnce(
	db: Db,
	actor: Actor,
	event: ParsedEvent,
	request: string,
	catalogue: Catalogue,
	asked: Checked | null = null
): Promise<Booked> {
	const checked =
		asked ??
		(await checkEvent(db, event, catalogue).catch((e: unknown) => {
			if (e instanceof Problem) return e;
			throw e;
		}));
	const faults =
		checked instanceof Problem
			? []
			: checked.findings.filter((f) => f.level === 'stop' || (f.level === 'reason' && !event.reason));
	if (checked instanceof Problem || faults.length) {
		// Under its own key it may have been booked while this was read: then it is no wonder that it does not fit again.
		const known = await bookedUnder(db, event.key, request);
		if (known) return known;
		if (!(await catalogue.holds(db))) throw new Stale();
		throw checked instanceof Problem ? checked : new Problem(faults.slice(0, 200).map(faultOf));
	}
	if (event.mends && !(await db`SELECT 1 FROM event WHERE key = ${event.mends}`).length)
		throw new Problem([
			{
				message: `There is no event with the key ${event.mends}. Name the one whose quantity is put right.`,
				at: 'mends',
				code: 'unknown'
			}
		]);
	const notes = [...checked.findings.filter((f) => f.level === 'note'), ...(await noteReceipt(db, checked.lines))];
	const whole = eventHeader(actor, event, request, bookingPayload(checked));
	const [row] = await db<{ id: string; request: string | null; movements: number; again: boolean }[]>`
		SELECT * FROM book_event(${whole}::text::jsonb)`;
	return row.again ? sameRequest(row, event.key, request) : { ...row, notes };
}

/** Says every movement how its number became known? Else whoever books it says so. */
const saysHow = ({ lines }: Checked) => lines.every((l) => l.mark.kind === 'unmarked' || l.given.evidence);

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
		throw refuse(
			`${event.kind} changes what is recorded of a lot or serial, not its stock. Do it on its page, or by a call of its own.`,
			'kind'
		);
	if (event.kind === 'undo') {
		if (!event.undoes) throw refuse('Name the key of the event to undo.', 'undoes');
		if (event.movements?.length) throw refuse('An undo brings its own movements. Leave them out.', 'movements');
	} else if (event.undoes) throw refuse('Only an undo names an event to undo.', 'undoes');
	else if (event.mends && event.kind !== 'adjust')
		throw refuse('Only an adjustment names an event whose quantity it puts right.', 'mends');
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
	findings: Finding[];
	/** by which version of what is set up it was checked */
	catalogue: string;
	/** of serials that come in from outside: the last movement of each, where there is one */
	arriving: { mark: string; last: string | null }[];
	/** marks of which something leaves, and the promises of them that were not ended */
	leaving: string[];
	promises: string[];
	/** what it takes over of promises to others */
	taken: { id: string; qty: string }[];
}

/**
 * Finds what an event names and checks all of it: the one list of checks that every door goes through.
 * @param terms what is asked of what goes to its customer, where that was read already
 * @throws Problem naming what is not there at all
 */
export async function checkEvent(db: Db, event: ParsedEvent, catalogue: Catalogue, terms?: TermsOf): Promise<Checked> {
	const known = await resolveNames(db, event, catalogue);
	const { items } = known;
	const marks = await Marks.load(db, [
		...(event.movements ?? []).map((m) => ({ ...m, item: items.get(m.item)! })),
		...(event.runs ?? []).flatMap((r) => (r.unit ? [{ item: items.get(r.unit.item)!, serial: r.unit.serial }] : []))
	]);
	const runs = await resolveRuns(db, event, items, marks);
	const lines = resolveLines(event, known, marks, runs);
	keepOwners(event.kind, lines);
	const declared = [...runs.values()];
	const world = await loadWorld(
		db,
		lines,
		{ ...known, standing: marks.standing, fresh: marks.fresh, stopping: marks.stopping, promising: marks.promising },
		{
			at: new Date(event.at),
			partner: event.partner ?? null,
			orders: [event.order, ...(event.orders ?? [])].flatMap((o) => o ?? []),
			terms
		}
	);
	const checking = { kind: event.kind, lines, runs: declared, world };
	let findings = checkMovements(checking);
	if (findings.some((f) => f.code === short.code)) {
		const takers = await loadTakers(
			db,
			lines.filter((l) => findings.some((f) => f.code === short.code && f.line === l.index))
		);
		findings = checkMovements({ ...checking, world: { ...world, takers } });
	}
	const arriving = arrivingIn(lines).map((mark) => ({ mark, last: world.last.get(mark)?.movement ?? null }));
	const taken = takenOver(lines, world.standing, world.promised).flatMap((t) =>
		t.of.map(({ id, qty }) => ({ id, qty }))
	);
	return {
		...{ lines, marks, runs: declared, facts: known.facts, findings, catalogue: known.version, arriving },
		...{ leaving: leavingIn(lines), promises: world.promises, taken }
	};
}

/** The same, by what is set up now: for what somebody is shown, and what is refused at once. */
export async function checkNow(db: Db, event: ParsedEvent): Promise<Checked> {
	const catalogue = catalogueOf(db);
	await catalogue.current(db);
	return checkEvent(db, event, catalogue);
}

/** A finding as a fault of an event: the movement it is about, and the check that says so. */
export const faultOf = (f: Finding): Fault => ({
	message: sentence(f),
	at: f.line < 0 ? 'runs' : `movements[${f.line}]`,
	code: f.code,
	level: f.level === 'reason' ? 'reason' : 'stop'
});

/** An event as the database writes it: new marks and runs by -1, -2, …, and what all of it is held to. */
function bookingPayload(checked: Checked): object {
	const { lines, marks, runs, facts, catalogue, arriving, leaving, promises, taken } = checked;
	const changes = takeFacts(lines, facts);
	const files = filesIn(lines, facts);
	const fresh = runs.filter((r) => !r.id);
	const idOf = new Map(runs.map((r) => [r, r.id]));
	fresh.forEach((r, n) => idOf.set(r, String(-1 - n)));
	const held = new Map<string, number>();
	for (const l of lines) for (const m of l.lot ? [l.mark, l.lot] : [l.mark]) if (!m.fresh) held.set(m.id, m.version);
	const old = runs.filter((r) => r.id).map(({ id, last, closed }) => ({ id, last, closed }));
	const some = <T>(name: string, list: readonly T[]) => (list.length ? { [name]: list } : {});
	return {
		held: {
			catalogue,
			marks: column([...held.keys()], (id) => id),
			versions: column([...held.values()], String),
			...balancesOf(lines),
			...some('arriving', arriving),
			leaving: column(leaving, (id) => id),
			promises: column(promises, (id) => id),
			...some('runs', old)
		},
		...some(
			'marks',
			marks.fresh.map((m) => ({
				item: m.item_id,
				kind: m.kind,
				lot: m.lot_no,
				serial: m.serial_no,
				parent: m.parent_id,
				supplierLot: m.supplier_lot,
				supplierSerial: m.supplier_serial,
				supplierWarrantyUntil: m.supplier_warranty_until,
				facts: Object.keys(m.facts).length ? m.facts : undefined,
				madeOn: m.made_on,
				expiresOn: m.expires_on,
				owner: m.owner ?? undefined,
				lookalikes: m.lookalikes
			}))
		),
		...some('taken', taken),
		...some('changes', changes),
		...some('files', files),
		...some(
			'runs',
			fresh.map((r) => ({ code: r.code, unit: r.unit?.id, planned: r.planned }))
		),
		...some(
			'closing',
			runs.filter((r) => r.closes).map((r) => idOf.get(r))
		),
		...(lines.length
			? {
					movements: {
						mark: column(lines, (l) => l.mark.id),
						qty: column(lines, (l) => l.given.qty),
						from: column(lines, (l) => l.from.id),
						to: column(lines, (l) => l.to.id),
						run: column(lines, (l) => l.run && idOf.get(l.run)),
						role: column(lines, (l) => l.given.role),
						unitCost: column(lines, (l) => l.given.unitCost),
						orderLine: column(lines, (l) => l.given.orderLine),
						evidence: column(lines, (l) => (l.mark.kind === 'unmarked' ? null : l.given.evidence))
					}
				}
			: {})
	};
}

/**
 * One column of many rows as the database reads an array: ids, quantities and our own words, none of which needs quotes.
 * @returns nothing where it is empty in all of them
 */
function column<T>(rows: readonly T[], of: (row: T) => string | null | undefined): string | undefined {
	let some = false;
	const values = rows.map((r) => {
		const value = of(r);
		if (value) some = true;
		return value || 'NULL';
	});
	return some ? `{${values.join(',')}}` : undefined;
}

/** Balances that have to be held before they change: of lots and of stock without numbers; a serial is taken once anyway. */
function balancesOf(lines: readonly Line[]): object {
	const known = lines.filter((l) => l.mark.kind !== 'serial' && !l.mark.fresh);
	if (!known.length) return {};
	const twice = known.flatMap((l) => [
		[l.mark.id, l.from.id],
		[l.mark.id, l.to.id]
	]);
	return { balances: { marks: column(twice, ([mark]) => mark), places: column(twice, ([, place]) => place) } };
}

/** Files that movements give as facts: they are kept with the lot or serial that keeps the fact. */
const filesIn = (lines: readonly Line[], facts: ReadonlyMap<string, Fact>) =>
	lines.flatMap((l) =>
		Object.entries(l.given.facts ?? {}).flatMap(([code, value]) => {
			const fact = facts.get(code);
			const file = fact?.kind === 'file' && l.mark.kind !== 'unmarked' ? fileOf(value) : null;
			return file ? [{ ...file, mark: factKeeper(fact!, l).id }] : [];
		})
	);

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
		if (given.supplierWarrantyUntil && !l.mark.supplier_warranty_until) {
			l.mark.supplier_warranty_until = given.supplierWarrantyUntil;
			changed(l.mark, 'supplier_warranty_until', given.supplierWarrantyUntil);
		}
		// Its serials are the lot's owner's by it.
		const owned = l.lot ?? l.mark;
		if (given.owner && owned.fresh) owned.owner = given.owner;
		if (!given.facts) continue;
		for (const [code, value] of Object.entries(given.facts)) {
			const mark = factKeeper(facts.get(code)!, l);
			if (mark.facts[code] === value) continue;
			mark.facts = { ...mark.facts, [code]: value };
			changed(mark, 'facts', JSON.stringify(mark.facts));
		}
	}
	return [...changes.values()];
}
