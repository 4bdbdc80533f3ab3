import type { Sql, Tx } from '../database/connect.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { bearer, checkLineFacts, checkLines, checkStock } from './checks.ts';
import { fileOf, type Fact } from '../../core/facts/fact.ts';
import { eventInput, type Actor, type EventInput, type ParsedEvent } from './input.ts';
import { explain } from './explain.ts';
import { Marks, resolveNames, resolveRuns, type Create, type Line, type Mark, type Run } from './resolve.ts';
import { mirror } from './undo.ts';

export interface Booked {
	/** the event's number in the ledger */
	id: string;
	/** true when the key was known: nothing was booked now */
	again: boolean;
	movements: number;
}
export interface BookOptions {
	/** make sites, bins or partners that are not known yet */
	create?: Create;
	/** runs in the same transaction, after the event is written: what a draft or an order has to know of it */
	after?: (tx: Tx, booked: Booked) => Promise<void>;
	/** runs in the same transaction, before anything is read, under the ledger's lock */
	before?: (tx: Tx) => Promise<void>;
}

/**
 * The only door into the ledger. One event, one transaction: lock the head of the chain, check, write, seal.
 *
 * Bookings are one after another (the hash chain has one end), so what is checked under the lock still holds when it
 * is written, and two bookings cannot wait for each other.
 *
 * @throws Problem naming each faulty line; nothing is booked then
 */
export async function book(sql: Sql, actor: Actor, input: EventInput, options: BookOptions = {}): Promise<Booked> {
	const parsed = eventInput.safeParse(input);
	if (!parsed.success)
		throw new Problem(
			parsed.error.issues.slice(0, 200).map((i) => ({
				message: i.message,
				at: i.path
					.map((p) => (typeof p === 'number' ? `[${p}]` : String(p)))
					.join('.')
					.replaceAll('.[', '[')
			}))
		);
	const event = parsed.data;
	checkEvent(event);
	return inTransaction(sql, async (tx) => {
		const [head] = await tx<{ next: string }[]>`SELECT last_event + 1 AS next FROM ledger_head FOR UPDATE`;
		const [known] = await tx<{ id: string; n: number }[]>`
			SELECT id, (SELECT count(*)::int FROM movement m WHERE m.event_id = e.id) AS n FROM event e WHERE key = ${event.key}`;
		if (known) return { id: known.id, again: true, movements: known.n };
		await options.before?.(tx);
		const movements =
			event.kind === 'undo'
				? await mirror(tx, event, head.next)
				: await write(tx, actor, event, head.next, options.create ?? {});
		await seal(tx, actor, event, head.next);
		const booked = { id: head.next, again: false, movements };
		await options.after?.(tx, booked);
		return booked;
	});
}

function checkEvent(event: ParsedEvent) {
	const at = Date.parse(event.at);
	if (at > Date.now() + 600_000)
		throw new Problem([{ message: `${event.at.slice(0, 16).replace('T', ' ')} is in the future. Give the time when it happened.`, at: 'at' }]); // prettier-ignore
	if (at < Date.UTC(1970, 0, 1)) throw new Problem([{ message: `${event.at} is too long ago. Check the date.`, at: 'at' }]); // prettier-ignore
	if (['hold', 'release', 'reject', 'correct'].includes(event.kind))
		throw new Problem([{ message: `${event.kind} changes a lot's or serial's facts, not its stock. Do it on its page.`, at: 'kind' }]); // prettier-ignore
	if (event.kind === 'undo') {
		if (!event.undoes) throw new Problem([{ message: 'Name the key of the event to undo.', at: 'undoes' }]);
		if (event.movements?.length) throw new Problem([{ message: 'An undo brings its own movements. Leave them out.', at: 'movements' }]); // prettier-ignore
	} else if (event.undoes) throw new Problem([{ message: 'Only an undo names an event to undo.', at: 'undoes' }]);
	else if (!event.movements?.length && !event.runs?.some((r) => r.closed))
		throw new Problem([{ message: 'Nothing is moved. Give at least one movement.', at: 'movements' }]);
}

/** Checks and writes marks, runs and movements of one event. @returns how many movements */
async function write(tx: Tx, actor: Actor, event: ParsedEvent, id: string, create: Create): Promise<number> {
	const { items, places, facts } = await resolveNames(tx, event, create);
	const given = event.movements ?? [];
	const unknown = (event.runs ?? []).filter((r) => r.unit && !items.has(r.unit.item));
	if (unknown.length)
		throw new Problem(unknown.map((r) => ({ message: `There is no item ${r.unit!.item}. Correct the code.`, at: `run ${r.code}` }))); // prettier-ignore
	const marks = await Marks.load(tx, [
		...given.map((m) => ({ item: items.get(m.item)!, lot: m.lot, serial: m.serial })),
		...(event.runs ?? []).flatMap((r) => (r.unit ? [{ item: items.get(r.unit.item)!, serial: r.unit.serial }] : []))
	]);
	const runs = await resolveRuns(tx, event, items, marks);
	const lines = given.map((m, index): Line => {
		const item = items.get(m.item)!;
		const run = m.run ? runs.get(m.run)! : null;
		return { index, given: m, item, from: places.get(m.from)!, to: places.get(m.to)!, mark: marks.get(item, m.lot, m.serial), run }; // prettier-ignore
	});
	const faults = checkLines(event, lines, marks);
	faults.push(...checkParents(lines, marks));
	faults.push(...checkLineFacts(event, lines, marks, facts));
	const files = filesOf(lines, marks, facts);
	faults.push(...(await checkFiles(tx, files)));
	if (!faults.length) faults.push(...(await checkStock(tx, lines)));
	if (faults.length) throw new Problem(faults.slice(0, 200));

	const changes = takeFacts(lines, marks, facts);
	await marks.save(tx, id);
	await saveChanges(tx, id, changes);
	await keepFiles(tx, actor, files);
	await saveRuns(tx, id, event.order ?? null, [...runs.values()]);
	await tx`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, unit_cost, order_line_id)
		SELECT ${id}::bigint, ${event.at}::timestamptz, mark, qty, f, t, run, role, cost, line FROM unnest(
			${lines.map((l) => l.mark.id)}::bigint[], ${lines.map((l) => l.given.qty)}::numeric[],
			${lines.map((l) => l.from.id)}::bigint[], ${lines.map((l) => l.to.id)}::bigint[],
			${lines.map((l) => l.run?.id ?? null)}::bigint[], ${lines.map((l) => l.given.role ?? null)}::text[],
			${lines.map((l) => l.given.unitCost ?? null)}::numeric[], ${lines.map((l) => l.given.orderLine ?? null)}::bigint[])
			WITH ORDINALITY AS n(mark, qty, f, t, run, role, cost, line, pos) ORDER BY pos`;
	return lines.length;
}

/** A serial belongs to the lot it was first booked with. */
function checkParents(lines: Line[], marks: Marks): Fault[] {
	const faults: Fault[] = [];
	for (const l of lines) {
		if (l.mark.kind !== 'serial' || !l.given.lot) continue;
		const lot = marks.get(l.item, l.given.lot);
		if (l.mark.parent_id !== lot.id)
			faults.push({
				message: `Serial ${l.mark.serial_no} does not belong to lot ${l.given.lot}. Check which of the two is wrong.`,
				...{ at: `movements[${l.index}]`, rule: 'lot' }
			});
	}
	return faults;
}

interface GivenFile {
	mark: Mark;
	sha256: string;
	name: string;
	at: string;
}
/** Files that movements give as facts, with the lot or serial that keeps each. */
function filesOf(lines: Line[], marks: Marks, facts: Map<string, Fact>): GivenFile[] {
	if (![...facts.values()].some((f) => f.kind === 'file')) return [];
	return lines.flatMap((l) =>
		Object.entries(l.given.facts ?? {}).flatMap(([code, value]) => {
			const fact = facts.get(code);
			const file = fact?.kind === 'file' ? fileOf(value) : null;
			return file && l.mark.kind !== 'unmarked' ? [{ ...file, mark: bearer(fact!, l, marks), at: `movements[${l.index}]` }] : []; // prettier-ignore
		})
	);
}
async function checkFiles(tx: Tx, files: GivenFile[]): Promise<Fault[]> {
	if (!files.length) return [];
	const there = await tx<{ sha256: string }[]>`SELECT sha256 FROM stored_file WHERE sha256 = ANY(${files.map((f) => f.sha256)})`; // prettier-ignore
	const known = new Set(there.map((t) => t.sha256));
	return files.filter((f) => !known.has(f.sha256)).map((f) => ({ message: `The file ${f.name} is not here. Add it once more.`, at: f.at, rule: 'fact' })); // prettier-ignore
}
const keepFiles = async (tx: Tx, actor: Actor, files: GivenFile[]) => {
	if (files.length)
		await tx`INSERT INTO mark_file (mark_id, name, sha256, added_by)
			SELECT DISTINCT ON (mark, sha) mark, name, sha, ${actor.name}::text FROM unnest(${files.map((f) => f.mark.id)}::bigint[], ${files.map((f) => f.name)}::text[], ${files.map((f) => f.sha256)}::text[]) n(mark, name, sha)
			ON CONFLICT DO NOTHING`;
};

interface Change {
	mark: string;
	field: 'expires_on' | 'made_on' | 'supplier_lot' | 'supplier_serial' | 'facts';
	new: string;
}
/**
 * What is given with a movement besides its numbers: set on new marks; on known ones dates and the supplier's numbers
 * are filled in where they were empty, and the firm's own facts replaced by what is measured now.
 */
function takeFacts(lines: Line[], marks: Marks, facts: Map<string, Fact>): Change[] {
	const changes = new Map<string, Change>();
	const changed = (mark: Mark, field: Change['field'], value: string) => {
		if (!mark.fresh) changes.set(`${mark.id} ${field}`, { mark: mark.id, field, new: value });
	};
	for (const l of lines) {
		if (l.mark.kind === 'unmarked') continue;
		const { given } = l;
		if (given.expiresOn || given.madeOn || given.supplierLot)
			for (const mark of given.serial && given.lot ? [l.mark, marks.get(l.item, given.lot)] : [l.mark])
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
			const mark = bearer(facts.get(code)!, l, marks);
			if (mark.facts[code] === value) continue;
			mark.facts = { ...mark.facts, [code]: value };
			changed(mark, 'facts', JSON.stringify(mark.facts));
		}
	}
	return [...changes.values()];
}

/** Writes what changed, with what it was before; the database refuses a change of a mark without such a row. */
async function saveChanges(tx: Tx, event: string, changes: Change[]) {
	for (const field of new Set(changes.map((c) => c.field))) {
		const mine = changes.filter((c) => c.field === field);
		const given = tx`unnest(${mine.map((c) => c.mark)}::bigint[], ${mine.map((c) => c.new)}::text[]) n(mark, value)`;
		const type = field === 'facts' ? tx`jsonb` : field === 'expires_on' || field === 'made_on' ? tx`date` : tx`text`;
		await tx`INSERT INTO mark_change (event_id, mark_id, field, old, new)
			SELECT ${event}::bigint, n.mark, ${field}::text, to_jsonb(k) ->> ${field}, (n.value::${type})::text FROM ${given} JOIN mark k ON k.id = n.mark`;
		await tx`UPDATE mark k SET ${tx(field)} = n.value::${type} FROM ${given} WHERE k.id = n.mark`;
	}
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

/** Writes the event row last: the database checks the whole and puts it into the chain. */
export async function seal(tx: Tx, actor: Actor, event: ParsedEvent, id: string) {
	await tx`INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, order_id, document, partner_id, reason, note, undoes, prev_hash, hash)
		VALUES (${id}, ${event.key}, ${event.kind}, ${event.at}, now(), ${actor.name}, ${actor.source}, ${event.order ?? null},
			${event.document ?? null}, (SELECT id FROM partner WHERE code = ${event.partner ?? null}),
			${event.reason || null}, ${event.note || null}, (SELECT id FROM event WHERE key = ${event.undoes ?? null}), '', '')`;
}

/** Runs one booking; again when the database says that only the moment was bad. */
export async function inTransaction<T>(sql: Sql, work: (tx: Tx) => Promise<T>): Promise<T> {
	for (let attempt = 1; ; attempt++)
		try {
			return (await sql.begin((tx) => work(tx as unknown as Tx))) as T;
		} catch (error) {
			const code = (error as { code?: string }).code;
			if ((code === '40001' || code === '40P01') && attempt < 5) continue;
			throw await explain(sql, error);
		}
}
