import type { Db } from '../database/connect.ts';
import { sentence } from '../../core/checks/check.ts';
import { showDay, showWhen } from '../../core/dates/dates.ts';
import { documentPath, HOLDING, type Kind } from '../../core/document/kinds.ts';
import { isCorrectable } from '../../core/ledger/corrections.ts';
import { sayStatus } from '../../core/ledger/status.ts';
import { Problem } from '../../core/problem/problem.ts';
import { amount, total } from '../../core/quantity/quantity.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { ranged } from '../../core/ranges/ranges.ts';
import { datesTaken, planCorrection, type Plan, type Taken } from '../ledger/corrections.ts';

/** What a correction touches: said before it is saved. */
export interface Touches {
	/** where it lies: "40 each at QS/A1" */
	where: string[];
	/** open orders that it is promised to or whose sheets hold it, and what went out on which paper */
	promised: { code: string; path: string | null; what: string }[];
	shipped: { document: string; path: string | null; what: string }[];
	/** labels that carry what is recorded now; null where none was printed */
	labels: string | null;
	/** papers that carry it */
	papers: { id: string; what: string }[];
	/** what follows by itself, or is to be known besides, in sentences */
	follows: string[];
	/** what took its date from it, to be taken along */
	along: Taken[];
	/** the expiry that was worked out from it, to be taken along */
	expiry: { from: string; to: string } | null;
	/** id of the lot that it would move into */
	into: string | null;
	/** why it cannot be saved so; empty while nothing is typed */
	faults: string[];
}

/**
 * What correcting something of a lot or serial touches.
 * @param value as typed so far; what depends on it is left out while it is empty
 */
export async function touchesOf(
	sql: Db,
	mark: string,
	field: string,
	value: string,
	now: Date
): Promise<Touches | null> {
	const [of] = await sql<
		{ id: string; kind: 'lot' | 'serial'; number: string; unit: string; expiresOn: string | null }[]
	>`
		SELECT k.id, k.kind, k.number, i.unit, k.expires_on AS "expiresOn" FROM mark k JOIN item i ON i.id = k.item_id WHERE k.id = ${mark} AND k.kind <> 'unmarked'`;
	if (!of) return null;
	// What is printed of a lot is printed on the labels and papers of its pieces too.
	const own = sql`(SELECT o.id FROM mark o WHERE o.id = ${mark} OR o.parent_id = ${mark})`;
	const [where, promised, shipped, [labels], papers, along] = await Promise.all([
		sql<{ place: string; qty: string }[]>`
			SELECT p.code AS place, trim_scale(sum(b.qty))::text AS qty FROM ${own} k JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual
			JOIN place p ON p.id = b.place_id GROUP BY p.code ORDER BY p.code LIMIT 50`,
		sql<{ code: string; kind: Kind | null; numbers: string[] | null; qty: string }[]>`
			SELECT h.code, h.kind, array_agg(h.serial_no ORDER BY h.id) FILTER (WHERE h.serial_no IS NOT NULL) AS numbers, coalesce(trim_scale(sum(h.qty)), 0)::text AS qty FROM (
				-- What is promised, and named in a row too, counts once.
				SELECT w.code, w.kind, k.id, k.serial_no, max(w.qty) AS qty FROM ${own} x JOIN mark k ON k.id = x.id CROSS JOIN LATERAL (
					SELECT h.code, h.kind, h.line_id AS line, sum(h.qty) AS qty FROM held_row h WHERE h.kind = ANY(${[...HOLDING]}) AND h.mark = k.id::text GROUP BY h.code, h.kind, h.line_id
					UNION ALL SELECT n.to, n.order_kind, n.order_line_id, n.rest FROM promise_now n WHERE n.mark_id = k.id) w
				GROUP BY w.code, w.kind, w.line, k.id, k.serial_no) h
			GROUP BY h.code, h.kind ORDER BY h.code LIMIT 50`,
		sql<
			{
				document: string | null;
				code: string | null;
				kind: Kind | null;
				partner: string | null;
				qty: string;
				on: string;
			}[]
		>`
			SELECT coalesce(e.document, o.code) AS document, o.code, o.kind, q.name AS partner, trim_scale(sum(m.qty))::text AS qty, shown_day(max(m.at)) AS on
			FROM ${own} k JOIN effective_movement m ON m.mark_id = k.id JOIN place t ON t.id = m.to_place AND t.code = '@customer' JOIN event e ON e.id = m.event_id
			LEFT JOIN orders o ON o.id = e.order_id LEFT JOIN partner q ON q.id = e.partner_id GROUP BY e.document, o.id, q.id ORDER BY max(m.at) DESC LIMIT 50`,
		sql<{ count: number; last: string | null }[]>`
			SELECT count(*)::int AS count, shown_time(max(l.printed_at)) AS last FROM ${own} k JOIN label_print l ON l.subject = 'mark ' || k.id`,
		sql<{ id: string; code: string; by: string; at: string }[]>`
			SELECT p.id, o.code, coalesce(n.name, p.made_by) AS by, shown_time(p.made_at) AS at FROM paper p JOIN orders o ON o.id = p.order_id
			LEFT JOIN person n ON n.login = p.made_by WHERE EXISTS (SELECT 1 FROM ${own} k JOIN paper_mark m ON m.mark_id = k.id WHERE m.paper_id = p.id) ORDER BY p.id DESC LIMIT 50`,
		field === 'expiresOn' ? datesTaken(sql, of) : []
	]);
	const touches: Touches = {
		where: where.map((w) => `${amount(w.qty, of.unit)} at ${w.place}`),
		promised: promised.map((p) => ({
			code: p.code,
			path: p.kind && documentPath(p.kind, p.code),
			what: p.numbers?.length ? ranged(p.numbers) : amount(p.qty, of.unit)
		})),
		shipped: shipped.map((s) => ({
			document: s.document ?? 'no document',
			path: s.code ? documentPath(s.kind!, s.code) : null,
			what: `${amount(s.qty, of.unit)} to ${s.partner ?? 'a customer'}, ${showDay(s.on)}`
		})),
		labels: labels.count
			? `${labels.count === 1 ? 'One label carries' : `${grouped(labels.count)} labels carry`} what is recorded now, last printed ${showWhen(labels.last!)}. Print new ones afterwards.`
			: null,
		papers: papers.map((p) => ({ id: p.id, what: `Packing list of ${p.code}, printed ${showWhen(p.at)} by ${p.by}` })),
		follows: [],
		along: [...along],
		expiry: null,
		into: null,
		faults: []
	};
	touches.follows.push(...(await followsOf(sql, of, field)));
	if (field === 'expiresOn' && !touches.along.length) touches.follows.push('Nothing else took its date from it.');
	if (value.trim() && isCorrectable(field)) await tellPlan(sql, touches, { mark, field, value }, of.unit, now);
	return touches;
}

/** What is derived from what is recorded, whatever the new value. */
async function followsOf(sql: Db, of: { id: string; kind: string; number: string }, field: string): Promise<string[]> {
	if (field === 'number')
		return [
			`${of.number} stays findable, and says what it is called now.`,
			'What was printed keeps the old number; lists, sheets and traces show the new one.'
		];
	if (of.kind !== 'lot' || field !== 'expiresOn') return [];
	const [{ count }] = await sql<{ count: number }[]>`
		SELECT count(*)::int AS count FROM mark WHERE parent_id = ${of.id} AND expires_on IS NULL`;
	return count
		? [
				`${grouped(count)} ${count === 1 ? 'serial has its date' : 'serials have their date'} from this lot and follow by themselves.`
			]
		: [];
}

/** What is in force for a serial once it belongs to another lot. */
async function inForceWith(sql: Db, mark: Plan['mark'], { changes }: Plan): Promise<string[]> {
	const [lot] = await sql<{ number: string; status: string; expiresOn: string | null }[]>`
		SELECT number, status, expires_on AS "expiresOn" FROM mark WHERE id = ${changes[0].value}`;
	if (!lot) return [];
	return [
		...(lot.status === 'released'
			? []
			: [`${lot.number} is ${sayStatus(lot.status)}, and ${mark.number} with it then.`]),
		...(mark.expiresOn
			? []
			: [`It expires ${lot.expiresOn ? showDay(lot.expiresOn) : 'on no recorded day'} then, as its lot does.`])
	];
}

/** What was made of a lot or serial and expires after a day. */
const outliving = async (sql: Db, mark: string, day: string) =>
	(
		await sql<{ number: string }[]>`
			SELECT DISTINCT k.number FROM effective_movement u JOIN run r ON r.id = u.run_id
			LEFT JOIN effective_movement o ON o.run_id = r.id AND o.role = 'make' AND r.unit_mark IS NULL
			JOIN mark_now k ON k.id = coalesce(r.unit_mark, o.mark_id) AND k.kind <> 'unmarked' AND k.expires_on > ${day}::date
			WHERE u.mark_id = ${mark} AND u.role = 'use' LIMIT 200`
	).map((r) => r.number);

/** What depends on the new value. */
async function tellPlan(
	sql: Db,
	touches: Touches,
	given: { mark: string; field: string; value: string },
	unit: string,
	now: Date
) {
	let plan: Plan;
	try {
		plan = await planCorrection(sql, { ...given, expiryToo: false, also: [] }, now);
	} catch (e) {
		if (!(e instanceof Problem)) throw e;
		touches.faults.push(...e.faults.map((f) => f.message));
		return;
	}
	const { mark, merge } = plan;
	if (given.field === 'expiresOn' && plan.value) {
		const longer = await outliving(sql, mark.id, plan.value);
		if (longer.length)
			touches.follows.push(
				`${ranged(longer)} ${longer.length === 1 ? 'was' : 'were'} made from it and would outlive it, by a date of ${longer.length === 1 ? 'its' : 'their'} own that stays.`
			);
	}
	touches.follows.push(...plan.findings.map(sentence));
	if (plan.expiry) touches.expiry = { from: showDay(plan.expiry.from), to: showDay(plan.expiry.to) };
	if (plan.fresh) touches.follows.push(`Lot ${plan.fresh} is not known yet and is made.`);
	touches.into = merge?.into.id ?? null;
	if (given.field === 'lot') touches.follows.push(...(await inForceWith(sql, mark, plan)));
	if (merge) {
		const moves = amount(total(mark.standing.map((s) => s.qty)), unit);
		const pieces = merge.serials.length;
		touches.follows.push(
			`${merge.into.number} is another lot of this item: ${[...(mark.standing.length ? [`${moves} here`] : []), ...(pieces ? [`${grouped(pieces)} serials`] : [])].join(' and ')} move into it. ${mark.number} stays, with its life up to now.`
		);
		if (merge.into.expiresOn !== mark.expiresOn)
			touches.follows.push(
				`They expire ${merge.into.expiresOn ? showDay(merge.into.expiresOn) : 'on no recorded day'} then, not ${mark.expiresOn ? showDay(mark.expiresOn) : 'on no recorded day'}.`
			);
	}
}
