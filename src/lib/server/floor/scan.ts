import { z } from 'zod';
import type { Db, Sql } from '../database/connect.ts';
import { readScan } from '../../core/codes/scan.ts';
import { showWhen } from '../../core/dates/dates.ts';
import { ACTS, sayWhere, type Operation } from '../../core/floor/moves.ts';
import type { FloorAnswer } from '../../core/floor/station.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line, text, scanText } from '../../core/text/input.ts';
import { timeIn } from '../../core/time/clock.ts';
import { firmZone } from '../marks/zone.ts';
import { parse } from '../parse.ts';
import { inTurn, readTag, tagFits, tagOf, tagsBefore, unitOfTag, writeTag, type FieldTag } from './reader.ts';
import { takeStep, wayOf } from './steps.ts';

/** A scan of a unit's card on the floor, as parsed: what is done by it. */
export const floorScan = z.strictObject({
	/** made by the browser, so that sending twice takes it once */
	id: z.uuid(),
	text: scanText.or(z.literal('')),
	/** the reader found a tag: what is before it is read, and no code was scanned */
	tag: z.boolean().optional(),
	/** when it was scanned */
	at: z.iso.datetime({ offset: true }),
	act: z.enum([...ACTS, 'look']),
	/** rework: where it goes back to */
	operation: line(30).nullish(),
	reason: text(1000, 0).nullish(),
	/** the label could not be read, and somebody typed it */
	typed: z.boolean().optional()
});
type Given = z.output<typeof floorScan>;

interface Meant {
	item: string;
	itemName: string;
	serial: string;
	order: string | null;
}
/** The unit that a code stands for: its card, its GTIN and serial, or its serial alone where only one item on the floor has it. */
async function unitOf(sql: Db, given: Given): Promise<Meant> {
	const scan = readScan(given.text, new Date(given.at).getFullYear());
	if ('problem' in scan) throw new Problem(scan.problem);
	if (scan.card) {
		const { order, line: no, serial } = scan.card;
		if (!serial) throw new Problem(`That is the card of order ${order}. Scan the card of a unit.`);
		const [made] = await sql<{ item: string; itemName: string }[]>`
			SELECT i.code AS item, i.name AS "itemName" FROM orders o JOIN order_line l ON l.order_id = o.id AND l.no = ${no} JOIN item i ON i.id = l.item_id WHERE o.code = ${order}`;
		if (!made) throw new Problem(`There is no order ${order}. Print its card again.`);
		return { ...made, serial, order };
	}
	const serial = scan.serial ?? (scan.coded ? '' : scan.text.trim());
	if (!serial || serial.length > 60) throw new Problem('The code names no serial. Scan the card of the unit.');
	const rows = await sql<Meant[]>`
		SELECT i.code AS item, i.name AS "itemName", n.serial, o.code AS order FROM (
			SELECT item_id, serial_no AS serial, NULL::bigint AS order_id FROM mark WHERE looks = looks(${serial}) AND kind = 'serial' AND serial_no = ${serial}
			UNION ALL SELECT item_id, number, order_id FROM drawn_number WHERE kind = 'serial' AND number = ${serial}) n
		JOIN item i ON i.id = n.item_id AND (${scan.gtin ?? null}::text IS NULL OR i.gtin = ${scan.gtin ?? null}) LEFT JOIN orders o ON o.id = n.order_id
		WHERE EXISTS (SELECT 1 FROM route r WHERE r.item_id = i.id) ORDER BY o.code NULLS LAST`;
	const items = new Set(rows.map((r) => r.item));
	if (!rows.length)
		throw new Problem(
			`${serial} is no unit that goes over the floor. Check the label, or give its item a route in Setup, Items.`
		);
	if (items.size > 1) throw new Problem(`${serial} stands for ${[...items].join(' and ')}. Scan the card of the unit.`);
	return rows[0];
}

/**
 * Takes a card that was scanned on the floor, and does what was chosen: moves the unit on, holds it, sends it to rework,
 * or only says where it is. What is refused changes nothing. The same scan sent again gets the same answer.
 * @throws Problem 409 when the id of the scan stands for another one
 */
export async function scanOnFloor(
	sql: Sql,
	who: Actor,
	station: { id: string; code: string; name: string },
	input: unknown
): Promise<FloorAnswer> {
	const given = parse(floorScan, input);
	const [known] = await sql<
		{ text: string; answer: FloorAnswer }[]
	>`SELECT text, answer FROM station_scan WHERE id = ${given.id}`;
	if (known) {
		if (known.text !== given.text) throw new Problem('The id of this scan stands for another one. Scan it again.', 409);
		return known.answer;
	}
	const refused = (said: string, meant: Meant | null): FloorAnswer => ({
		...{ id: given.id, taken: false, again: false, said, act: given.act, wrote: false },
		unit: meant && { ...meant, operation: null, state: null, name: null, since: null, by: null }
	});
	let meant: Meant | null = null;
	let answer: FloorAnswer;
	try {
		const tag = given.tag ? await readTag(sql, station) : null;
		meant = tag ? await unitOfTag(sql, tag) : await unitOf(sql, given);
		answer = await act(sql, who, station, given, meant, tag);
	} catch (e) {
		if (!(e instanceof Problem)) throw e;
		answer = refused(e.message, meant);
	}
	await sql`INSERT INTO station_scan (id, station_id, order_id, unit, text, taken, answer, scanned_by)
		VALUES (${given.id}, ${station.id}, (SELECT id FROM orders WHERE code = ${meant?.order ?? null}), ${meant?.serial ?? null}, ${given.text}, ${answer.taken}, ${JSON.stringify(answer)}::text::jsonb, ${who.name}) ON CONFLICT DO NOTHING`;
	return answer;
}

async function act(
	sql: Sql,
	who: Actor,
	station: { id: string; code: string; name: string },
	given: Given,
	meant: Meant,
	read: FieldTag | null
): Promise<FloorAnswer> {
	const { item, serial } = meant;
	if (given.act === 'look') {
		const way = await wayOf(sql, item, serial);
		if (!way) throw new Problem(`${serial} is not released to the floor. Choose Release, then scan it.`);
		return answered(sql, given, meant, { again: false, wrote: false }, 'is');
	}
	// A card that is scanned while its tag, or a blank one, lies before the reader is written into it too.
	const lying = read ? [read] : await tagsBefore(sql, station.id);
	const tag = lying.length === 1 && tagFits(lying[0], serial) ? lying[0] : null;
	let wrote = false;
	const confirm = tag
		? async (to: { operation: string; state: string }) => {
				const content = await tagOf(sql, { item, serial, order: meant.order ?? '', ...to });
				await writeTag(sql, station, tag, serial, content);
				wrote = true;
			}
		: undefined;
	const step = () =>
		takeStep(
			sql,
			{ ...who, source: 'station' },
			{
				key: `floor:${given.id}`,
				at: given.at,
				item,
				serial,
				act: given.act,
				operation: given.operation,
				reason: given.reason
			},
			{ station: station.code, order: meant.order, evidence: given.typed ? 'entered' : 'scanned', confirm }
		);
	const stepped = await (tag ? inTurn(step) : step());
	return answered(
		sql,
		given,
		meant,
		{ again: !!stepped.again, wrote },
		stepped.again ? 'was read a moment ago; it is' : 'is now'
	);
}

async function answered(
	sql: Sql,
	given: Given,
	meant: Meant,
	did: { again: boolean; wrote: boolean },
	verb: string
): Promise<FloorAnswer> {
	const way = (await wayOf(sql, meant.item, meant.serial))!;
	const last = way.steps[way.steps.length - 1];
	const [route] = await sql<{ operations: Operation[] }[]>`
		SELECT r.operations FROM floor f JOIN mark k ON k.id = f.mark_id JOIN item i ON i.id = k.item_id JOIN route r ON r.id = f.route_id WHERE i.code = ${meant.item} AND k.serial_no = ${meant.serial} AND k.kind = 'serial'`;
	const name = route.operations.find((o) => o.code === way.operation)?.name ?? way.operation;
	const zone = await firmZone(sql);
	return {
		...{ id: given.id, taken: true, ...did, act: given.act },
		said: `${meant.serial} ${verb} ${sayWhere({ operation: way.operation, state: way.state, was: null }, name)}${given.act === 'look' ? ` since ${showWhen(timeIn(zone, new Date(last.at)))}` : ''}.`,
		unit: {
			...meant,
			operation: way.operation,
			name,
			state: way.state,
			since: timeIn(zone, new Date(last.at)),
			by: last.by
		}
	};
}

/** The operations that a unit may be sent back to: those of all routes. */
export async function operationsOf(sql: Db): Promise<{ code: string; name: string }[]> {
	const rows = await sql<{ code: string; name: string }[]>`
		SELECT DISTINCT ON (o.code) o.code, o.name FROM (SELECT DISTINCT ON (item_id) operations FROM route ORDER BY item_id, id DESC) r
		CROSS JOIN jsonb_to_recordset(r.operations) o(code text, name text) ORDER BY o.code`;
	return [...rows];
}
