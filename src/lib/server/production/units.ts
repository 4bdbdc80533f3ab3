import type { Db } from '../database/connect.ts';
import { askedAt, type How, type Tracking } from '../../core/marking/rule.ts';
import type { Evidence } from '../../core/ledger/evidence.ts';
import type { ExpiryFrom } from '../../core/ledger/line.ts';
import { isComplete, slotsOf, type PartLine, type Put, type Slot } from '../../core/pairing/slots.ts';
import { group } from '../../core/group/group.ts';
import { div } from '../../core/quantity/quantity.ts';
import type { Zone } from '../../core/time/clock.ts';

/** What is made of an order one by one: its finished item, and the line that it is. */
export interface MadeLine {
	id: string;
	no: number;
	item: string;
	itemId: string;
	itemName: string;
	gtin: string | null;
	picture: string | null;
	qty: string;
	runMode: 'pooled' | 'unit';
	/** how its expiry is worked out */
	shelfLife: string | null;
	endOfMonth: boolean;
	expiryFrom: ExpiryFrom;
}
/** A production order as its stations, cards and review need it: what each unit takes, without what is booked of it. */
export interface UnitOrder {
	id: string;
	code: string;
	kind: string;
	/** where what is made goes, and its site */
	place: string;
	site: string;
	zone: Zone;
	dueOn: string | null;
	closedAt: Date | null;
	/** the order or its item asks for a review */
	review: boolean;
	made: MadeLine;
	parts: PartLine[];
}

/** Production orders by their codes, with what goes into one unit of each. One statement. */
export async function unitOrders(sql: Db, codes: readonly string[]): Promise<UnitOrder[]> {
	const rows = await sql<(LineRow & Head)[]>`
		SELECT o.id AS "orderId", o.code, o.kind, l.code AS place, coalesce(l.zone, s.zone, f.zone) AS zone,
			o.due_on AS "dueOn", o.closed_at AS "closedAt", o.review AS "orderReview",
			x.id, x.no, x.role, i.code AS item, i.id AS "itemId", i.name AS "itemName", i.unit, i.decimals, i.gtin, i.picture,
			i.tracking AS carries, i.review, i.run_mode AS "runMode", i.shelf_life AS "shelfLife", i.end_of_month AS "endOfMonth",
			i.expiry_from AS "expiryFrom", trim_scale(x.qty)::text AS qty,
			coalesce(r.lot, 'not asked') AS lot, coalesce(r.serial, 'not asked') AS serial
		FROM firm f CROSS JOIN orders o LEFT JOIN place l ON l.id = o.place_id LEFT JOIN place s ON s.id = l.site_id
		JOIN order_line x ON x.order_id = o.id JOIN item i ON i.id = x.item_id
		LEFT JOIN item_rule r ON r.item_id = i.id
			AND r.step = CASE x.role WHEN 'output' THEN 'production output' ELSE 'production use' END
		WHERE o.code = ANY(${[...codes]}) AND o.kind = 'production' ORDER BY o.code COLLATE natural_order, x.no`;
	return [...group(rows, (r) => r.orderId).values()].map((lines) => {
		const { orderId: id, code, kind, place, zone, dueOn, closedAt, orderReview } = lines[0];
		const made = lines.find((l) => l.role === 'output')!;
		return {
			...{ id, code, kind, place, zone, dueOn, closedAt, made },
			site: place.split('/')[0],
			review: orderReview || made.review,
			parts: lines
				.filter((l) => l.role === 'component')
				.map(({ id, no, item, itemId, itemName, unit, decimals, picture, ...l }) => ({
					...{ id, no, item, itemId, itemName, unit, decimals, picture },
					tracking: askedAt(l.carries, l),
					per: div(l.qty, made.qty)
				}))
		};
	});
}
/** The order that a line belongs to. */
interface Head extends Pick<UnitOrder, 'code' | 'kind' | 'place' | 'zone' | 'dueOn' | 'closedAt'> {
	orderId: string;
	orderReview: boolean;
}
interface LineRow extends MadeLine {
	role: string;
	unit: string;
	decimals: number;
	carries: Tracking;
	review: boolean;
	lot: How;
	serial: How;
}
/** One of them; null where there is none, or the order makes no units. */
export const unitOrder = async (sql: Db, code: string): Promise<UnitOrder | null> =>
	(await unitOrders(sql, [code]))[0] ?? null;

/** How far a unit is: parts are missing, all are in, or the review sent it back. */
export type UnitState = 'open' | 'ready' | 'back';
/** A part in a unit, as it waits to be booked. */
export interface UnitPut extends Put {
	/** of its row in the sheet */
	id: string;
	version: number;
	unit: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string;
	place: string;
	evidence: Evidence;
	/** who put it in, and when */
	by: string;
	at: Date;
}
/** A unit that is being put together. */
export interface Unit {
	serial: string;
	state: UnitState;
	/** somebody who may review has to book it */
	review: boolean;
	/** where it was before a person last, and the place that its unnumbered parts come from */
	station: { code: string; name: string; place: string } | null;
	evidence: 'scanned' | 'entered';
	/** why it was sent back, or what stood in the way of booking it */
	said: string;
	by: string;
	at: Date;
	slots: Slot<UnitPut>[];
}

/** Units of an order with their parts, in the order that their serials are given. Two statements. */
export async function readUnits(sql: Db, order: UnitOrder, serials: readonly string[]): Promise<Unit[]> {
	const [units, puts] = await Promise.all([
		sql<(Omit<Unit, 'slots' | 'station'> & { code: string | null; name: string; place: string })[]>`
			SELECT u.serial, u.state, u.review, u.evidence, u.said, u.changed_at AS at, coalesce(n.name, u.changed_by) AS by, s.code, s.name, p.code AS place
			FROM unnest(${[...serials]}::text[]) WITH ORDINALITY w(serial, pos) JOIN unit_work u ON u.order_id = ${order.id} AND u.serial = w.serial
			LEFT JOIN station s ON s.id = u.station_id LEFT JOIN place p ON p.id = s.place_id LEFT JOIN person n ON n.login = u.changed_by ORDER BY w.pos`,
		readPuts(sql, order, serials)
	]);
	const byUnit = group(puts, (p) => p.unit);
	return units.map(({ code, name, place, ...u }) => ({
		...u,
		station: code ? { code, name, place } : null,
		slots: slotsOf(order.parts, byUnit.get(u.serial) ?? [])
	}));
}
/** The same units with the parts that stand under them now. One statement. */
export async function readParts(sql: Db, order: UnitOrder, units: readonly Unit[]): Promise<Unit[]> {
	const serials = units.map((u) => u.serial);
	const byUnit = group(await readPuts(sql, order, serials), (p) => p.unit);
	return units.map((u) => ({ ...u, slots: slotsOf(order.parts, byUnit.get(u.serial) ?? []) }));
}
/** The parts that stand under some units, in the order that they were put in. */
const readPuts = (sql: Db, order: Pick<UnitOrder, 'id'>, serials: readonly string[]) => sql<UnitPut[]>`
	SELECT d.id, d.version, d.line_id AS "lineId", d.data ->> 'unit' AS unit, d.data ->> 'mark' AS mark, d.data ->> 'place' AS place, d.data ->> 'qty' AS qty,
		k.kind, coalesce(k.number, i.code) AS number, CASE WHEN d.data ? 'scanned' THEN 'scanned' ELSE 'entered' END AS evidence,
		coalesce(n.name, d.changed_by) AS by, d.changed_at AS at
	FROM draft_row d JOIN mark k ON k.id = (d.data ->> 'mark')::bigint JOIN item i ON i.id = k.item_id LEFT JOIN person n ON n.login = d.changed_by
	WHERE d.order_id = ${order.id} AND d.data ? 'unit' AND d.data ->> 'unit' = ANY(${[...serials]}) AND d.data ->> 'qty' ~ '^[0-9]{1,13}([.][0-9]{1,12})?$'
	ORDER BY d.created_at, d.id`;

/** The run that a unit of an order is made by. */
export const runOfUnit = (order: Pick<UnitOrder, 'code'>, serial: string): string => `${order.code}/${serial}`;

/** Are all its numbered parts in? */
export const unitComplete = (u: Pick<Unit, 'slots'>): boolean => isComplete(u.slots);
