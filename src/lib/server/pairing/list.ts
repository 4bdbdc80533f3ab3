import { EVIDENCE, KNOWN_BY } from '../../core/ledger/evidence.ts';
import type { Db } from '../database/connect.ts';
import { like } from '../database/like.ts';
import type { Piece } from '../database/piece.ts';
import { itemChoices } from '../list/choices.ts';
import type { ListSource } from '../list/source.ts';

/** From how many numbers that fit on it is quicker to look at each row than to gather the rows of each number. */
const WIDE = 2000;

/** What went into or came out of a run under a number, or of an item, that a text is in; or what an order made. */
async function finds(sql: Db, text: string): Promise<{ where: Piece }> {
	const pattern = `%${like(text.toLowerCase())}%`;
	const named = sql`SELECT m.id FROM mark m WHERE lower(m.number) LIKE ${pattern}
		UNION ALL SELECT m.id FROM item x JOIN mark m ON m.item_id = x.id WHERE lower(x.code || ' ' || x.name) LIKE ${pattern}`;
	const [{ wide }] = await sql<
		{ wide: boolean }[]
	>`SELECT count(*) > ${WIDE} AS wide FROM (${named} LIMIT ${WIDE + 1}) n`;
	const fits = sql`(p.part_id IN (${named}) OR p.made_id IN (${named}) OR lower(o.code) LIKE ${pattern})`;
	if (wide) return { where: fits };
	// Gathered first: walked in the list's order, every use that there is would be held against them.
	return {
		where: sql`p.id = ANY (ARRAY(
			SELECT u.id FROM movement u WHERE u.role = 'use' AND u.mark_id = ANY (ARRAY(${named}))
			UNION SELECT u.id FROM movement u WHERE u.role = 'use' AND u.run_id = ANY (ARRAY(
				SELECT m.run_id FROM movement m WHERE m.role = 'make' AND m.mark_id = ANY (ARRAY(${named}))
				UNION ALL SELECT x.id FROM run x WHERE x.unit_mark = ANY (ARRAY(${named}))
				UNION ALL SELECT x.id FROM run x JOIN orders y ON y.id = x.order_id WHERE lower(y.code) LIKE ${pattern}
				UNION ALL SELECT m.run_id FROM event x JOIN orders y ON y.id = x.order_id JOIN movement m ON m.event_id = x.id WHERE lower(y.code) LIKE ${pattern})))) AND ${fits}`
	};
}
const isItem =
	(of: 'part' | 'made') =>
	(sql: Db, { is }: { is?: string }) =>
		sql`${sql.unsafe(of === 'part' ? 'k' : 'f')}.item_id = (SELECT x.id FROM item x WHERE x.code = ${is ?? ''})`;

/** Everything that ever went into something, newest first. */
export const pairingList: ListSource = {
	key: 'contents',
	title: 'What is in what',
	right: 'read',
	find: 'Find a number, item or order',
	empty: 'Nothing has been made yet. What goes into what is made stands here.',
	id: ['p.id', 'coalesce(p.made_id, p.id)'],
	sort: { key: 'at', down: true },
	// Joined from outside, so that a count leaves out what it does not need.
	from: `pairing p LEFT JOIN mark_now k ON k.id = p.part_id LEFT JOIN item i ON i.id = k.item_id LEFT JOIN mark_now f ON f.id = p.made_id LEFT JOIN item g ON g.id = f.item_id
		LEFT JOIN run r ON r.id = p.run_id LEFT JOIN event e ON e.id = p.event_id LEFT JOIN orders o ON o.id = coalesce(r.order_id, e.order_id) LEFT JOIN person n ON n.login = e.recorded_by WHERE true`,
	also: {
		part: 'k.id',
		partKind: 'k.kind',
		partStatus: 'k.status',
		partExpires: 'k.expires_on',
		made: 'f.id',
		madeKind: 'f.kind',
		madeStatus: 'f.status',
		madeExpires: 'f.expires_on',
		unit: 'i.unit',
		orderKind: 'o.kind'
	},
	finds,
	columns: [
		{ key: 'item', label: 'Made', kind: 'choice', from: 'g.name', where: isItem('made'), options: itemChoices },
		{ key: 'number', label: 'Number', kind: 'text', from: 'f.number', mono: true },
		{ key: 'lot', label: 'Of lot', kind: 'text', from: 'f.of_lot', mono: true, extra: true },
		{
			key: 'partItem',
			label: 'Part',
			kind: 'choice',
			from: 'i.name',
			filled: true,
			where: isItem('part'),
			options: itemChoices
		},
		{ key: 'partNumber', label: 'Part’s number', kind: 'text', from: 'k.number', mono: true },
		{ key: 'partLot', label: 'Part’s lot', kind: 'text', from: 'k.of_lot', mono: true, extra: true },
		{ key: 'qty', label: 'Quantity', kind: 'number', from: 'trim_scale(p.qty)', filled: true },
		{
			key: 'state',
			label: 'State',
			kind: 'choice',
			from: `CASE WHEN p.formerly THEN 'out' WHEN p.made_id IS NULL THEN 'process' ELSE 'in' END`,
			filled: true,
			choices: [
				{ value: 'in', label: 'in it' },
				{ value: 'out', label: 'taken out since' },
				{ value: 'process', label: 'in process' }
			]
		},
		{
			key: 'known',
			label: 'Known by',
			kind: 'choice',
			from: `coalesce(p.evidence, 'unknown')`,
			filled: true,
			choices: [...EVIDENCE, 'unknown' as const].map((value) => ({ value, label: KNOWN_BY[value] }))
		},
		{ key: 'order', label: 'Order', kind: 'text', from: 'o.code', mono: true },
		{ key: 'run', label: 'Run', kind: 'text', from: 'r.code', filled: true, mono: true, extra: true },
		{ key: 'at', label: 'When', kind: 'moment', from: 'p.at', filled: true },
		{ key: 'by', label: 'By', kind: 'text', from: 'coalesce(n.name, e.recorded_by)', filled: true }
	]
};
