import { z } from 'zod';
import type { Db, Sql, Tx } from '../database/connect.ts';
import * as say from '../../core/checks/catalogue.ts';
import { faultFrom, sentence, type Finding } from '../../core/checks/check.ts';
import { findNumber } from '../../core/checks/movements.ts';
import { parseDay, showDay, workOut, type Day } from '../../core/dates/dates.ts';
import { CORRECTABLE, isCorrectable, type CorrectableField, type Field } from '../../core/ledger/corrections.ts';
import type { Actor } from '../../core/ledger/input.ts';
import type { Item, Mark } from '../../core/ledger/line.ts';
import { sayStatus } from '../../core/ledger/status.ts';
import { Problem } from '../../core/problem/problem.ts';
import { id, key, line, number, text } from '../../core/text/input.ts';
import { dayIn } from '../../core/time/clock.ts';
import { firmZone } from '../marks/zone.ts';
import { parse } from '../parse.ts';
import { append, type AppendOptions, type Booked, type Written } from './append.ts';
import { catalogueOf } from './catalogue.ts';
import { recordFact, type Change } from './changes.ts';
import { loadNumbers } from './world.ts';

/** A correction, as parsed. */
export const correctionGiven = z.strictObject({
	key,
	/** id of the lot or serial */
	mark: id,
	at: z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' }).optional(),
	/** what is corrected: one of CORRECTABLE, or a fact's code */
	field: text(30, 1, 'Choose what is wrong.'),
	/** empty where nothing is to be recorded any more */
	value: text(300, 0),
	reason: text(1000, 1, 'Say why, in one line. It is kept in the ledger.'),
	/** of made on: the expiry that was worked out from it is worked out anew */
	expiryToo: z.boolean().default(false),
	/** of a number: id of the lot that its own was seen to move into, null where none was; left out where nobody looked */
	into: id.nullish(),
	/** of expires on: ids of lots and serials that took their date from this one */
	also: z.array(id).max(1000).default([])
});

/** A lot or serial as a correction reads it. */
interface Subject {
	id: string;
	item: string;
	itemId: string;
	kind: 'lot' | 'serial';
	number: string;
	lot: string | null;
	lotId: string | null;
	status: string;
	owner: string | null;
	supplierLot: string | null;
	supplierSerial: string | null;
	supplierWarrantyUntil: Day | null;
	madeOn: Day | null;
	expiresOn: Day | null;
	standing: { place: string; code: string; qty: string }[];
}
/** What a correction would do. */
export interface Plan {
	mark: Subject;
	label: string;
	/** as recorded, and as it would be */
	old: string | null;
	value: string | null;
	changes: Change[];
	/** the lot that its quantity moves into, where the number is that of another lot */
	merge: { into: Subject; serials: string[] } | null;
	/** the lot that is made for it */
	fresh: string | null;
	/** the expiry that was worked out from the date that is corrected, and what it would be */
	expiry: { from: Day; to: Day } | null;
	/** what is to be said of it; what stops it is thrown */
	findings: Finding[];
}

const readSubjects = (db: Db, where: ReturnType<Db>) => db<Subject[]>`
	SELECT k.id, i.code AS item, k.item_id AS "itemId", k.kind, k.number, l.lot_no AS lot, k.parent_id AS "lotId", k.status, k.owner, k.supplier_lot AS "supplierLot",
		k.supplier_serial AS "supplierSerial", k.supplier_warranty_until AS "supplierWarrantyUntil", k.made_on AS "madeOn", k.expires_on AS "expiresOn",
		coalesce((SELECT json_agg(json_build_object('place', b.place_id::text, 'code', p.code, 'qty', trim_scale(b.qty)::text) ORDER BY p.code)
			FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual), '[]') AS standing
	FROM mark k JOIN item i ON i.id = k.item_id LEFT JOIN mark l ON l.id = k.parent_id WHERE k.kind <> 'unmarked' AND ${where}`;

const refuse = (message: string, at: string, code = 'correction') => new Problem([{ message, at, code }]);

/**
 * What a correction of anything but a fact would do, and what is to be said of it. Changes nothing.
 * @throws Problem naming what stands in the way
 */
export async function planCorrection(
	db: Db,
	given: Pick<z.output<typeof correctionGiven>, 'mark' | 'field' | 'value' | 'expiryToo' | 'also'>,
	now: Date
): Promise<Plan> {
	const [mark] = await readSubjects(db, db`k.id = ${given.mark}`);
	if (!mark) throw refuse('This lot or serial is not known. Look it up in the register.', 'mark', 'unknown');
	if (!isCorrectable(given.field))
		throw refuse(
			`There is no ${given.field} to correct. Name one of ${Object.keys(CORRECTABLE).join(', ')}, or an extra field’s code.`,
			'field'
		);
	const { field } = given;
	const what = CORRECTABLE[field];
	if (!(what.of as readonly string[]).includes(mark.kind))
		throw refuse(
			`A ${mark.kind} has no ${what.label.toLowerCase()} of its own. Correct it on its lot’s page.`,
			'field'
		);
	const old = field === 'number' ? mark.number : field === 'lot' ? mark.lot : mark[field];
	const value = readValue(field, given.value);
	if (what.reads === 'partner') await checkOwner(db, mark, value);
	const shown = (v: string | null) => (v === null ? 'not recorded' : what.reads === 'day' ? showDay(v) : v);
	if (value === old)
		throw refuse(`${what.label} of ${mark.number} is ${shown(old)} already. Nothing is corrected.`, 'value');
	const plan: Plan = {
		mark,
		label: what.label,
		old,
		value,
		changes: [],
		merge: null,
		fresh: null,
		expiry: null,
		findings: []
	};
	const change = (of: string, column: Field, to: string | null) =>
		void plan.changes.push({ mark: of, field: column, value: to });
	if (field === 'number') await planNumber(db, plan, value!);
	else if (field === 'lot') await planLot(db, plan, value!);
	else {
		change(mark.id, what.column, value);
		if (what.reads === 'day') await planDay(db, plan, field, given, now);
	}
	return plan;
}

/** A value as it is kept; null where nothing is to be recorded. @throws Problem when it cannot be read */
function readValue(field: CorrectableField, typed: string): string | null {
	const what = CORRECTABLE[field];
	if (!typed.trim()) {
		if (what.optional) return null;
		throw refuse(`Type the ${what.label.toLowerCase()} that is right.`, 'value');
	}
	if (what.reads === 'day') {
		const read = parseDay(typed);
		if ('problem' in read) throw refuse(read.problem, 'value', 'date');
		return read.day;
	}
	const read = (what.reads === 'number' ? number : line(60)).safeParse(typed);
	if (!read.success) throw refuse(read.error.issues[0].message, 'value', 'form');
	return read.data;
}

/** An owner is a partner, and a serial is ours only where its lot is. @throws Problem when it cannot be so */
async function checkOwner(db: Db, mark: Subject, owner: string | null) {
	if (owner) {
		const there = await db`SELECT 1 FROM partner WHERE code = ${owner}`;
		if (!there.length) throw new Problem([faultFrom(say.noSuch, { what: 'partner', code: owner }, 'value')]);
		return;
	}
	const [lot] = await db<{ owner: string }[]>`
		SELECT q.name AS owner FROM mark l JOIN partner q ON q.code = l.owner WHERE l.id = ${mark.lotId}`;
	if (lot)
		throw refuse(
			`${mark.number} belongs to ${lot.owner} with its lot ${mark.lot}. Correct it on the page of the lot, or move the serial to a lot that is ours.`,
			'value'
		);
}

const itemOf = async (db: Db, code: string) => {
	const known = await catalogueOf(db).readNow(db, { items: [code], places: [], facts: [], partners: [], job: null });
	return { item: known.items.get(code)!, policy: known.policy };
};
/** What is to be said of a number that a lot or serial gets. @throws Problem when something stops it */
async function checkNumber(db: Db, plan: Plan, kind: 'lot' | 'serial', own: string, except: string | null) {
	const { item, policy } = await itemOf(db, plan.mark.item);
	const world = { policy, ...(await loadNumbers(db, [asMark(item, kind, own)], except)) };
	const findings = findNumber({ item, about: { kind, number: own }, world, line: -1 });
	const stops = findings.filter((f) => f.level === 'stop');
	if (stops.length) throw new Problem(stops.map((f) => ({ message: sentence(f), at: 'value', code: f.code })));
	plan.findings.push(...findings);
}
const asMark = (item: Item, kind: 'lot' | 'serial', own: string) =>
	({ id: '-1', item_id: item.id, kind, lot_no: own, serial_no: kind === 'serial' ? own : null }) as Mark;

async function planNumber(db: Db, plan: Plan, value: string) {
	const { mark } = plan;
	const [there] = await readSubjects(
		db,
		db`k.item_id = ${mark.itemId} AND k.kind = ${mark.kind} AND k.number = ${value}`
	);
	if (!there) {
		await checkNumber(db, plan, mark.kind, value, mark.id);
		plan.changes.push({ mark: mark.id, field: mark.kind === 'lot' ? 'lot_no' : 'serial_no', value });
		return;
	}
	if (mark.kind === 'serial')
		throw refuse(
			`Serial ${value} is another piece of ${mark.item}${there.standing.length ? `, at ${there.standing[0].code}` : ''}. Two pieces cannot be made one: check which of the two labels is wrong.`,
			'value',
			'known'
		);
	const serials = await db<{ id: string }[]>`SELECT id FROM mark WHERE parent_id = ${mark.id} ORDER BY id`;
	if (!mark.standing.length && !serials.length)
		throw refuse(
			`Nothing of ${mark.number} is here to move into ${value}. What went out as ${mark.number} stays readable under it; write a note on its page.`,
			'value',
			'short'
		);
	if (mark.status !== there.status)
		throw refuse(
			`${mark.number} is ${sayStatus(mark.status)} and ${value} is ${sayStatus(there.status)}. Bring both to one status first.`,
			'value',
			'status'
		);
	if (mark.owner !== there.owner)
		throw refuse(
			`${mark.number} and ${value} do not belong to the same. Correct whose they are first.`,
			'value',
			'owner'
		);
	plan.merge = { into: there, serials: serials.map((s) => s.id) };
	for (const s of serials) plan.changes.push({ mark: s.id, field: 'parent_id', value: there.id });
}

async function planLot(db: Db, plan: Plan, value: string) {
	const { mark } = plan;
	const { tracking } = (await itemOf(db, mark.item)).item;
	if (!tracking.includes('lot')) throw refuse(`${mark.item} carries no lot. Leave it out.`, 'field');
	const [lot] = await readSubjects(db, db`k.item_id = ${mark.itemId} AND k.kind = 'lot' AND k.number = ${value}`);
	if (!lot) {
		await checkNumber(db, plan, 'lot', value, null);
		plan.fresh = value;
	}
	plan.changes.push({ mark: mark.id, field: 'parent_id', value: lot?.id ?? null });
}

async function planDay(
	db: Db,
	plan: Plan,
	field: CorrectableField,
	given: { expiryToo: boolean; also: string[] },
	now: Date
) {
	const { mark, value } = plan;
	const made = field === 'madeOn' ? value : mark.madeOn;
	let expires = field === 'expiresOn' ? value : mark.expiresOn;
	if (field === 'madeOn') {
		const today = dayIn(await firmZone(db), now);
		if (value && value > today) throw new Problem([faultFrom(say.madeAhead, { on: value }, 'value')]);
		const { item } = await itemOf(db, mark.item);
		if (value && mark.madeOn && mark.expiresOn && item.shelfLife) {
			const [was, to] = [mark.madeOn, value].map((d) => workOut(d, item.shelfLife!, item.endOfMonth));
			if (was === mark.expiresOn && to !== was) plan.expiry = { from: was, to };
		}
		if (given.expiryToo) {
			if (!plan.expiry)
				throw refuse(
					`The expiry of ${mark.number} was not worked out from this date. Correct it by itself.`,
					'expiryToo'
				);
			expires = plan.expiry.to;
			plan.changes.push({ mark: mark.id, field: 'expires_on', value: expires });
		}
	}
	if (expires && made && expires <= made && field !== 'supplierWarrantyUntil')
		throw new Problem([faultFrom(say.expiresBeforeMade, { on: expires }, 'value')]);
	if (field !== 'expiresOn') return;
	const took = new Map((await datesTaken(db, mark)).map((t) => [t.id, t]));
	for (const also of new Set(given.also)) {
		if (!took.has(also))
			throw refuse(`One of those named did not take its date from ${mark.number}. Correct it by itself.`, 'also');
		plan.changes.push({ mark: also, field: 'expires_on', value });
	}
}

/** A lot or serial whose expiry is that of what it was made from, or of the lot that it belongs to. */
export interface Taken {
	id: string;
	kind: 'lot' | 'serial';
	number: string;
	item: string;
	itemName: string;
	/** it belongs to the lot; else it was made from it */
	belongs: boolean;
}
/** What took its expiry from a lot or serial: of its pieces and of what was made from it, on any way, those that have the same day. */
export async function datesTaken(db: Db, mark: { id: string; expiresOn: Day | null }): Promise<Taken[]> {
	if (!mark.expiresOn) return [];
	return db<Taken[]>`
		WITH RECURSIVE same(id, belongs) AS (
			SELECT ${mark.id}::bigint, true
			UNION
			SELECT n.id, n.belongs FROM same CROSS JOIN LATERAL (
				SELECT k.id, same.belongs FROM mark k WHERE k.parent_id = same.id
				UNION ALL
				SELECT coalesce(r.unit_mark, o.mark_id), false FROM effective_movement u JOIN run r ON r.id = u.run_id
					LEFT JOIN effective_movement o ON o.run_id = r.id AND o.role = 'make' AND r.unit_mark IS NULL
					WHERE u.mark_id = same.id AND u.role = 'use') n
				JOIN mark_now k ON k.id = n.id AND k.kind <> 'unmarked' AND k.expires_on = ${mark.expiresOn})
		SELECT k.id, k.kind, k.number, i.code AS item, i.name AS "itemName", bool_or(s.belongs) AS belongs
		FROM same s JOIN mark k ON k.id = s.id AND k.id <> ${mark.id} AND k.expires_on = ${mark.expiresOn} JOIN item i ON i.id = k.item_id
		GROUP BY k.id, i.id ORDER BY i.code, k.number COLLATE natural_order LIMIT 1000`;
}

/**
 * Corrects what is recorded of a lot or serial: an event of its own with the old and the new value and the reason. The mark
 * stays the same and its life stands. A lot that gets the number of another moves into it by a run, so that both lives
 * stay readable.
 * @throws Problem naming what stands in the way; nothing is changed then
 */
export async function correct(sql: Sql, actor: Actor, input: unknown, options: AppendOptions = {}): Promise<Booked> {
	const given = parse(correctionGiven, input);
	const now = options.clock?.() ?? new Date();
	if (!isCorrectable(given.field))
		return recordFact(sql, actor, {
			key: given.key,
			mark: given.mark,
			code: given.field,
			value: given.value,
			reason: given.reason,
			...(given.at ? { at: given.at } : {})
		});
	const { key: under, ...request } = given;
	const at = given.at ?? now.toISOString();
	const write = async (tx: Tx, draw: () => Promise<string>): Promise<Written> => {
		// What it touches is found, then held, then looked at once more: what is not so any more is found to be so.
		const ahead = await planCorrection(tx, given, now);
		const marks = [given.mark, ...ahead.changes.map((c) => c.mark), ...(ahead.merge ? [ahead.merge.into.id] : [])];
		await tx`SELECT lock_marks(${[...new Set(marks)]}::bigint[], NULL, true)`;
		if (ahead.merge) await holdMerge(tx, ahead.mark, ahead.merge.into);
		const plan = await planCorrection(tx, given, now);
		const { merge } = plan;
		if (given.into !== undefined && given.into !== (merge?.into.id ?? null))
			throw refuse(
				merge
					? `${merge.into.number} is another lot of ${plan.mark.item}: what is here of ${plan.mark.number} would move into it. Look at what it touches, and save again.`
					: `There is no other lot ${plan.value} any more: ${plan.mark.number} would only be called so. Look at what it touches, and save again.`,
				'value',
				'changed'
			);
		const event = await draw();
		if (plan.fresh) plan.changes[0].value = await makeLot(tx, event, plan);
		const movements = merge ? await moveInto(tx, event, at, plan.mark, merge.into) : 0;
		if (merge) await promiseInto(tx, actor, event, plan.mark, merge.into);
		if (plan.changes.length)
			await tx`SELECT change_marks(${event}::bigint, ${JSON.stringify(plan.changes)}::text::jsonb)`;
		return { movements, notes: plan.findings.filter((f) => f.level === 'note') };
	};
	return append(sql, actor, { key: under, kind: 'correct', at, reason: given.reason }, write, { ...options, request });
}

async function holdMerge(tx: Tx, from: Subject, into: Subject) {
	const places = from.standing.map((s) => s.place);
	if (!places.length) return;
	await tx`SELECT lock_balances(${[...places.map(() => from.id), ...places.map(() => into.id)]}::bigint[], ${[...places, ...places]}::bigint[])`;
}

/** Moves all of a lot that is here into another by a run: what was the wrong one goes in, the right one comes out. */
async function moveInto(tx: Tx, event: string, at: string, from: Subject, into: Subject): Promise<number> {
	if (!from.standing.length) return 0;
	const [{ id: run }] = await tx<{ id: string }[]>`
		INSERT INTO run (code, event_id) VALUES (${`${from.number}→${into.number}/${event}`.slice(-120)}, ${event}) RETURNING id`;
	const [{ process }] = await tx<{ process: string }[]>`SELECT id AS process FROM place WHERE code = '@process'`;
	const places = from.standing.map((s) => s.place);
	const rows = [
		...from.standing.map((s) => ({ mark: from.id, qty: s.qty, from: s.place, to: process, role: 'use' })),
		...from.standing.map((s) => ({ mark: into.id, qty: s.qty, from: process, to: s.place, role: 'make' }))
	];
	await tx`INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, evidence)
		SELECT ${event}::bigint, ${at}::timestamptz, n.mark, n.qty, n."from", n."to", ${run}::bigint, n.role, 'entered'
		FROM unnest(${rows.map((r) => r.mark)}::bigint[], ${rows.map((r) => r.qty)}::numeric[], ${rows.map((r) => r.from)}::bigint[], ${rows.map((r) => r.to)}::bigint[], ${rows.map((r) => r.role)}::text[])
			WITH ORDINALITY n(mark, qty, "from", "to", role, pos) ORDER BY pos`;
	return 2 * places.length;
}

/** What was promised of a lot that moves into another is promised of that one. */
async function promiseInto(tx: Tx, actor: Actor, event: string, from: Subject, into: Subject): Promise<void> {
	await tx`
		INSERT INTO promise (key, request, order_line_id, partner_id, arrived, mark_id, qty, until, reason, since, made_by)
		SELECT 'moved by ' || ${event} || ' from ' || p.id, p.request, p.order_line_id, p.partner_id, p.arrived, ${into.id}, n.rest, p.until, p.reason, ${event}, p.made_by
		FROM promise_now n JOIN promise p ON p.id = n.id WHERE n.mark_id = ${from.id} ORDER BY p.id`;
	await tx`UPDATE promise SET released_at = now(), released_by = ${actor.name} WHERE mark_id = ${from.id} AND released_at IS NULL`;
}

/** Makes the lot that a serial belongs to, where it is not known yet. @returns its id */
async function makeLot(tx: Tx, event: string, { mark, fresh }: Plan): Promise<string> {
	const [lot] = await tx<{ id: string }[]>`
		INSERT INTO mark (item_id, kind, lot_no, event_id, lookalike) SELECT ${mark.itemId}, 'lot', ${fresh}, ${event}, coalesce(max(k.lookalike) + 1, 0)
		FROM mark k WHERE k.looks = looks(${fresh}) AND k.kind <> 'unmarked' RETURNING id`;
	return lot.id;
}
