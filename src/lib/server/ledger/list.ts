import { KINDS } from '../../core/ledger/events.ts';
import type { Db } from '../database/connect.ts';
import { like } from '../database/like.ts';
import type { Fragment } from '../database/fragment.ts';
import type { ListSource } from '../list/source.ts';

/** A moment as programs read it. */
const isoTime = (at: string) => `to_char(${at} AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')`;

/** Events that a text is in: what they are called by is looked through once, not put in words for each of them. */
async function finds(sql: Db, text: string): Promise<{ where: Fragment }> {
	const pattern = `%${like(text.toLowerCase())}%`;
	return {
		where: sql`(lower(e.document) LIKE ${pattern} OR lower(e.reason) LIKE ${pattern} OR lower(e.recorded_by) LIKE ${pattern}
			OR e.order_id IN (SELECT x.id FROM orders x WHERE lower(x.code) LIKE ${pattern})
			OR e.partner_id IN (SELECT x.id FROM partner x WHERE lower(x.name) LIKE ${pattern})
			OR e.job_id IN (SELECT x.id FROM job x WHERE lower(x.name) LIKE ${pattern})
			OR e.recorded_by IN (SELECT x.login FROM person x WHERE lower(x.name) LIKE ${pattern}))`
	};
}

/** Everything that was booked, newest first. */
export const eventList: ListSource = {
	key: 'events',
	title: 'Booked',
	right: 'read',
	find: 'Find a document, partner, order or person',
	finds,
	empty: 'Nothing is booked yet.',
	id: ['e.id'],
	sort: { key: 'recorded', down: true },
	from: `event e LEFT JOIN person n ON n.login = e.recorded_by LEFT JOIN partner q ON q.id = e.partner_id LEFT JOIN job j ON j.id = e.job_id
		LEFT JOIN orders o ON o.id = e.order_id LEFT JOIN event u ON u.undoes = e.id WHERE true`,
	also: {
		orderKind: 'o.kind',
		undone: `CASE WHEN u.id IS NOT NULL THEN 'yes' END`,
		undoes: 'e.undoes',
		partnerCode: 'q.code',
		jobCode: 'j.code',
		happened: isoTime('e.at'),
		bookedAt: isoTime('e.recorded_at')
	},
	columns: [
		{ key: 'recorded', label: 'Booked', kind: 'moment', from: 'e.recorded_at', filled: true },
		{ key: 'at', label: 'Happened', kind: 'moment', from: 'e.at', filled: true, extra: true },
		{
			key: 'kind',
			label: 'Act',
			kind: 'choice',
			from: 'e.kind',
			filled: true,
			choices: KINDS.map((value) => ({ value, label: value }))
		},
		{ key: 'document', label: 'Document', kind: 'text', from: 'e.document', mono: true },
		{ key: 'order', label: 'Order', kind: 'text', from: 'o.code', mono: true },
		{ key: 'partner', label: 'Partner or job', kind: 'text', from: 'coalesce(q.name, j.name)' },
		{
			key: 'numbers',
			label: 'Numbers',
			kind: 'number',
			from: '(SELECT count(DISTINCT m.mark_id) FROM movement m WHERE m.event_id = e.id)',
			filled: true
		},
		{ key: 'by', label: 'By', kind: 'text', from: 'coalesce(n.name, e.recorded_by)', filled: true },
		{
			key: 'source',
			label: 'From',
			kind: 'choice',
			from: 'e.source',
			filled: true,
			extra: true,
			choices: [
				{ value: 'screen', label: 'screen' },
				{ value: 'api', label: 'another program' },
				{ value: 'station', label: 'station' },
				{ value: 'import', label: 'import' }
			]
		},
		{ key: 'reason', label: 'Reason', kind: 'text', from: 'e.reason' }
	]
};
