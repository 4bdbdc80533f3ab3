import { FIELD_LABELS } from '../../core/ledger/corrections.ts';
import { itemColumn, placeChoices } from '../list/choices.ts';
import type { ListSource } from '../list/source.ts';

const ACTS = ['put in', 'taken out', 'scrapped', 'counted', 'corrected'];
const labels = Object.entries(FIELD_LABELS)
	.map(([field, label]) => `WHEN '${field}' THEN '${label}'`)
	.join(' ');

/**
 * For an auditor: everything that changed without coming from anybody or going to anybody, with who, why, and how much lay
 * there before and after, as the ledger had it when it was booked.
 */
export const adjustedList: ListSource = {
	key: 'adjusted',
	title: 'Adjustments, counts and corrections',
	right: 'read',
	find: 'Find a number, item, reason, person or document',
	empty: 'Nothing was adjusted, counted or corrected yet.',
	id: ['x.event_id', 'x.line', 'x.mark_id'],
	sort: { key: 'at', down: true },
	from: `adjusted x JOIN event e ON e.id = x.event_id JOIN mark_now k ON k.id = x.mark_id JOIN item i ON i.id = k.item_id LEFT JOIN place p ON p.id = x.place_id
		LEFT JOIN person n ON n.login = e.recorded_by LEFT JOIN orders o ON o.id = e.order_id LEFT JOIN counted c ON e.kind = 'count' AND c.order_id = e.order_id AND c.mark_id = x.mark_id AND c.place_id = x.place_id
		LEFT JOIN reason w ON w.id = coalesce(c.reason_id, o.reason_id) WHERE true`,
	also: {
		eventId: 'e.id',
		mark: 'k.id',
		markKind: 'k.kind',
		statusNow: 'k.status',
		expires: 'k.expires_on',
		unit: 'i.unit',
		orderKind: 'o.kind',
		moved: 'x.line',
		where: 'x.place_id',
		was: 'x.old',
		became: 'x.new',
		undone: `CASE WHEN EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) THEN 'yes' END`
	},
	columns: [
		{ key: 'at', label: 'When', kind: 'moment', from: 'e.at', filled: true },
		{
			key: 'act',
			label: 'What',
			kind: 'choice',
			from: 'x.act',
			filled: true,
			choices: ACTS.map((value) => ({ value, label: value }))
		},
		itemColumn,
		{ key: 'number', label: 'Number', kind: 'text', from: 'k.number', mono: true },
		{
			key: 'place',
			label: 'Place',
			kind: 'choice',
			from: 'p.code',
			mono: true,
			where: (sql, { is }) =>
				sql`(p.code = ${is ?? ''} OR p.site_id = (SELECT s.id FROM place s WHERE s.code = ${is ?? ''}))`,
			options: placeChoices
		},
		{ key: 'change', label: 'Change', kind: 'number', from: 'x.change', text: 'trim_scale(x.change)::text' },
		{ key: 'before', label: 'Before', kind: 'text', computed: true },
		{ key: 'after', label: 'After', kind: 'text', computed: true },
		{ key: 'field', label: 'Field', kind: 'text', from: `CASE x.field ${labels} ELSE x.field END` },
		{
			key: 'reason',
			label: 'Reason',
			kind: 'choice',
			from: `coalesce(CASE WHEN c.reason_id IS NOT NULL THEN w.name END, e.reason)`,
			where: (sql, { is }) => sql`w.name = ${is ?? ''}`,
			options: async (sql) =>
				(await sql<{ name: string }[]>`SELECT name FROM reason ORDER BY name`).map(({ name }) => ({
					value: name,
					label: name
				}))
		},
		{ key: 'order', label: 'Order', kind: 'text', from: 'o.code', mono: true },
		{ key: 'by', label: 'By', kind: 'text', from: 'coalesce(n.name, e.recorded_by)', filled: true }
	],
	// How much lay there: all movements of the number at the place that were booked before, for a page in one statement.
	finish: async (sql, rows) => {
		const moved = rows.filter((r) => r.where);
		const lay = await sql<{ line: string; before: string; after: string }[]>`
			SELECT x.line::text, trim_scale(b.qty)::text AS before, trim_scale(b.qty + x.change)::text AS after
			FROM unnest(${moved.map((r) => r.moved)}::bigint[], ${moved.map((r) => r.mark)}::bigint[], ${moved.map((r) => r.where)}::bigint[], ${moved.map((r) => r.change)}::numeric[]) x(line, mark, place, change)
			CROSS JOIN LATERAL (SELECT coalesce(sum(CASE WHEN m.to_place = x.place THEN m.qty ELSE -m.qty END), 0) AS qty
				FROM movement m WHERE m.mark_id = x.mark AND m.id < x.line AND x.place IN (m.from_place, m.to_place)) b`;
		const known = new Map(lay.map((l) => [l.line, l]));
		return rows.map(({ was, became, ...r }) => {
			const l = known.get(r.moved ?? '');
			return { ...r, before: l?.before ?? was, after: l?.after ?? became };
		});
	}
};
