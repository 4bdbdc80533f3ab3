import type { Db, Tx } from '../database/connect.ts';
import { notReleased } from '../../core/checks/catalogue.ts';
import { found, sentence } from '../../core/checks/check.ts';
import { showWhen } from '../../core/dates/dates.ts';
import { positionIn } from '../../core/ranges/positions.ts';
import { readNumber } from '../../core/text/text.ts';
import { timeIn } from '../../core/time/clock.ts';
import { catalogueOf } from '../ledger/catalogue.ts';
import type { UnitOrder } from './units.ts';

/** Why the unit of an order may not be put together here, by its serial; nothing for those that may. */
export type Barred = ReadonlyMap<string, string>;

/**
 * Opens units of an order, so that parts can be put into them, and holds them until the transaction ends. One that is
 * open stays as it is.
 * @param how it is known which units they are
 * @returns why some may not be opened: finished, another order's, at the desk, not drawn for it. Of these none is opened
 */
export async function openUnits(
	tx: Tx,
	by: string,
	order: UnitOrder,
	serials: readonly string[],
	how: 'scanned' | 'entered'
): Promise<Barred> {
	const barred = new Map<string, string>();
	const wanted = [...new Set(serials)].sort();
	const open = await tx<{ serial: string }[]>`
		SELECT serial FROM unit_work WHERE order_id = ${order.id} AND serial = ANY(${wanted}) ORDER BY serial FOR UPDATE`;
	const held = new Set(open.map((u) => u.serial));
	const fresh = wanted.filter((s) => !held.has(s));
	if (!fresh.length) return barred;
	for (const serial of fresh) {
		const read = readNumber(serial);
		if ('problem' in read) barred.set(serial, read.problem);
	}
	const rest = fresh.filter((s) => !barred.has(s));
	for (const [serial, why] of await whyNot(tx, order, rest)) barred.set(serial, why);
	const may = rest.filter((s) => !barred.has(s));
	await tx`INSERT INTO unit_work (order_id, serial, evidence, changed_by)
		SELECT ${order.id}::bigint, s, ${how}::text, ${by}::text FROM unnest(${may}::text[]) s ON CONFLICT DO NOTHING`;
	await tx`SELECT 1 FROM unit_work WHERE order_id = ${order.id} AND serial = ANY(${may}) ORDER BY serial FOR UPDATE`;
	return barred;
}

interface Row {
	serial: string;
	made: Date | null;
	madeBy: string | null;
	elsewhere: string | null;
	drawnFor: string | null;
	drawn: boolean;
}
/** Four statements, whatever the count. */
async function whyNot(tx: Db, order: UnitOrder, serials: readonly string[]): Promise<Map<string, string>> {
	const barred = new Map<string, string>();
	if (!serials.length) return barred;
	const [rows, { policy }, desk, [{ some }]] = await Promise.all([
		tx<Row[]>`
			SELECT w.serial, m.at AS made, m.code AS "madeBy", x.code AS elsewhere, d.code AS "drawnFor", d.number IS NOT NULL AS drawn
			FROM unnest(${[...serials]}::text[]) w(serial)
			LEFT JOIN LATERAL (SELECT m.at, o.code FROM mark k JOIN run r ON r.unit_mark = k.id JOIN effective_movement m ON m.run_id = r.id AND m.role IN ('make', 'use') LEFT JOIN orders o ON o.id = r.order_id
				WHERE k.item_id = ${order.made.itemId} AND k.serial_no = w.serial ORDER BY m.id DESC LIMIT 1) m ON true
			LEFT JOIN LATERAL (SELECT o.code FROM unit_work x JOIN orders o ON o.id = x.order_id JOIN order_line l ON l.order_id = o.id AND l.role = 'output' AND l.item_id = ${order.made.itemId}
				WHERE x.serial = w.serial AND x.order_id <> ${order.id} LIMIT 1) x ON true
			LEFT JOIN LATERAL (SELECT d.number, CASE WHEN d.order_id <> ${order.id} THEN o.code END AS code FROM drawn_number d LEFT JOIN orders o ON o.id = d.order_id
				WHERE d.item_id = ${order.made.itemId} AND d.kind = 'serial' AND d.number = w.serial) d ON true`,
		catalogueOf(tx).current(tx),
		tx<{ first: string; count: number; step: number }[]>`
			SELECT data ->> 'serial' AS first, coalesce((data ->> 'count')::int, 1) AS count, coalesce((data ->> 'step')::int, 1) AS step
			FROM draft_row WHERE order_id = ${order.id} AND line_id = ${order.made.id} AND data ->> 'serial' <> ''`,
		tx<{ some: boolean }[]>`
			SELECT EXISTS (SELECT 1 FROM drawn_number WHERE line_id = ${order.made.id} AND kind = 'serial') AS some`
	]);
	for (const r of rows) {
		const atDesk = desk.some((run) => positionIn(run, r.serial) !== null);
		const why = barredBy(order, { ...r, atDesk }, some && policy[notReleased.code] !== 'note');
		if (why) barred.set(r.serial, why);
	}
	return barred;
}
function barredBy(order: UnitOrder, r: Row & { atDesk: boolean }, onlyDrawn: boolean): string | null {
	const name = r.serial.slice(0, 60);
	if (r.made)
		return `${name} is recorded since ${showWhen(timeIn(order.zone, r.made))}${r.madeBy ? ` (${r.madeBy})` : ''}. To put another part in, open its page and replace the part.`;
	if (r.elsewhere) return `${name} is being put together for ${r.elsewhere}. Scan the card of that order.`;
	if (r.drawnFor) return `${name} was drawn for ${r.drawnFor}, not for ${order.code}. Scan the card of that order.`;
	if (r.atDesk)
		return `${name} is being entered at the desk, in the sheet of ${order.code}. Finish it there, or take it out of that sheet.`;
	if (onlyDrawn && !r.drawn)
		return sentence(found(notReleased, {}, { line: -1, about: { kind: 'serial', number: r.serial }, level: 'stop' }));
	return null;
}
