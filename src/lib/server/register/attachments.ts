import { createHash } from 'node:crypto';
import { z } from 'zod';
import type { Db } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { parse } from '../people/people.ts';

export interface Note {
	id: string;
	text: string;
	by: string;
	at: string;
}
export interface Attached {
	id: string;
	name: string;
	type: string;
	/** bytes */
	size: number;
	by: string;
	at: string;
}
const WHEN = 'YYYY-MM-DD HH24:MI';

/** Notes and files of a lot or serial, newest first. */
export async function attachments(sql: Db, mark: string): Promise<{ notes: Note[]; files: Attached[] }> {
	const [notes, files] = await Promise.all([
		sql<
			Note[]
		>`SELECT n.id, n.text, coalesce(p.name, n.written_by) AS by, to_char(n.written_at AT TIME ZONE 'UTC', ${WHEN}) AS at
			FROM mark_note n LEFT JOIN person p ON p.login = n.written_by WHERE n.mark_id = ${mark} ORDER BY n.id DESC LIMIT 200`,
		sql<
			Attached[]
		>`SELECT f.id, f.name, f.type, length(f.content) AS size, coalesce(p.name, f.added_by) AS by, to_char(f.added_at AT TIME ZONE 'UTC', ${WHEN}) AS at
			FROM mark_file f LEFT JOIN person p ON p.login = f.added_by WHERE f.mark_id = ${mark} ORDER BY f.id DESC LIMIT 200`
	]);
	return { notes: [...notes], files: [...files] };
}

const noteText = z.string().trim().min(1, 'Write the note first.').max(4000, 'A note has at most 4,000 characters.');
export async function addNote(sql: Db, by: string, mark: string, text: unknown): Promise<void> {
	await sql`INSERT INTO mark_note (mark_id, text, written_by) VALUES (${mark}, ${parse(noteText, text)}, ${by})`;
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
 * Keeps a certificate or picture with a lot or serial.
 * @throws Problem when it is none, too large, or there already
 */
export async function addFile(
	sql: Db,
	by: string,
	mark: string,
	file: { name: string; bytes: Uint8Array }
): Promise<void> {
	const { bytes } = file;
	const name = file.name.replace(/[^\p{L}\p{N} ._()-]/gu, '_').slice(-200) || 'file';
	if (!bytes.length) throw new Problem([{ message: 'Choose a file first.', at: 'file' }]);
	if (bytes.length > MOST_BYTES) throw new Problem([{ message: `${name} is larger than 10 MB. Make it smaller, and add it again.`, at: 'file' }]); // prettier-ignore
	const type = typeOf(bytes);
	if (!type) throw new Problem([{ message: `${name} is no PDF, PNG or JPEG. Save it as one of these.`, at: 'file' }]);
	const made = await sql`INSERT INTO mark_file (mark_id, name, type, sha256, content, added_by)
		VALUES (${mark}, ${name}, ${type}, ${createHash('sha256').update(bytes).digest('hex')}, ${Buffer.from(bytes)}, ${by}) ON CONFLICT DO NOTHING`;
	if (!made.count) throw new Problem([{ message: `${name} is kept here already.`, at: 'file' }]);
}
export async function readFile(sql: Db, id: string): Promise<{ name: string; type: string; content: Buffer } | null> {
	const [file] = await sql<{ name: string; type: string; content: Buffer }[]>`SELECT name, type, content FROM mark_file WHERE id = ${id}`; // prettier-ignore
	return file ?? null;
}
