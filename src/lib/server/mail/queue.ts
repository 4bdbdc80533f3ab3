import type { Db } from '../database/connect.ts';

/** A mail that is to be sent. */
export interface Mail {
	/** what it is about: the same is sent once */
	about: string;
	to: string;
	subject: string;
	body: string;
	attachments?: Attachment[];
	/** of one with a head of the ledger: how many entries that has */
	ledgerSize?: number;
}
/** A file that goes along, small: it is kept with the mail. */
export interface Attachment {
	name: string;
	type: string;
	/** base64 */
	content: string;
}

/** Puts a mail among those to be sent; one about the same thing is there already. @returns whether it is new */
export async function queueMail(sql: Db, by: string, mail: Mail): Promise<boolean> {
	const made = await sql`
		INSERT INTO mail (about, recipient, subject, body, attachments, ledger_size, made_by)
		VALUES (${mail.about}, ${mail.to}, ${mail.subject}, ${mail.body}, ${JSON.stringify(mail.attachments ?? [])}::text::jsonb, ${mail.ledgerSize ?? null}, ${by}) ON CONFLICT DO NOTHING`;
	return made.count > 0;
}
