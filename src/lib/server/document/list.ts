import { documentKind, DOCUMENT_NAMES, type Kind } from '../../core/document/kinds.ts';
import { like } from '../database/like.ts';
import { shownAmount } from '../database/shown.ts';
import type { ListSource } from '../list/source.ts';

const done = `o.closed_at IS NOT NULL`;
const started = `EXISTS (SELECT 1 FROM (SELECT x.id FROM event x WHERE x.order_id = o.id UNION ALL SELECT w.event_id FROM order_event w WHERE w.order_id = o.id) x JOIN event e ON e.id = x.id WHERE e.kind <> 'undo' AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id))`;
const drafts = `EXISTS (SELECT 1 FROM draft_row d WHERE d.order_id = o.id)`;
const content = `(SELECT string_agg(i.name || ' ' || ${shownAmount('x.qty', 'i.unit')}, ', ' ORDER BY x.no)
	FROM order_line x JOIN item i ON i.id = x.item_id WHERE x.order_id = o.id AND x.role IN ('goods', 'output'))`;

/** The documents of one kind: open ones unless it is asked otherwise. */
export function documentList(kind: Kind): ListSource {
	const row = documentKind(kind);
	const who = row.job
		? { label: 'Job', from: 'j.name', hint: 'job' }
		: row.partner && { label: row.partner.label, from: 'p.name', hint: 'partner' };
	/** Something has left its bin and has not got to where it goes. */
	const between = row.to
		? { state: 'in transit', from: 'EXISTS (SELECT 1 FROM order_transit t WHERE t.order_id = o.id)' }
		: row.packs && { state: 'picked', from: 'EXISTS (SELECT 1 FROM order_staged t WHERE t.order_id = o.id)' };
	/** Its goods have come or gone, and something stays to be done. */
	const toSettle = 'EXISTS (SELECT 1 FROM todo t WHERE t.order_id = o.id AND t.done_at IS NULL)';
	const state = `CASE WHEN ${done} THEN ${row.todo ? `CASE WHEN ${toSettle} THEN 'to settle' ELSE 'complete' END` : `'complete'`} WHEN ${drafts} THEN 'being entered'${between ? ` WHEN ${between.from} THEN '${between.state}'` : ''} WHEN ${started} THEN 'partly booked' ELSE 'open' END`;
	return {
		key: kind,
		title: row.words.list,
		right: 'read',
		find: `Find an order, ${who ? `${who.hint} ` : ''}or item`,
		empty: 'Nothing is open here.',
		id: ['o.id'],
		sort: { key: 'due', down: false },
		from: `orders o LEFT JOIN partner p ON p.id = o.partner_id LEFT JOIN job j ON j.id = o.job_id LEFT JOIN place l ON l.id = o.place_id LEFT JOIN place d ON d.id = o.to_place_id WHERE o.kind = '${kind}'`,
		// What is in an order is looked for among the items: to put it in words for each order would take longer than all the rest.
		finds: async (sql, text) => {
			const pattern = `%${like(text.toLowerCase())}%`;
			const words = [
				'o.code',
				'o.note',
				'l.code',
				'o.created_by',
				...(who ? [who.from] : []),
				...(row.to ? ['d.code'] : [])
			];
			const sold = sql`OR o.id IN (SELECT n.order_id FROM noted n WHERE lower(n.number) LIKE ${pattern} UNION ALL SELECT s.order_id FROM signature s WHERE lower(s.signer) LIKE ${pattern})`;
			return {
				where: sql`(lower(concat_ws(' ', ${sql.unsafe(words.join(', '))})) LIKE ${pattern}
					OR o.id IN (SELECT x.order_id FROM item i JOIN order_line x ON x.item_id = i.id AND x.role IN ('goods', 'output') WHERE lower(i.code || ' ' || i.name) LIKE ${pattern})
					${row.sells ? sold : sql``})`
			};
		},
		also: { late: `o.closed_at IS NULL AND o.due_on < shown_day(now())::date` },
		unasked: () => ({ which: { is: 'open' } }),
		columns: [
			{ key: 'code', label: 'Order', kind: 'text', from: 'o.code', filled: true, mono: true },
			...(who ? [{ key: 'who', label: who.label, kind: 'text', from: who.from } as const] : []),
			{
				key: 'content',
				label: 'What',
				kind: 'text',
				from: row.lines !== 'written' ? `coalesce(${content}, nullif(o.note, ''))` : content
			},
			{ key: 'place', label: row.to ? row.place.label : 'Place', kind: 'text', from: 'l.code', mono: true },
			...(row.to
				? [{ key: 'to', label: row.to.label, kind: 'text', from: 'd.code', filled: true, mono: true } as const]
				: []),
			{ key: 'due', label: row.due, kind: 'day', from: 'o.due_on' },
			...(row.sells
				? [
						{
							key: 'paid',
							label: 'Paid',
							kind: 'text',
							from: `(SELECT string_agg(n.number, ', ' ORDER BY n.id) FROM noted n WHERE n.order_id = o.id AND n.what = 'payment' AND n.withdrawn_at IS NULL)`,
							extra: true
						} as const,
						{
							key: 'signed',
							label: 'Terms signed by',
							kind: 'text',
							from: `(SELECT s.signer FROM signature s WHERE s.order_id = o.id AND s.meaning = 'terms')`,
							extra: true
						} as const
					]
				: []),
			{ key: 'closed', label: 'Complete', kind: 'moment', from: 'o.closed_at', extra: true },
			{ key: 'entered', label: 'Entered', kind: 'moment', from: 'o.created_at', filled: true, extra: true },
			{ key: 'by', label: 'Entered by', kind: 'text', from: 'o.created_by', filled: true, extra: true },
			{
				key: 'state',
				label: 'State',
				kind: 'choice',
				from: state,
				filled: true,
				choices: [
					'open',
					'being entered',
					...(between ? [between.state] : []),
					'partly booked',
					...(row.todo ? ['to settle'] : []),
					'complete'
				].map((value) => ({
					value,
					label: value === 'open' && row.fromSupplier ? 'expected' : value
				}))
			},
			{
				key: 'which',
				label: 'Which',
				kind: 'choice',
				filterOnly: true,
				choices: [
					{ value: 'open', label: 'open' },
					{ value: 'waiting', label: 'due or begun' },
					{ value: 'complete', label: 'complete' },
					{ value: 'all', label: 'all' }
				],
				where: (sql, { is }, { today }) => {
					if (is === 'all') return sql`true`;
					if (is === 'complete') return sql`o.closed_at IS NOT NULL`;
					const incomplete = sql.unsafe(row.todo ? `(o.closed_at IS NULL OR ${toSettle})` : 'o.closed_at IS NULL');
					return is === 'waiting'
						? sql`${incomplete} AND (o.due_on IS NULL OR o.due_on <= ${today}::date OR ${sql.unsafe(state)} <> 'open')`
						: sql`${incomplete}`;
				}
			}
		]
	};
}

/** The lists of all kinds of document. */
export const documentLists: ListSource[] = DOCUMENT_NAMES.map(documentList);
