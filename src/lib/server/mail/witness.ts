import { z } from 'zod';
import { transaction, type Sql } from '../database/connect.ts';
import { showDay, showWhen } from '../../core/dates/dates.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { dayIn, timeIn } from '../../core/time/clock.ts';
import { keepHistory } from '../history/history.ts';
import { headText, headQr } from '../ledger/paper.ts';
import { consistencyOf, headNow } from '../ledger/seal.ts';
import { parse } from '../parse.ts';
import { queueMail, type Attachment } from './queue.ts';

const address = z.union([z.literal(''), z.email('This is no mail address. Type it as name@example.org.').max(254)]);

/** Sets who is sent the head of the ledger each day; nobody, where it is empty. */
export async function saveWitness(sql: Sql, by: string, input: unknown): Promise<void> {
	const witness = parse(address, typeof input === 'string' ? input.trim() : input) || null;
	await transaction(sql, async (tx) => {
		const [was] = await tx<{ witness: string | null }[]>`SELECT witness FROM firm FOR UPDATE`;
		if (was.witness === witness) return;
		await tx`UPDATE firm SET witness = ${witness}`;
		await keepHistory(tx, by, 'firm', 'firm', { witness: was.witness }, { witness });
	});
}
/** Who is sent the head each day; null for nobody. */
export async function readWitness(sql: Sql): Promise<string | null> {
	const [firm] = await sql<{ witness: string | null }[]>`SELECT witness FROM firm`;
	return firm.witness;
}

/** Puts the head of the ledger among the mails to be sent, where there is a witness and it did not go out today. */
export async function queueHead(sql: Sql, now = new Date()): Promise<void> {
	const [firm] = await sql<{ witness: string | null; zone: string }[]>`SELECT witness, zone FROM firm`;
	if (!firm.witness) return;
	const day = dayIn(firm.zone, now);
	const about = `head ${day} ${firm.witness}`;
	if ((await sql`SELECT 1 FROM mail WHERE about = ${about}`).length) return;
	await sendHead(sql, 'earmark', about, firm.witness, firm.zone, now);
}

/** Puts the head of the ledger among the mails to be sent, now. @returns to whom; null without a witness */
export async function queueHeadNow(sql: Sql, by: string, now = new Date()): Promise<string | null> {
	const [firm] = await sql<{ witness: string | null; zone: string }[]>`SELECT witness, zone FROM firm`;
	if (!firm.witness) return null;
	await sendHead(sql, by, `head ${now.toISOString()} ${firm.witness}`, firm.witness, firm.zone, now);
	return firm.witness;
}

async function sendHead(sql: Sql, by: string, about: string, to: string, zone: string, now: Date): Promise<void> {
	const head = await headNow(sql);
	const [last] = await sql<{ head: { size: number; root: string } | null }[]>`
		SELECT (SELECT convert_from(decode(a ->> 'content', 'base64'), 'UTF8')::jsonb FROM jsonb_array_elements(m.attachments) a WHERE a ->> 'name' = 'head.json') AS head
		FROM mail m WHERE m.recipient = ${to} AND m.about LIKE 'head %' ORDER BY m.id DESC LIMIT 1`;
	const before = last?.head && last.head.size > 0 && last.head.size <= head.size ? last.head : null;
	const file = (name: string, value: unknown): Attachment => ({
		name,
		type: 'application/json',
		content: Buffer.from(JSON.stringify(value, null, '\t')).toString('base64')
	});
	const qr = (await headQr(head)).split(',')[1];
	await queueMail(sql, by, {
		about,
		to,
		subject: `Head of the ledger, ${showDay(dayIn(zone, now))}: ${grouped(String(head.size))} entries`,
		body: [
			`Head of the ledger on ${showWhen(timeIn(zone, now))}:`,
			'',
			headText(head),
			'',
			`${grouped(String(head.size))} entries. Keep this mail: whoever has it can prove later that nothing before it was changed or taken away.`,
			...(before
				? [
						'',
						`consistency.json proves (RFC 9162, 2.1.4) that this ledger begins with the ${grouped(String(before.size))} entries whose head was sent before.`
					]
				: []),
			'',
			`To check it against the ledger of a later day: ./earmark verify --head ${headText(head)}`
		].join('\n'),
		attachments: [
			file('head.json', { size: head.size, root: head.root, at: head.at }),
			...(before
				? [
						file('consistency.json', {
							...(await consistencyOf(sql, before.size, head.size)),
							fromRoot: before.root,
							toRoot: head.root
						})
					]
				: []),
			{ name: 'head.png', type: 'image/png', content: qr }
		]
	});
}
