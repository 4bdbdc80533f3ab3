import type { ListSource } from '../list/source.ts';

const state = `CASE WHEN m.sent_at IS NOT NULL THEN 'sent' WHEN m.next_try IS NULL THEN 'failed' WHEN m.tries > 0 THEN 'tried again' ELSE 'waits' END`;

/** Every mail that was sent or is to be sent. */
export const mailList: ListSource = {
	key: 'mail',
	title: 'Mail sent',
	right: 'see the ledger',
	find: 'Find a subject or an address',
	empty: 'No mail yet. The head of the ledger is sent each day to the witness named in Setup, Ledger.',
	id: ['m.id'],
	sort: { key: 'made', down: true },
	from: `mail m LEFT JOIN person p ON p.login = m.made_by WHERE true`,
	also: { waits: `CASE WHEN m.sent_at IS NULL THEN 'yes' END` },
	columns: [
		{ key: 'made', label: 'Written', kind: 'moment', from: 'm.made_at', filled: true },
		{ key: 'to', label: 'To', kind: 'text', from: 'm.recipient', filled: true },
		{ key: 'subject', label: 'Subject', kind: 'text', from: 'm.subject', filled: true },
		{
			key: 'state',
			label: 'State',
			kind: 'choice',
			from: state,
			filled: true,
			choices: ['sent', 'waits', 'tried again', 'failed'].map((value) => ({ value, label: value }))
		},
		{ key: 'tries', label: 'Tries', kind: 'number', from: 'm.tries', filled: true },
		{ key: 'fault', label: 'Answer of the server', kind: 'text', from: 'm.fault' },
		{ key: 'by', label: 'By', kind: 'text', from: 'coalesce(p.name, m.made_by)', filled: true }
	]
};
/** What the mail server that stands in for a real one took. */
export const mailboxList: ListSource = {
	key: 'mailbox',
	title: 'Mailbox',
	right: 'see the ledger',
	find: 'Find a subject or an address',
	empty: 'Nothing has arrived yet.',
	id: ['m.id'],
	sort: { key: 'at', down: true },
	from: 'mailbox_message m WHERE true',
	columns: [
		{ key: 'at', label: 'Arrived', kind: 'moment', from: 'm.received_at', filled: true },
		{ key: 'to', label: 'To', kind: 'text', from: 'm.recipient', filled: true },
		{ key: 'subject', label: 'Subject', kind: 'text', from: 'm.subject', filled: true },
		{ key: 'size', label: 'Bytes', kind: 'number', from: 'octet_length(m.content)', filled: true }
	]
};
