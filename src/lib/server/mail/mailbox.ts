import type { AddressInfo } from 'node:net';
import { buffer } from 'node:stream/consumers';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import { z } from 'zod';
import type { Db, Sql } from '../database/connect.ts';
import { timeIn } from '../../core/time/clock.ts';
import { firmZone } from '../marks/zone.ts';
import { parse } from '../parse.ts';

/** How the mail server that stands in for a real one answers. */
export const ANSWERS = ['takes', 'slow', 'refuses'] as const;
/** The largest mail that it takes, in bytes. */
const MOST = 10_000_000;
/** How long it takes when it is slow. In ms. */
const SLOW = 5000;

/** How it answers now. */
export async function readMailbox(sql: Db): Promise<(typeof ANSWERS)[number]> {
	const [box] = await sql<{ answers: (typeof ANSWERS)[number] }[]>`SELECT answers FROM mailbox`;
	return box.answers;
}
/** Sets how it answers. */
export async function setMailbox(sql: Sql, input: unknown): Promise<void> {
	const answers = parse(z.enum(ANSWERS, 'Choose how it answers.'), input);
	await sql`UPDATE mailbox SET answers = ${answers}`;
}

/**
 * Opens a small mail server on loopback (SMTP, RFC 5321): it keeps what it takes, so that it can be looked at, and passes
 * nothing on.
 * @returns its port
 */
export async function openMailbox(pool: () => Sql): Promise<number> {
	const server = new SMTPServer({
		authOptional: true,
		disabledCommands: ['STARTTLS', 'AUTH'],
		size: MOST,
		onData: (stream, session, done) =>
			void take(
				pool(),
				stream,
				session.envelope.rcptTo.map((to) => to.address)
			).then(() => done(), done)
	});
	// A connection that breaks is the sender's matter: it tries again.
	server.on('error', () => {});
	await new Promise<void>((open) => server.listen(0, '127.0.0.1', open));
	server.server.unref();
	return (server.server.address() as AddressInfo).port;
}

async function take(sql: Sql, stream: NodeJS.ReadableStream & { sizeExceeded?: boolean }, to: string[]): Promise<void> {
	const content = await buffer(stream);
	const answer = (message: string, responseCode: number) => Object.assign(new Error(message), { responseCode });
	if (stream.sizeExceeded) throw answer('The message is too large.', 552);
	const answers = await readMailbox(sql);
	if (answers === 'refuses') throw answer('The mailbox is closed. Try later.', 451);
	if (answers === 'slow') await new Promise((resolve) => setTimeout(resolve, SLOW));
	const { subject } = await simpleParser(content);
	for (const recipient of to)
		await sql`INSERT INTO mailbox_message (recipient, subject, content) VALUES (${recipient}, ${subject ?? ''}, ${content})`;
}

/** A message as it arrived. */
export interface Message {
	id: string;
	from: string;
	to: string;
	subject: string;
	at: string;
	text: string;
	attachments: { name: string; type: string; size: number }[];
}
const read = async (sql: Db, id: string) => {
	const [row] = await sql<{ recipient: string; content: Buffer; at: Date }[]>`
		SELECT recipient, content, received_at AS at FROM mailbox_message WHERE id = ${id}`;
	return row && { ...row, mail: await simpleParser(row.content) };
};
/** A message as it arrived; null when there is none. */
export async function message(sql: Db, id: string): Promise<Message | null> {
	const [row, zone] = await Promise.all([read(sql, id), firmZone(sql)]);
	if (!row) return null;
	const { mail } = row;
	return {
		id,
		from: mail.from?.text ?? '',
		to: row.recipient,
		subject: mail.subject ?? '',
		at: timeIn(zone, row.at),
		text: mail.text ?? '',
		attachments: mail.attachments.map((a) => ({ name: a.filename ?? 'file', type: a.contentType, size: a.size }))
	};
}
/** One attachment of a message, counted from 0; null when there is none. */
export async function attachmentOf(
	sql: Db,
	id: string,
	n: number
): Promise<{ name: string; type: string; content: Uint8Array } | null> {
	const row = await read(sql, id);
	const a = row?.mail.attachments[n];
	return a ? { name: a.filename ?? 'file', type: a.contentType, content: a.content } : null;
}
