import type { Block } from '../../core/numbering/pattern.ts';
import { example, inWords, readBack } from '../../core/numbering/pattern.ts';
import { documentPath, type Kind } from '../../core/document/kinds.ts';
import type { ListSource } from '../list/source.ts';
import { everySerial } from './serials.ts';

const blocksOf = (text: string | null) => JSON.parse(text ?? '[]') as Block[];

/** Patterns that numbers are drawn from. */
export const patternList: ListSource = {
	key: 'patterns',
	title: 'Patterns',
	right: 'write items',
	find: 'Find a pattern',
	empty: 'No pattern yet. Create one, then give it to items: their numbers are then drawn, not typed.',
	id: ['p.id'],
	sort: { key: 'code', down: false },
	from: 'number_pattern p WHERE true',
	also: { blocks: 'p.blocks' },
	finish: (_sql, rows) => Promise.resolve(rows.map(({ blocks, ...r }) => ({ ...r, like: example(blocksOf(blocks)) }))),
	columns: [
		{ key: 'code', label: 'Pattern', kind: 'text', from: 'p.code', filled: true, mono: true },
		{ key: 'name', label: 'Name', kind: 'text', from: 'p.name', filled: true },
		{ key: 'like', label: 'Numbers look like', kind: 'text', computed: true, mono: true },
		{
			key: 'drawn',
			label: 'Drawn',
			kind: 'number',
			from: '(SELECT count(*) FROM drawn_number d WHERE d.pattern_id = p.id)',
			filled: true
		},
		{
			key: 'items',
			label: 'For',
			kind: 'text',
			from: `(SELECT string_agg(i.code, ', ' ORDER BY i.code) FROM item i WHERE p.id IN (i.lot_pattern_id, i.serial_pattern_id))`
		}
	]
};

/** Every number that was drawn, whatever became of it. */
export const drawnList: ListSource = {
	key: 'drawn',
	title: 'Drawn numbers',
	right: 'write items',
	find: 'Find a number, item or order',
	empty: 'Nothing is drawn yet. Numbers are drawn in a sheet, from the item’s pattern.',
	id: ['d.id'],
	sort: { key: 'drawn', down: true },
	from: 'drawn_number d JOIN item i ON i.id = d.item_id JOIN number_pattern p ON p.id = d.pattern_id LEFT JOIN person n ON n.login = d.drawn_by LEFT JOIN orders o ON o.id = d.order_id WHERE true',
	also: {
		blocks: 'p.blocks',
		kind: 'd.kind',
		orderId: 'o.id',
		orderKind: 'o.kind',
		mark: '(SELECT k.id FROM mark k WHERE k.item_id = d.item_id AND k.kind = d.kind AND k.number = d.number)'
	},
	finish: async (sql, rows) => {
		// What is not booked may stand in a sheet: the sheets are read once for all rows.
		const orders = [...new Set(rows.flatMap((r) => (r.mark || !r.orderId ? [] : [r.orderId])))];
		const held = new Set<string>();
		if (orders.length)
			for (const { data } of await sql<{ data: { lot?: string; serial?: string; count?: number; step?: number } }[]>`
				SELECT data FROM draft_row WHERE order_id = ANY(${orders}::bigint[])`) {
				if (data.lot) held.add(`lot ${data.lot}`);
				for (const s of everySerial(data)) held.add(`serial ${s}`);
			}
		return rows.map(({ blocks, orderKind, orderId: _orderId, ...r }) => {
			const read = readBack(blocksOf(blocks), r.number ?? '');
			return {
				...r,
				orderPath: r.order && documentPath(orderKind as Kind, r.order),
				says: 'problem' in read ? '' : inWords(read),
				became: r.mark ? 'booked' : held.has(`${r.kind} ${r.number}`) ? 'in a sheet' : 'not used'
			};
		});
	},
	columns: [
		{ key: 'number', label: 'Number', kind: 'text', from: 'd.number', filled: true, mono: true },
		{ key: 'item', label: 'Item', kind: 'text', from: 'i.code', filled: true, mono: true },
		{ key: 'pattern', label: 'Pattern', kind: 'text', from: 'p.code', filled: true, mono: true },
		{ key: 'says', label: 'Says', kind: 'text', computed: true },
		{ key: 'drawn', label: 'Drawn', kind: 'moment', from: 'd.drawn_at', filled: true },
		{ key: 'by', label: 'By', kind: 'text', from: 'coalesce(n.name, d.drawn_by)', filled: true },
		{ key: 'order', label: 'For', kind: 'text', from: 'o.code', mono: true },
		{ key: 'became', label: 'What became of it', kind: 'text', computed: true }
	]
};
