import { z } from 'zod';
import { transaction, type Sql } from '../database/connect.ts';
import { showDay, showWhen } from '../../core/dates/dates.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { dayIn, timeIn } from '../../core/time/clock.ts';
import { keepHistory } from '../history/history.ts';
import { headText, headQr } from '../ledger/paper.ts';
import { consistencyOf, headAt, headNow } from '../ledger/seal.ts';
import { firmZone } from '../marks/zone.ts';
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
	const [witness, zone] = await Promise.all([readWitness(sql), firmZone(sql)]);
	if (!witness) return;
	const about = `head ${dayIn(zone, now)} ${witness}`;
	if ((await sql`SELECT 1 FROM mail WHERE about = ${about}`).length) return;
	await sendHead(sql, 'earmark', about, witness, zone, now);
}

/** Puts the head of the ledger among the mails to be sent, now. @returns to whom; null without a witness */
export async function queueHeadNow(sql: Sql, by: string, now = new Date()): Promise<string | null> {
	const [witness, zone] = await Promise.all([readWitness(sql), firmZone(sql)]);
	if (witness) await sendHead(sql, by, `head ${now.toISOString()} ${witness}`, witness, zone, now);
	return witness;
}

async function sendHead(sql: Sql, by: string, about: string, to: string, zone: string, now: Date): Promise<void> {
	const head = await headNow(sql);
	const [last] = await sql<{ size: number | null }[]>`
		SELECT max(ledger_size)::float8 AS size FROM mail WHERE recipient = ${to} AND ledger_size BETWEEN 1 AND ${head.size}`;
	const before = last.size ? await headAt(sql, last.size) : null;
	const file = (name: string, value: unknown): Attachment => ({
		name,
		type: 'application/json',
		content: Buffer.from(JSON.stringify(value, null, '\t')).toString('base64')
	});
	const qr = (await headQr(head)).split(',')[1];
	await queueMail(sql, by, {
		about,
		to,
		ledgerSize: head.size,
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
