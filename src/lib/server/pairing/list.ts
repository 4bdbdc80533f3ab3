import { EVIDENCE, KNOWN_BY } from '../../core/ledger/evidence.ts';
import type { Db } from '../database/connect.ts';
import { like } from '../database/like.ts';
import type { Fragment } from '../database/fragment.ts';
import { itemChoices } from '../list/choices.ts';
import type { ListSource } from '../list/source.ts';
import { PAIRINGS, usesFor, usesIn, usesOf } from './uses.ts';

/** From how many numbers that fit on it is quicker to look at each row than to gather the rows of each number. */
const WIDE = 2000;

/** What went into or came out of a run under a number, or of an item, that a text is in; or what an order made. */
async function finds(sql: Db, text: string): Promise<{ where: Fragment }> {
	const pattern = `%${like(text.toLowerCase())}%`;
	const ordered = sql`lower(y.code) LIKE ${pattern}`;
	const named = sql`SELECT m.id FROM mark m WHERE lower(m.number) LIKE ${pattern}
		UNION ALL SELECT m.id FROM item x JOIN mark m ON m.item_id = x.id WHERE lower(x.code || ' ' || x.name) LIKE ${pattern}`;
	const some = await sql<{ id: string }[]>`${named} LIMIT ${WIDE + 1}`;
	const fits = (marks: Fragment) =>
		sql`(p.part_id IN (${marks}) OR p.made_id IN (${marks}) OR lower(o.code) LIKE ${pattern})`;
	if (some.length > WIDE) return { where: fits(named) };
	const marks = sql`${some.map((m) => m.id)}::bigint[]`;
	return {
		where: sql`p.id = ANY (ARRAY(${usesOf(sql, marks)} UNION ${usesIn(sql, marks)} UNION ${usesFor(sql, ordered)})) AND ${fits(sql`SELECT unnest(${marks})`)}`
	};
}
const isItem =
	(of: 'part' | 'made') =>
	(sql: Db, { is }: { is?: string }) =>
		sql`${sql.unsafe(of === 'part' ? 'k' : 'f')}.item_id = (SELECT x.id FROM item x WHERE x.code = ${is ?? ''})`;

/** Everything that ever went into something, newest first. */
export const pairingList: ListSource = {
	key: 'contents',
	title: 'Parts in units',
	right: 'read',
	find: 'Find a number, item or order',
	empty: 'Nothing has been made yet. What goes into what is made stands here.',
	id: ['p.id', 'coalesce(p.made_id, p.id)'],
	sort: { key: 'at', down: true },
	from: `${PAIRINGS} LEFT JOIN person n ON n.login = e.recorded_by WHERE true`,
	counts: 'pairing p WHERE true',
	// What went into several of a run stands there once for each of them.
	atLeast: `effective_movement u JOIN run r ON r.id = u.run_id WHERE u.role = 'use'`,
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
