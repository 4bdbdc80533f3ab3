import { documentKind, DOCUMENT_NAMES } from '../../core/document/kinds.ts';
import { itemColumn } from '../list/choices.ts';
import type { ListSource } from '../list/source.ts';

const KINDS = DOCUMENT_NAMES.filter((kind) => documentKind(kind).invoiced);

const moved = (
	by: string
) => `order_line x JOIN orders o ON o.id = x.order_id AND o.kind IN (${KINDS.map((k) => `'${k}'`).join(', ')}) JOIN item i ON i.id = x.item_id LEFT JOIN partner p ON p.id = o.partner_id
	LEFT JOIN ${by} LEFT JOIN event e ON e.id = m.event_id
	LEFT JOIN (SELECT y.order_line_id, sum(y.qty) AS qty FROM noted_line y JOIN noted n ON n.id = y.noted_id AND n.withdrawn_at IS NULL GROUP BY 1) v ON v.order_line_id = x.id
	WHERE x.role = 'goods' AND NOT o.theirs AND coalesce(m.qty, 0) <> coalesce(v.qty, 0)`;

/** Lines of which what was shipped or received differs from what is on the invoices that were noted. */
export const invoiceList: ListSource = {
	key: 'invoices',
	title: 'Moved and not invoiced',
	right: 'read',
	find: 'Find an order, partner or item',
	empty: 'All that was shipped and received is invoiced.',
	id: ['x.id'],
	sort: { key: 'last', down: false },
	from: moved(`line_sum m ON m.order_line_id = x.id`),
	// Of each line what was moved is added up, and only then is it seen whether it is invoiced: for all of them together.
	whole: () => true,
	each: () =>
		moved(
			`LATERAL (SELECT sum(d.qty) AS qty, max(d.event_id) AS event_id FROM line_done d WHERE d.order_line_id = x.id) m ON true`
		),
	also: { orderKind: 'o.kind', unit: 'i.unit' },
	columns: [
		{ key: 'order', label: 'Order', kind: 'text', from: 'o.code', filled: true, mono: true },
		{ key: 'no', label: 'Line', kind: 'number', from: 'x.no', filled: true },
		{ key: 'partner', label: 'Partner', kind: 'text', from: 'p.name' },
		itemColumn,
		{
			key: 'which',
			label: 'Which',
			kind: 'choice',
			from: `CASE o.kind ${KINDS.map((k) => `WHEN '${k}' THEN '${documentKind(k).invoiced}'`).join(' ')} END`,
			filled: true,
			choices: ['shipped', 'received'].map((value) => ({ value, label: value }))
		},
		{ key: 'ordered', label: 'Ordered', kind: 'number', from: 'x.qty', text: 'trim_scale(x.qty)::text', extra: true },
		{
			key: 'moved',
			label: 'Moved',
			kind: 'number',
			from: 'coalesce(m.qty, 0)',
			text: 'trim_scale(coalesce(m.qty, 0))::text',
			filled: true
		},
		{
			key: 'invoiced',
			label: 'Invoiced',
			kind: 'number',
			from: 'coalesce(v.qty, 0)',
			text: 'trim_scale(coalesce(v.qty, 0))::text',
			filled: true
		},
		{
			key: 'open',
			label: 'Open',
			kind: 'number',
			from: 'coalesce(m.qty, 0) - coalesce(v.qty, 0)',
			text: 'trim_scale(coalesce(m.qty, 0) - coalesce(v.qty, 0))::text',
			filled: true
		},
		{ key: 'last', label: 'Last moved', kind: 'moment', from: 'e.at' }
	]
};
