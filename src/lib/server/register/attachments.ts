import { createHash } from 'node:crypto';
import type { Db } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { text as anyText } from '../../core/text/input.ts';
import { timeIn } from '../../core/time/clock.ts';
import { firmZone } from '../marks/zone.ts';
import { parse } from '../parse.ts';

/** A note on a number, with who and when. */
export interface Note {
	id: string;
	text: string;
	by: string;
	at: string;
}
/** A file on a number, with who and when. */
export interface Attached {
	id: string;
	name: string;
	type: string;
	/** bytes */
	size: number;
	by: string;
	at: string;
}
/** Notes and files of a lot or serial, newest first. */
export async function attachments(sql: Db, mark: string): Promise<{ notes: Note[]; files: Attached[] }> {
	const [zone, notes, files] = await Promise.all([
		firmZone(sql),
		sql<(Omit<Note, 'at'> & { at: Date })[]>`
			SELECT n.id, n.text, coalesce(p.name, n.written_by) AS by, n.written_at AS at
			FROM mark_note n LEFT JOIN person p ON p.login = n.written_by WHERE n.mark_id = ${mark} ORDER BY n.id DESC LIMIT 200`,
		sql<(Omit<Attached, 'at'> & { at: Date })[]>`
			SELECT f.id, f.name, s.type, length(s.content) AS size, coalesce(p.name, f.added_by) AS by, f.added_at AS at
			FROM mark_file f JOIN stored_file s USING (sha256) LEFT JOIN person p ON p.login = f.added_by WHERE f.mark_id = ${mark} ORDER BY f.id DESC LIMIT 200`
	]);
	const shown = <T extends { at: Date }>(r: T) => ({ ...r, at: timeIn(zone, r.at) });
	return { notes: notes.map(shown), files: files.map(shown) };
}

/** There is such a lot or serial. @throws Problem 404 when there is none */
async function mustExist(sql: Db, mark: string) {
	const [there] = await sql`SELECT 1 FROM mark WHERE id = ${mark} AND kind <> 'unmarked'`;
	if (!there) throw new Problem('This lot or serial is not known. Look it up in the register.', 404);
}

const noteText = anyText(4000, 1, 'Write the note first.', 'A note has at most 4,000 characters.');
/** Adds a note to a lot or serial. It stays as it is written. */
export async function addNote(sql: Db, by: string, mark: string, text: unknown): Promise<void> {
	const note = parse(noteText, text);
	await mustExist(sql, mark);
	await sql`INSERT INTO mark_note (mark_id, text, written_by) VALUES (${mark}, ${note}, ${by})`;
}

/** The most a file may hold, in bytes. */
export const MOST_BYTES = 10_000_000;
/** What a file is by its first bytes, whatever its name says. */
export function typeOf(bytes: Uint8Array): string | null {
	const starts = (...list: number[]) => list.every((b, i) => bytes[i] === b);
	if (starts(0x25, 0x50, 0x44, 0x46, 0x2d)) return 'application/pdf';
	if (starts(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return 'image/png';
	if (starts(0xff, 0xd8, 0xff)) return 'image/jpeg';
	return null;
}
/**
 * Keeps the bytes of a certificate or picture, once whatever its name.
 * @returns what it is kept under and its name made safe, as the value of a fact holds them
 * @throws Problem when it is none, or too large
 */
export async function storeFile(
	sql: Db,
	by: string,
	file: { name: string; bytes: Uint8Array }
): Promise<{ sha256: string; name: string }> {
	const { bytes } = file;
	const name = file.name.replace(/[^\p{L}\p{N} ._()-]/gu, '_').slice(-200) || 'file';
	if (!bytes.length) throw new Problem([{ message: 'Choose a file first.', at: 'file' }]);
	if (bytes.length > MOST_BYTES)
		throw new Problem([{ message: `${name} is larger than 10 MB. Make it smaller, and add it again.`, at: 'file' }]);
	const type = typeOf(bytes);
	if (!type) throw new Problem([{ message: `${name} is no PDF, PNG or JPEG. Save it as one of these.`, at: 'file' }]);
	const sha256 = createHash('sha256').update(bytes).digest('hex');
	await sql`INSERT INTO stored_file (sha256, type, content, added_by) VALUES (${sha256}, ${type}, ${Buffer.from(bytes)}, ${by}) ON CONFLICT DO NOTHING`;
	return { sha256, name };
}
/**
 * Keeps a file with a lot or serial.
 * @throws Problem when it is there already, and as storeFile does
 */
export async function addFile(
	sql: Db,
	by: string,
	mark: string,
	file: { name: string; bytes: Uint8Array }
): Promise<void> {
	await mustExist(sql, mark);
	const { sha256, name } = await storeFile(sql, by, file);
	const made =
		await sql`INSERT INTO mark_file (mark_id, name, sha256, added_by) VALUES (${mark}, ${name}, ${sha256}, ${by}) ON CONFLICT DO NOTHING`;
	if (!made.count) throw new Problem([{ message: `${name} is kept here already.`, at: 'file' }]);
}
/** A file as it is handed out. */
export interface Kept {
	name: string;
	type: string;
	content: Buffer;
}
/** A file that is kept with a lot or serial, by its number; or one by its SHA-256, as a sheet holds it before it is booked. */
export async function readFile(sql: Db, id: string): Promise<Kept | null> {
	const [file] = /^[0-9a-f]{64}$/.test(id)
		? await sql<
				Kept[]
			>`SELECT left(sha256, 12) || '.' || split_part(type, '/', 2) AS name, type, content FROM stored_file WHERE sha256 = ${id}`
		: await sql<
				Kept[]
			>`SELECT f.name, s.type, s.content FROM mark_file f JOIN stored_file s USING (sha256) WHERE f.id = ${id}`;
	return file ?? null;
}
