import { z } from 'zod';
import type { Db } from '../database/connect.ts';
import { allocateFrom } from '../../core/allocation/allocate.ts';
import { faultFrom } from '../../core/checks/check.ts';
import { noSuch } from '../../core/checks/catalogue.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import type { Day } from '../../core/dates/dates.ts';
import { parseQty } from '../../core/quantity/quantity.ts';
import { line, quantity } from '../../core/text/input.ts';
import { dayIn, type Zone } from '../../core/time/clock.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import { PURPOSES, termsFor } from '../marks/terms.ts';
import { parse } from '../parse.ts';

/** What is asked for, as parsed. */
export const allocationInput = z.strictObject({
	item: line(60, 1, 'Name the item.'),
	qty: quantity,
	/** a site, or one bin of it; stock of all sites without */
	site: line(45).nullish(),
	/** who gets it */
	customer: line(60).nullish(),
	purpose: z.enum(PURPOSES, 'Say what it is for: shipment, use or transfer.'),
	/** the moment asked about; now without */
	at: z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' }).nullish()
});

/**
 * What would be taken of an item, and why each of the others would stay. Books nothing. A fixed number of statements, however
 * much there is.
 * @throws Problem naming what is not there
 */
export async function allocationFor(sql: Db, input: unknown, now = new Date()) {
	const given = parse(allocationInput, input);
	const [item, place, customer] = await Promise.all([
		sql<
			{ id: string; unit: string; decimals: number }[]
		>`SELECT id, unit, decimals FROM item WHERE code = ${given.item}`,
		given.site
			? sql<{ zone: Zone }[]>`
				SELECT coalesce(p.zone, s.zone, f.zone) AS zone FROM firm f CROSS JOIN place p LEFT JOIN place s ON s.id = p.site_id WHERE NOT p.virtual AND p.code = ${given.site}`
			: [null],
		given.customer ? sql`SELECT 1 FROM partner WHERE code = ${given.customer}` : [null]
	]);
	const faults: Fault[] = [];
	if (!item.length) faults.push(faultFrom(noSuch, { what: 'item', code: given.item }, 'item'));
	if (!place.length) faults.push(faultFrom(noSuch, { what: 'place', code: given.site! }, 'site'));
	if (!customer.length) faults.push(faultFrom(noSuch, { what: 'partner', code: given.customer! }, 'customer'));
	const [of] = item;
	const need = of ? parseQty(given.qty, of.decimals, of.unit) : null;
	if (need && 'problem' in need) faults.push({ message: need.problem, at: 'qty', code: 'quantity', level: 'stop' });
	if (faults.length || !need || !('qty' in need)) throw new Problem(faults);

	const at = given.at ? new Date(given.at) : now;
	const [there, gone, terms] = await Promise.all([
		onHand(sql, [of.id], '0', { customer: given.customer }),
		inProcess(sql, of.id),
		termsFor(sql, [of.id], {
			place: given.site ?? null,
			customer: given.customer ?? null,
			purpose: given.purpose
		})
	]);
	const [site] = place;
	const rows = [...there, ...gone];
	const days = new Map<Zone, Day>();
	const today = (zone: Zone) => {
		const day = days.get(zone) ?? dayIn(zone, at);
		days.set(zone, day);
		return day;
	};
	for (const r of rows) r.today = today(site?.zone ?? r.zone);
	const stock = rows;
	const asked = { ...terms(of.id), from: given.site ?? null };
	const { picks, short, leftOut } = allocateFrom(need.qty, stock, dayIn(site?.zone ?? 'UTC', at), asked);
	const lot = (s: OnHand) => (s.kind === 'lot' ? s.number : s.lot);
	const serial = (s: OnHand) => (s.kind === 'serial' ? s.number : null);
	return {
		picks: picks.map(({ of, qty, why }) => ({
			lot: lot(of),
			serial: serial(of),
			place: of.place,
			qty,
			expiresOn: of.expiresOn,
			why
		})),
		leftOut: leftOut.map(({ of, reason, message }) => ({
			lot: lot(of),
			serial: serial(of),
			place: of.place,
			qty: of.qty,
			reason,
			message
		})),
		short
	};
}

/** What of an item went into runs that are open and that nothing has come out of yet. */
const inProcess = (sql: Db, item: string) => sql<OnHand[]>`
	SELECT k.id AS mark, k.item_id AS "itemId", k.kind, coalesce(k.number, i.code) AS number, k.of_lot AS lot, k.facts, k.lot_facts AS "lotFacts", '@process' AS place, trim_scale(n.qty)::text AS qty,
		k.kind = 'serial' AS serial, k.expires_on AS "expiresOn", k.status, (SELECT q.name FROM partner q WHERE q.code = k.owner) AS owner, n.at::text AS since, f.zone, false AS transit, false AS staging, coalesce(o.code, r.code) AS process
	FROM firm f CROSS JOIN (SELECT m.mark_id, m.run_id, sum(CASE m.role WHEN 'use' THEN m.qty ELSE -m.qty END) AS qty, max(m.at) AS at FROM mark x JOIN effective_movement m ON m.mark_id = x.id AND m.role IN ('use', 'detach')
		WHERE x.item_id = ${item} GROUP BY 1, 2 HAVING sum(CASE m.role WHEN 'use' THEN m.qty ELSE -m.qty END) > 0) n
	JOIN mark_now k ON k.id = n.mark_id JOIN item i ON i.id = k.item_id JOIN run r ON r.id = n.run_id LEFT JOIN orders o ON o.id = r.order_id
	WHERE NOT EXISTS (SELECT 1 FROM effective_movement y WHERE y.run_id = r.id AND y.role = 'make') AND NOT EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id))
	ORDER BY k.expires_on NULLS LAST, n.at, k.id`;
