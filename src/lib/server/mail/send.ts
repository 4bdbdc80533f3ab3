import { createTransport, type Transporter } from 'nodemailer';
import type { Sql } from '../database/connect.ts';
import { keepDoing } from '../work/every.ts';
import { openMailbox } from './mailbox.ts';
import type { Attachment } from './queue.ts';
import { queueHead } from './witness.ts';

/** How often the mails to be sent are looked at. In ms. */
const EVERY = 2000;
/** How often a mail is tried, and how long it waits after the first, second, … time. In seconds. */
const WAITS = [5, 30, 120, 600, 3600];
/** How long a server may take. In ms. */
const PATIENCE = 30_000;
interface Due {
	id: string;
	recipient: string;
	subject: string;
	body: string;
	attachments: Attachment[];
	tries: number;
}

/**
 * Sends what is due: each mail by one instance, tried again after a while where the server refuses it or does not answer.
 * After the last time it stays as failed, with what was answered.
 */
export async function sendDue(sql: Sql, transport: Pick<Transporter, 'sendMail'>): Promise<void> {
	// A mail that is being sent is not due for others; one whose sender was killed is due again.
	const due = await sql<Due[]>`
		UPDATE mail SET tries = tries + 1, next_try = now() + interval '2 minutes' WHERE id IN (
			SELECT id FROM mail WHERE sent_at IS NULL AND next_try <= now() ORDER BY next_try, id LIMIT 5 FOR UPDATE SKIP LOCKED)
		RETURNING id, recipient, subject, body, attachments, tries`;
	await Promise.all(
		due.map(async (mail) => {
			try {
				await transport.sendMail({
					from: 'Earmark <earmark@localhost>',
					to: mail.recipient,
					subject: mail.subject,
					text: mail.body,
					messageId: `<mail-${mail.id}@earmark.localhost>`,
					attachments: mail.attachments.map((a) => ({
						filename: a.name,
						contentType: a.type,
						content: Buffer.from(a.content, 'base64')
					}))
				});
				await sql`UPDATE mail SET sent_at = now(), next_try = NULL, fault = NULL WHERE id = ${mail.id}`;
			} catch (error) {
				const fault = (error as Error).message.slice(0, 300);
				const wait = WAITS[mail.tries - 1];
				await sql`UPDATE mail SET fault = ${fault}, next_try = now() + ${wait ?? null}::int * interval '1 second' WHERE id = ${mail.id}`;
			}
		})
	);
}

/** Tries a mail that failed, or waits for its next time, at once. @returns whether there was one */
export async function sendAgain(sql: Sql, id: string): Promise<boolean> {
	const done = await sql`UPDATE mail SET next_try = now(), tries = 0 WHERE id = ${id} AND sent_at IS NULL`;
	return done.count > 0;
}

/**
 * Sends mails for as long as the process runs, and the head of the ledger once a day: through the server that
 * EARMARK_MAIL names (smtp://host:port), or the one that stands in for it.
 */
export async function keepMailing(pool: () => Sql): Promise<void> {
	const url = process.env.EARMARK_MAIL ?? `smtp://127.0.0.1:${await openMailbox(pool)}`;
	const transport = createTransport(url, {
		connectionTimeout: PATIENCE,
		greetingTimeout: PATIENCE,
		socketTimeout: PATIENCE
	} as object);
	keepDoing(EVERY, 'Sending mail failed; it is tried again.', async () => {
		await queueHead(pool());
		await sendDue(pool(), transport);
	});
}
