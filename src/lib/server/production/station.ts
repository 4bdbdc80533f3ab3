import { z } from 'zod';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import type { Card } from '../../core/codes/card.ts';
import { readScan, type Scan } from '../../core/codes/scan.ts';
import { showDay } from '../../core/dates/dates.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { isScanned } from '../../core/pairing/slots.ts';
import type { Shown, ShownSlot, StationAnswer } from '../../core/pairing/station.ts';
import { Problem } from '../../core/problem/problem.ts';
import { amount, less, rest, total } from '../../core/quantity/quantity.ts';
import { line, scanText } from '../../core/text/input.ts';
import { timeIn } from '../../core/time/clock.ts';
import { notify, notifySoon } from '../sheet/live.ts';
import { Refused } from '../sheet/placed.ts';
import { pickFromScan } from '../sheet/scanpick.ts';
import { getOrder } from '../document/orders.ts';
import { changeRow, insertRows, lockSheet, putBack, readDrafts, type RowData } from '../sheet/drafts.ts';
import { parse } from '../parse.ts';
import { bookUnits } from './bookunits.ts';
import { openUnits } from './open.ts';
import { putParts, settleUnits } from './put.ts';
import { readUnits, unitOrder, type Unit, type UnitOrder } from './units.ts';

/** A station that work is done at. */
export interface Station {
	id: string;
	code: string;
	name: string;
	place: string;
	site: string;
	review: boolean;
}
/** An open station by its code. @throws Problem 404 when there is none */
export async function findStation(sql: Db, code: string): Promise<Station> {
	const [station] = await sql<Station[]>`
		SELECT t.id, t.code, t.name, p.code AS place, coalesce(s.code, p.code) AS site, t.review FROM station t JOIN place p ON p.id = t.place_id LEFT JOIN place s ON s.id = p.site_id
		WHERE t.code = ${code} AND t.closed_on IS NULL`;
	if (!station)
		throw new Problem(
			`There is no station ${code.slice(0, 20)}. Choose another one, or set it up in Setup, Stations.`,
			404
		);
	return station;
}
/** The open stations. */
export const openStations = (sql: Db) => sql<Pick<Station, 'code' | 'name' | 'place' | 'review'>[]>`
	SELECT t.code, t.name, p.code AS place, t.review FROM station t JOIN place p ON p.id = t.place_id WHERE t.closed_on IS NULL ORDER BY t.code COLLATE natural_order`;

/** What stands before a person at a station: a unit, or a whole order. */
const before = z.strictObject({ order: line(60), serial: line(60).nullable() });
/** A scan at a station, as parsed. */
export const stationScan = z.strictObject({
	/** made by the browser, so that sending twice takes it once */
	id: z.uuid(),
	text: scanText,
	/** the card that was scanned before */
	before: before.nullish(),
	/** the bin that was scanned before, for the part that comes now */
	bin: line(45).nullish(),
	/** how much of it goes in, where it is not what is still missing */
	qty: z.string().max(40).nullish(),
	/** the label could not be read, and somebody typed it */
	typed: z.boolean().optional()
});
/**
 * Takes what was scanned at a station: a card brings its unit before the person, a bin counts for the part after it, a
 * part goes into its slot. When the last numbered part is in, the unit is booked, or waits for its review. Every scan is
 * kept with what was answered; the same scan sent again gets the same answer.
 */
export async function scanAtStation(
	sql: Sql,
	who: Actor,
	station: Station,
	input: unknown,
	now = new Date()
): Promise<StationAnswer> {
	const given = parse(stationScan, input);
	try {
		const answer = await transaction(sql, async (tx): Promise<Done> => {
			const { known, ...met } = await meet(tx, station, given, now);
			if (known) return { said: known, complete: null, row: null };
			const done = await take(tx, who, station, given, met, now);
			await keep(tx, who.name, station, given, done);
			return done;
		});
		if (answer.said.shown) notifySoon(sql, answer.said.shown.order);
		if (!answer.complete) return answer.said;
		return await finish(sql, who, station, given.id, answer.complete, answer.said);
	} catch (e) {
		if (!(e instanceof Refused)) throw e;
		// Sent twice at once, the second finds what the first one did.
		const twice = await answered(sql, station, given);
		if (twice) return twice;
		// After a card that is not taken nothing stands there: what is scanned next must not go into the unit before.
		const card = e instanceof WrongCard;
		const shown = given.before && !card ? await shownNow(sql, station, given.before) : null;
		const asks = e instanceof AsksBin ? ('bin' as const) : null;
		const said: StationAnswer = {
			id: given.id,
			taken: false,
			what: card ? 'card' : '',
			said: e.message,
			notes: [],
			bin: given.bin ?? null,
			asks,
			shown
		};
		await keep(sql, who.name, station, given, { said, complete: null, row: null });
		return said;
	}
}
type Given = z.output<typeof stationScan>;
/** A lot lies in several bins: the bin is scanned first. */
class AsksBin extends Refused {}
/** A card that cannot be worked on here. */
class WrongCard extends Refused {}
interface Done {
	said: StationAnswer;
	/** the unit whose last part this was */
	complete: { order: UnitOrder; serial: string; review: boolean } | null;
	row: string | null;
}

/** What was answered to this scan before. @throws Problem 409 when its id stands for another one */
async function answered(sql: Db, station: Station, given: Given): Promise<StationAnswer | null> {
	const [known] = await sql<{ text: string; answer: StationAnswer; station: string }[]>`
		SELECT text, answer, station_id AS station FROM station_scan WHERE id = ${given.id}`;
	if (!known) return null;
	if (known.text !== given.text || known.station !== station.id)
		throw new Problem('The id of this scan stands for another one. Scan it again.', 409);
	const { shown } = known.answer;
	return { ...known.answer, shown: shown && (await shownNow(sql, station, shown)) };
}
const keep = (tx: Db, by: string, station: Station, given: Given, { said, row }: Done) => {
	const of = said.shown ?? given.before ?? null;
	return tx`INSERT INTO station_scan (id, station_id, order_id, unit, text, taken, answer, row_id, scanned_by)
		VALUES (${given.id}, ${station.id}, (SELECT id FROM orders WHERE code = ${of?.order ?? null}), ${of?.serial ?? null}, ${given.text}, ${said.taken}, ${JSON.stringify(said)}::text::jsonb, ${row}, ${by})
		ON CONFLICT DO NOTHING`;
};

/** What a scan meets at a station: what its text may stand for there, and the order of what stands before the person. */
interface Met {
	scan: Scan;
	card: Card | null;
	place: NamedPlace | null;
	order: UnitOrder | null;
}
/** Reads what a scan may mean, and the answer that it got before. What is asked is sent together. */
async function meet(tx: Db, station: Station, given: Given, now: Date): Promise<Met & { known: StationAnswer | null }> {
	const scan = readScan(given.text, now.getFullYear());
	if ('problem' in scan) throw new Refused(scan.problem);
	const [known, card, place, order] = await Promise.all([
		answered(tx, station, given),
		scan.card ?? plainCard(tx, scan, given),
		scan.coded ? null : placeCalled(tx, scan.text.trim()),
		given.before ? unitOrder(tx, given.before.order) : null
	]);
	return { known, scan, card, place, order };
}

async function take(tx: Tx, who: Actor, station: Station, given: Given, met: Met, now: Date): Promise<Done> {
	const { scan, card, place } = met;
	if (card)
		return takeCard(tx, who, station, given, card).catch((e) => {
			throw e instanceof Refused ? new WrongCard(e.message) : e;
		});
	if (place) return takeBin(tx, station, given, place);
	if (!given.before)
		throw new Refused(`${shortOf(scan)} is no work card. Scan the card of the unit first, then its parts.`);
	const order = await workedHere(tx, station, given.before.order, met.order);
	return given.before.serial === null
		? takeForOrder(tx, who, station, given, order, scan)
		: takePart(tx, who, station, given, order, given.before.serial, scan, now);
}
const shortOf = (scan: Scan) => (scan.serial ?? scan.lot ?? scan.text).slice(0, 60);

/** An order's number typed or scanned without a card, and a finished serial that was drawn for an order, stand for their cards. */
async function plainCard(tx: Db, scan: Scan, given: Given): Promise<Card | null> {
	const text = scan.serial ?? (scan.coded ? '' : scan.text.trim());
	if (!text || text.length > 60) return null;
	const [hit] = await tx<{ order: string; line: number; serial: string | null }[]>`
		SELECT * FROM (
			SELECT o.code AS order, l.no AS line, NULL AS serial, 0 AS pos FROM orders o JOIN order_line l ON l.order_id = o.id AND l.role = 'output' WHERE o.kind = 'production' AND o.code = ${text}
			UNION ALL SELECT o.code, l.no, u.serial, 1 FROM unit_work u JOIN orders o ON o.id = u.order_id JOIN order_line l ON l.order_id = o.id AND l.role = 'output'
				JOIN item i ON i.id = l.item_id WHERE u.serial = ${text} AND (${scan.gtin ?? null}::text IS NULL OR i.gtin = ${scan.gtin ?? null})
			UNION ALL SELECT o.code, l.no, d.number, 2 FROM drawn_number d JOIN order_line l ON l.id = d.line_id AND l.role = 'output' JOIN orders o ON o.id = l.order_id AND o.kind = 'production'
				JOIN item i ON i.id = l.item_id WHERE d.kind = 'serial' AND d.number = ${text} AND (${scan.gtin ?? null}::text IS NULL OR i.gtin = ${scan.gtin ?? null})) n
		-- A part that is wanted here is a part, though another order makes it.
		WHERE ${given.before?.order ?? null}::text IS NULL OR serial IS NULL OR NOT EXISTS (SELECT 1 FROM mark k JOIN order_line c ON c.item_id = k.item_id AND c.role = 'component'
			JOIN orders b ON b.id = c.order_id WHERE b.code = ${given.before?.order ?? null} AND k.number = ${text} AND k.kind = 'serial')
		ORDER BY pos LIMIT 1`;
	return hit ? { order: hit.order, line: hit.line, serial: hit.serial } : null;
}

/** A production order, as it was found, that is worked on at this station. @throws Refused with why it is not */
async function workedHere(tx: Db, station: Station, code: string, order: UnitOrder | null): Promise<UnitOrder> {
	if (!order) {
		const [other] = await tx`SELECT 1 FROM orders WHERE code = ${code}`;
		throw new Refused(
			other
				? `${code} is no production order. Scan the card of what is made.`
				: `There is no order ${code}. Print its card again.`
		);
	}
	if (order.closedAt)
		throw new Refused(
			`${code} is closed since ${showDay(timeIn(order.zone, order.closedAt).slice(0, 10))}. Take the next card; new units need a new order.`
		);
	if (order.site !== station.site)
		throw new Refused(
			`${code} is made at ${order.site}, and ${station.name} stands at ${station.site}. Bring the card there.`
		);
	return order;
}

async function takeCard(tx: Tx, who: Actor, station: Station, given: Given, card: Card): Promise<Done> {
	const order = await workedHere(tx, station, card.order, await unitOrder(tx, card.order));
	const answer = (shown: Shown, said: string): Done => ({
		complete: null,
		row: null,
		said: { id: given.id, taken: true, what: 'card', said, notes: [], bin: null, asks: null, shown }
	});
	if (order.made.runMode === 'pooled') {
		if (card.serial)
			throw new Refused(`${order.made.itemName} is made as one batch: scan the order’s card, not that of a piece.`);
		const shown = await showOrder(tx, station, order);
		return answer(
			shown,
			`${order.code}: ${amount(order.made.qty, 'each')} ${order.made.itemName}. What is scanned goes in for the whole order.`
		);
	}
	if (!card.serial)
		throw new Refused(
			`${order.made.itemName} takes its parts unit by unit, so the order’s card records none. Scan the card of the unit.`
		);
	const barred = await openUnits(tx, who.name, order, [card.serial], 'scanned');
	const why = barred.get(card.serial);
	if (why) throw new Refused(why);
	const [was] = await readUnits(tx, order, [card.serial]);
	// One that was sent back stays so until something in it is changed.
	const [unit] = was.state === 'back' ? [was] : await settleUnits(tx, who.name, order, [was], { station });
	const missing = unit.slots.filter((s) => isScanned(s.line) && s.left !== '0').length;
	const shown = await showUnit(tx, station, order, unit);
	if (unit.state === 'back') return answer(shown, `${card.serial} was sent back: ${unit.said}`);
	if (missing)
		return answer(
			shown,
			`${card.serial}: ${missing} of ${unit.slots.filter((s) => isScanned(s.line)).length} parts are missing.`
		);
	if (unit.review) return answer(shown, `${card.serial} has all its parts and waits for its review.`);
	// Nothing of it is scanned, or it could not be booked before: now it may be.
	return { ...answer(shown, `${card.serial}.`), complete: { order, serial: unit.serial, review: false } };
}

/** A place by its code, however it is written; and its site. */
interface NamedPlace {
	code: string;
	site: string;
}
async function placeCalled(tx: Db, text: string): Promise<NamedPlace | null> {
	const [place] = await tx<NamedPlace[]>`
		SELECT p.code, coalesce(s.code, p.code) AS site FROM place p LEFT JOIN place s ON s.id = p.site_id
		WHERE NOT p.virtual AND lower(p.code) = ${text.toLowerCase()}`;
	return place ?? null;
}
/** A place of the site: it counts for the part that is scanned next. */
async function takeBin(tx: Db, station: Station, given: Given, place: NamedPlace): Promise<Done> {
	if (place.site !== station.site)
		throw new Refused(`${place.code} is a place of ${place.site}, not of ${station.site}. Scan a bin of this site.`);
	const shown = given.before ? await shownNow(tx, station, given.before) : null;
	return {
		complete: null,
		row: null,
		said: {
			id: given.id,
			taken: true,
			what: 'bin',
			said: `The next part is taken from ${place.code}.`,
			notes: [],
			bin: place.code,
			asks: null,
			shown
		}
	};
}

async function takePart(
	tx: Tx,
	who: Actor,
	station: Station,
	given: Given,
	order: UnitOrder,
	serial: string,
	scan: Scan,
	now: Date
): Promise<Done> {
	const barred = await openUnits(tx, who.name, order, [serial], 'scanned');
	const why = barred.get(serial);
	if (why) throw new Refused(why);
	const { outcomes, units } = await putParts(
		tx,
		who.name,
		order,
		[{ unit: serial, scan, qty: given.qty, bin: given.bin, how: given.typed ? 'entered' : 'scanned' }],
		{ station, now }
	);
	const [outcome] = outcomes;
	if (!outcome.taken) throw outcome.asks ? new AsksBin(outcome.said) : new Refused(outcome.said);
	const [is] = units;
	return {
		complete: is.state === 'ready' ? { order, serial: is.serial, review: is.review } : null,
		row: outcome.row,
		said: {
			...{
				id: given.id,
				taken: true,
				what: 'part',
				said: `${outcome.said}.`,
				notes: outcome.notes,
				bin: null,
				asks: null
			},
			shown: await showUnit(tx, station, order, is, is.state === 'ready')
		}
	};
}

/** A part for a batch: a pick for the whole order, as the order's own sheet takes it. */
async function takeForOrder(
	tx: Tx,
	who: Actor,
	station: Station,
	given: Given,
	made: UnitOrder,
	scan: Scan
): Promise<Done> {
	const order = (await getOrder(tx, made.code))!;
	await lockSheet(tx, order.id);
	const drafts = await readDrafts(tx, order.id);
	const parts = { ...order, lines: order.lines.filter((l) => l.role === 'component') };
	const { line: of, row } = await pickFromScan(
		tx,
		parts,
		given.qty ? { ...scan, qty: given.qty } : scan,
		null,
		drafts,
		{
			at: given.bin ?? station.place
		}
	);
	let id = row.id;
	if (!row.before) [id] = await insertRows(tx, who.name, order.id, [{ lineId: of.id, data: row.after }]);
	else if (!(await changeRow(tx, who.name, { id, version: row.version, data: row.after })))
		throw new Refused('Its row was changed at the same moment. Scan it again.');
	return {
		complete: null,
		row: row.before ? null : id,
		said: {
			...{
				id: given.id,
				taken: true,
				what: 'part',
				said: `${row.what} into ${order.code}: ${of.itemName}.`,
				notes: [],
				bin: null,
				asks: null
			},
			shown: await showOrder(tx, station, made)
		}
	};
}

/** Books the unit whose last part came in, where nobody has to look at it first. */
async function finish(
	sql: Sql,
	who: Actor,
	station: Station,
	scan: string,
	{ order, serial, review }: NonNullable<Done['complete']>,
	said: StationAnswer
): Promise<StationAnswer> {
	if (review)
		return { ...said, said: `${said.said} All parts are in: ${serial} waits for its review. Scan the next card.` };
	try {
		const { booked } = await bookUnits(sql, { ...who, source: 'station' }, order, [serial], {
			key: `station:${scan}`,
			mayReview: false
		});
		const shown = said.shown && { ...said.shown, state: 'booked' as const, done: said.shown.done };
		const answer = {
			...said,
			said: `${said.said} All parts are in: ${serial} is booked. Scan the next card.`,
			notes: [...said.notes, ...booked.notes.map((n) => n.say(n.about ? [n.about] : []))],
			shown
		};
		await sql`UPDATE station_scan SET answer = ${JSON.stringify(answer)}::text::jsonb WHERE id = ${scan}`;
		return answer;
	} catch (e) {
		if (!(e instanceof Problem)) throw e;
		// Its parts stay in; somebody at a desk sees why it could not be booked.
		await sql`UPDATE unit_work SET said = ${e.message.slice(0, 1000)} WHERE order_id = ${order.id} AND serial = ${serial}`;
		return {
			...said,
			said: `${said.said} All parts are in, and ${serial} could not be booked: ${e.message} It waits in the review.`,
			shown: await shownNow(sql, station, { order: order.code, serial })
		};
	}
}

/** A part that is taken back out at a station, as parsed. */
export const undoInput = before.extend({
	/** the part to take out; the one that was put in last where none is named */
	row: z.uuid().nullish()
});
/**
 * Takes a part back out of a unit that is not booked yet: the last one that was put in at a station, or one that is named.
 * @throws Problem 409 when there is nothing to take back, or it was changed or booked since
 */
export async function undoAtStation(sql: Sql, who: Actor, station: Station, of: unknown): Promise<StationAnswer> {
	const given = parse(undoInput, of);
	const order = await unitOrder(sql, given.order);
	if (!order) throw new Problem(`There is no production order ${given.order}. Scan a card.`, 404);
	return transaction(sql, async (tx) => {
		const [last] = given.row
			? [{ id: null, row: given.row }]
			: await tx<{ id: string | null; row: string }[]>`
				SELECT id, row_id AS row FROM station_scan WHERE order_id = ${order.id} AND unit IS NOT DISTINCT FROM ${given.serial} AND taken AND row_id IS NOT NULL AND undone_at IS NULL
				ORDER BY scanned_at DESC LIMIT 1 FOR UPDATE`;
		if (!last) throw new Problem('Nothing was put in here that can be taken back.', 409);
		const [put] = await tx<{ data: RowData; name: string }[]>`
			SELECT d.data, coalesce(k.number, i.name) AS name FROM draft_row d JOIN mark k ON k.id = (d.data ->> 'mark')::bigint JOIN item i ON i.id = k.item_id
			WHERE d.id = ${last.row} AND d.order_id = ${order.id} AND d.data ->> 'unit' IS NOT DISTINCT FROM ${given.serial}`;
		if (!put || !(await putBack(tx, who.name, order.id, { id: last.row, before: null, after: put.data })))
			throw new Problem(
				'That is taken out or booked already. Once it is booked, replace the part on the page of its unit.',
				409
			);
		await tx`UPDATE station_scan SET undone_at = now() WHERE row_id = ${last.row} AND undone_at IS NULL`;
		if (given.serial) await settleUnits(tx, who.name, order, await readUnits(tx, order, [given.serial]), { station });
		await notify(tx, order.code);
		const { serial } = given;
		return {
			...{ id: last.id ?? last.row, taken: true, what: 'part' as const, notes: [], bin: null, asks: null },
			said: `${put.name} is taken back out of ${serial ?? order.code}.`,
			shown: await shownNow(tx, station, { order: order.code, serial })
		};
	});
}

// What the station shows ----------------------------------------------------------------------------

/** What stands before the person, as it is now. */
export async function shownNow(
	sql: Db,
	station: Station,
	of: { order: string; serial: string | null }
): Promise<Shown | null> {
	const order = await unitOrder(sql, of.order);
	if (!order) return null;
	if (of.serial === null) return order.made.runMode === 'pooled' ? showOrder(sql, station, order) : null;
	const [unit] = await readUnits(sql, order, [of.serial]);
	return unit ? showUnit(sql, station, order, unit) : null;
}
/** Which number of a part is scanned. */
const asksOf = ({ tracking }: { tracking: string }): ShownSlot['asks'] =>
	tracking.includes('serial') ? 'serial' : tracking === 'lot' ? 'lot' : '';
/** Units of an order that are made or have all their parts. */
async function doneOf(sql: Db, order: UnitOrder): Promise<number> {
	const [{ n }] = await sql<{ n: number }[]>`
		SELECT (SELECT count(*)::int FROM unit_work WHERE order_id = ${order.id} AND state = 'ready')
			+ (SELECT count(*)::int FROM run r WHERE r.order_id = ${order.id} AND r.unit_mark IS NOT NULL) AS n`;
	return n;
}
async function showUnit(sql: Db, station: Station, order: UnitOrder, unit: Unit, count = true): Promise<Shown> {
	return {
		...{
			order: order.code,
			serial: unit.serial,
			itemName: order.made.itemName,
			picture: order.made.picture,
			state: unit.state,
			said: unit.said,
			review: unit.review
		},
		place: station.place,
		slots: unit.slots.map(({ line: l, puts, left, in: has }) => ({
			...{
				lineId: l.id,
				itemName: l.itemName,
				item: l.item,
				unit: l.unit,
				decimals: l.decimals,
				per: l.per,
				in: has,
				left,
				picture: l.picture ?? null
			},
			plain: !isScanned(l),
			asks: asksOf(l),
			puts: puts.map(({ id, number, kind, qty, place, by }) => ({ id, number, kind, qty, place, by }))
		})),
		done: count ? await doneOf(sql, order) : null,
		planned: order.made.qty
	};
}
/** A batch with what its sheet holds of each part. */
async function showOrder(sql: Db, station: Station, order: UnitOrder): Promise<Shown> {
	const full = (await getOrder(sql, order.code))!;
	const puts = await sql<
		{ id: string; lineId: string; number: string; kind: string; qty: string; place: string; by: string }[]
	>`
		SELECT d.id, d.line_id AS "lineId", coalesce(k.number, i.code) AS number, k.kind, d.data ->> 'qty' AS qty, d.data ->> 'place' AS place, coalesce(n.name, d.changed_by) AS by
		FROM draft_row d JOIN mark k ON k.id = (d.data ->> 'mark')::bigint JOIN item i ON i.id = k.item_id LEFT JOIN person n ON n.login = d.changed_by
		WHERE d.order_id = ${order.id} AND d.data ? 'mark' AND NOT d.data ? 'unit' AND d.data ->> 'qty' ~ '^[0-9]{1,13}([.][0-9]{1,12})?$' ORDER BY d.created_at`;
	return {
		...{
			order: order.code,
			serial: null,
			itemName: order.made.itemName,
			picture: order.made.picture,
			state: 'open',
			said: '',
			review: false,
			place: station.place
		},
		slots: full.lines
			.filter((l) => l.role === 'component')
			.map((l) => {
				const mine = puts.filter((p) => p.lineId === l.id);
				const has = total([l.done, ...mine.map((p) => p.qty)]);
				return {
					...{
						lineId: l.id,
						itemName: l.itemName,
						item: l.item,
						unit: l.unit,
						decimals: l.decimals,
						per: l.qty,
						in: has,
						left: less(has, l.qty) ? rest(l.qty, has) : '0',
						picture: l.picture
					},
					plain: l.tracking === 'none',
					asks: asksOf(l),
					puts: mine.map(({ id, number, kind, qty, place, by }) => ({ id, number, kind, qty, place, by }))
				};
			}),
		done: 0,
		planned: order.made.qty
	};
}
