import type { Db, Sql } from '../database/connect.ts';
import { readTagCode, readTagText, tagCode, tagText, type TagMemory } from '../../core/codes/epc.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { timeIn } from '../../core/time/clock.ts';
import { firmZone } from '../marks/zone.ts';
import { parse } from '../parse.ts';

/*
 * The tag readers of the stations. They stand in for real ones, and behave like them: a reader sees what lies before its
 * antenna, reads it, writes it, and finds out whether the write held. A tag's memory is no part of the ledger, and is written
 * outside every transaction, as a thing is.
 */

/** A tag before a reader. */
export interface FieldTag {
	id: string;
	name: string;
	epc: string;
	memory: string;
}
/** What lies before the reader of a station. */
export const tagsBefore = (sql: Db, stationId: string) => sql<FieldTag[]>`
	SELECT id, name, epc, memory FROM tag WHERE station_id = ${stationId} ORDER BY name COLLATE natural_order`;

/** Reads the one tag before a reader. @throws Problem when there is none, or more than one: then none is read */
export async function readTag(sql: Sql, station: { id: string; name: string }): Promise<FieldTag> {
	const tags = await tagsBefore(sql, station.id);
	if (!tags.length) throw new Problem(`No tag lies before the reader of ${station.name}. Put the unit there.`);
	if (tags.length > 1)
		throw new Problem(
			`${tags.length} tags lie before the reader of ${station.name}: ${tags.map((t) => readTagText(t.memory)?.serial || t.name).join(' and ')}. Take all but one away; nothing was read.`
		);
	const [tag] = tags;
	await sql`INSERT INTO tag_use (station_id, tag_id, did, epc, memory) VALUES (${station.id}, ${tag.id}, 'read', ${tag.epc}, ${tag.memory})`;
	return tag;
}

/** What a tag says it is on. @throws Problem when it is blank, or says two things */
export async function unitOfTag(
	sql: Db,
	tag: FieldTag
): Promise<{ item: string; itemName: string; serial: string; order: string | null }> {
	const memory = readTagText(tag.memory);
	const code = readTagCode(tag.epc);
	if (!memory && !code)
		throw new Problem(
			`Tag ${tag.name} is blank. Scan the card of its unit while it lies here: the tag is written with it.`
		);
	if (memory && code && memory.serial !== code.serial)
		throw new Problem(
			`Tag ${tag.name} says ${code.serial} in its code and ${memory.serial} in its memory. Take it off, and write a blank one.`
		);
	const [item] = await sql<{ item: string; itemName: string }[]>`
		SELECT code AS item, name AS "itemName" FROM item WHERE ${code ? sql`gtin = ${code.gtin}` : sql`code = ${memory!.item}`}`;
	if (!item)
		throw new Problem(`Tag ${tag.name} names an item that is not known here${code ? `: GTIN ${code.gtin}` : ''}.`);
	return { ...item, serial: code?.serial ?? memory!.serial, order: memory?.order || null };
}

/** May a card that is scanned write this tag: is it blank, or that unit's own? */
export const tagFits = (tag: FieldTag, serial: string): boolean =>
	(!tag.memory && !tag.epc) || readTagText(tag.memory)?.serial === serial || readTagCode(tag.epc)?.serial === serial;

/** What is written into a tag for a unit: its EPC, and where it is. */
export async function tagOf(sql: Db, memory: TagMemory): Promise<{ epc: string; memory: string }> {
	const [item] = await sql<{ gtin: string | null; digits: number }[]>`
		SELECT i.gtin, f.prefix_digits AS digits FROM firm f CROSS JOIN item i WHERE i.code = ${memory.item}`;
	return { epc: tagCode(item?.gtin ?? null, memory.serial, item?.digits ?? 7).hex, memory: tagText(memory) };
}

/**
 * Writes the tag before a reader and reads it back.
 * @throws Problem when it is not there any more, or holds something else: it was not written then
 */
export async function writeTag(
	sql: Sql,
	station: { id: string; name: string },
	tag: FieldTag,
	serial: string,
	to: { epc: string; memory: string }
): Promise<void> {
	const [held] = await sql<{ epc: string; memory: string }[]>`
		UPDATE tag SET epc = ${to.epc}, memory = ${to.memory} WHERE id = ${tag.id} AND station_id = ${station.id} AND NOT leaves RETURNING epc, memory`;
	const done = held?.epc === to.epc && held.memory === to.memory;
	await sql`INSERT INTO tag_use (station_id, tag_id, did, epc, memory) VALUES (${station.id}, ${tag.id}, ${done ? 'wrote' : 'lost'}, ${to.epc}, ${to.memory})`;
	if (done) return;
	await sql`UPDATE tag SET station_id = NULL, leaves = false WHERE id = ${tag.id} AND leaves`;
	await tellReader(sql, station.id);
	throw new Problem(
		`${serial} was taken away before its tag was written: it has not moved. Put it back before the reader of ${station.name}.`
	);
}

let last: Promise<unknown> = Promise.resolve();
/**
 * Steps that write a tag, one after the other: each holds a connection and needs a second one for the tag, and of as many
 * as there are connections at once none would end.
 */
export function inTurn<T>(work: () => Promise<T>): Promise<T> {
	const mine = last.then(work);
	last = mine.catch(() => {});
	return mine;
}

/** Tells whoever follows a reader that something came before it, or went. */
const tellReader = (sql: Db, stationId: string) => sql`SELECT pg_notify('tags', ${stationId})`;

/** A tag as the page of the devices shows it. */
export interface TagRow extends FieldTag {
	station: string | null;
	leaves: boolean;
	/** what it carries, in words; empty when it is blank */
	says: string;
}
/** All tags, and what the readers did last. */
export async function tagDevices(sql: Db): Promise<{
	tags: TagRow[];
	uses: { at: string; station: string; tag: string; did: string; says: string; epc: string }[];
}> {
	const [tags, uses, zone] = await Promise.all([
		sql<Omit<TagRow, 'says'>[]>`
			SELECT t.id, t.name, t.epc, t.memory, s.code AS station, t.leaves FROM tag t LEFT JOIN station s ON s.id = t.station_id
			ORDER BY t.station_id IS NULL, t.name COLLATE natural_order LIMIT 200`,
		sql<{ at: Date; station: string; tag: string; did: string; memory: string; epc: string }[]>`
			SELECT u.at, s.name AS station, t.name AS tag, u.did, u.memory, u.epc FROM tag_use u JOIN tag t ON t.id = u.tag_id JOIN station s ON s.id = u.station_id ORDER BY u.id DESC LIMIT 20`,
		firmZone(sql)
	]);
	return {
		tags: tags.map((t) => ({ ...t, says: inWords(t.memory) })),
		uses: uses.map(({ memory, ...u }) => ({
			...u,
			at: timeIn(zone, u.at, 'yyyy-MM-dd HH:mm:ss'),
			says: inWords(memory)
		}))
	};
}
const inWords = (memory: string): string => {
	const m = readTagText(memory);
	return m ? `${m.serial} of ${m.item}${m.order ? `, order ${m.order}` : ''}: ${m.operation}, ${m.state}` : '';
};

/** Puts a tag before the reader of a station, or out of range of all. @throws Problem when either is unknown */
export async function placeTag(sql: Sql, id: string, station: string | null): Promise<void> {
	const [was] = await sql<{ station: string | null }[]>`SELECT station_id AS station FROM tag WHERE id = ${id}`;
	if (!was) throw new Problem('There is no such tag. Reload the page.', 404);
	const [to] = station
		? await sql<{ id: string }[]>`SELECT id FROM station WHERE code = ${station} AND closed_on IS NULL`
		: [null];
	if (to === undefined) throw new Problem(`There is no station ${station}. Reload the page.`, 404);
	await sql`UPDATE tag SET station_id = ${to?.id ?? null}, leaves = false WHERE id = ${id}`;
	for (const one of new Set([was.station, to?.id])) if (one) await tellReader(sql, one);
}

/** Says that a tag will be taken away before the next write is confirmed. */
export const letLeave = (sql: Sql, id: string) =>
	sql`UPDATE tag SET leaves = NOT leaves WHERE id = ${id} AND station_id IS NOT NULL`;

const tagName = line(40, 1, 'Type what is printed on the tag.');
/** Adds a blank tag. @throws Problem when there is one of that name */
export async function addTag(sql: Sql, name: unknown): Promise<void> {
	const is = parse(tagName, name);
	const made = await sql`INSERT INTO tag (name) VALUES (${is}) ON CONFLICT DO NOTHING`;
	if (!made.count) throw new Problem([{ message: `There is a tag ${is} already. Take another name.`, at: 'name' }]);
}
