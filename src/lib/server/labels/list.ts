import { symbols } from '../../core/labels/label.ts';
import type { ListSource } from '../list/source.ts';

/** Everything sent to the label printer. */
export const labelList: ListSource = {
	key: 'labels',
	title: 'Labels printed',
	right: 'read',
	find: 'Find what was printed',
	empty:
		'Nothing was printed yet. Labels are printed from the page of a lot or serial, and from what was booked on an order.',
	id: ['j.id'],
	sort: { key: 'at', down: true },
	from: 'print_job j LEFT JOIN person p ON p.login = j.made_by WHERE true',
	also: { cancelled: `CASE WHEN j.cancelled_at IS NOT NULL THEN 'yes' END`, again: 'j.reprint_of' },
	columns: [
		{ key: 'job', label: 'Job', kind: 'number', from: 'j.id', filled: true },
		{ key: 'title', label: 'Labels for', kind: 'text', from: 'j.title', filled: true, mono: true },
		{
			key: 'symbol',
			label: 'Code',
			kind: 'choice',
			from: 'j.symbol',
			filled: true,
			choices: symbols.map((value) => ({ value, label: value }))
		},
		{ key: 'label', label: 'Label, mm', kind: 'text', from: 'j.label_size', filled: true },
		{ key: 'dpi', label: 'dpi', kind: 'number', from: 'j.dpi', filled: true },
		{ key: 'printed', label: 'Printed', kind: 'number', from: 'j.printed', filled: true },
		{ key: 'size', label: 'Asked', kind: 'number', from: 'j.size', filled: true },
		{ key: 'by', label: 'By', kind: 'text', from: 'coalesce(p.name, j.made_by)', filled: true },
		{ key: 'at', label: 'When', kind: 'moment', from: 'j.made_at', filled: true }
	]
};
