import type { Db } from '../database/connect.ts';
import { like } from '../database/like.ts';
import { slips } from '../../core/numbering/near.ts';
import { nearNumbers } from '../marks/near.ts';
import type { Card } from '../../core/codes/card.ts';
import { readScan, type Scan } from '../../core/codes/scan.ts';
import { documentKind, documentPath, type Kind } from '../../core/document/kinds.ts';

/** Something that a typed or scanned text may mean. */
export interface Hit {
	what: 'lot' | 'serial' | 'order' | 'item' | 'place';
	label: string;
	detail: string;
	url: string;
	/** id of a lot or serial */
	mark: string | null;
}

/**
 * What a scanned or typed text stands for: lots and serials (also by an earlier or the supplier's number), orders,
 * items, places. Exact matches first; when there are none, the nearest.
 */
export async function find(sql: Db, typed: string): Promise<{ hits: Hit[]; exact: boolean }> {
	const q = typed.trim().slice(0, 200);
	if (!q) return { hits: [], exact: false };
	const scan = readScan(typed.trim().slice(0, 2000), new Date().getFullYear());
	if (!('problem' in scan) && scan.card) return findCard(sql, scan.card);
	if (!('problem' in scan) && scan.coded) return findCoded(sql, scan);
	// Without wildcards: the trigram index serves LIKE, not =.
	const low = q.toLowerCase();
	const exact = await sql<Row[]>`
		SELECT k.kind AS what, k.id, k.number AS label, i.name AS detail, NULL AS kind FROM mark k JOIN item i ON i.id = k.item_id WHERE k.kind <> 'unmarked' AND lower(k.number) LIKE ${like(low)}
		UNION ALL SELECT k.kind, k.id, k.number, i.name || ', formerly ' || a.number, NULL FROM mark_alias a JOIN mark k ON k.id = a.mark_id AND k.number <> a.number JOIN item i ON i.id = k.item_id WHERE lower(a.number) LIKE ${like(low)}
		UNION ALL SELECT k.kind, k.id, k.number, i.name || ', supplier’s serial ' || k.supplier_serial, NULL FROM mark k JOIN item i ON i.id = k.item_id WHERE lower(k.supplier_serial) LIKE ${like(low)}
		UNION ALL SELECT k.kind, k.id, k.number, i.name || ', supplier’s lot ' || k.supplier_lot, NULL FROM mark k JOIN item i ON i.id = k.item_id WHERE lower(k.supplier_lot) LIKE ${like(low)}
		UNION ALL SELECT 'order', o.id, o.code, coalesce(p.name, ''), o.kind FROM orders o LEFT JOIN partner p ON p.id = o.partner_id WHERE lower(o.code) = ${low}
		UNION ALL SELECT 'item', id, code, name, NULL FROM item WHERE lower(code) = ${low} OR lower(name) = ${low}
		UNION ALL SELECT 'place', id, code, name, NULL FROM place WHERE lower(code) = ${low} AND NOT virtual
		LIMIT 50`;
	if (exact.length) return { hits: exact.map(hit), exact: true };
	const [numbers, others] = await Promise.all([
		nearNumbers(sql, q),
		sql<(Row & { s: number })[]>`
			SELECT * FROM (
				(SELECT 'order' AS what, o.id, o.code AS label, coalesce(p.name, '') AS detail, o.kind, similarity(lower(o.code), ${low}) AS s FROM orders o LEFT JOIN partner p ON p.id = o.partner_id
					WHERE lower(o.code) % ${low} ORDER BY 6 DESC LIMIT 4)
				UNION ALL (SELECT 'item', id, code, name, NULL, greatest(similarity(lower(code), ${low}), word_similarity(${low}, lower(name))) FROM item
					WHERE lower(code) % ${low} OR ${low} <% lower(name) ORDER BY 6 DESC LIMIT 4)
				UNION ALL (SELECT 'place', id, code, name, NULL, similarity(lower(code), ${low}) FROM place WHERE NOT virtual AND lower(code) % ${low} ORDER BY 6 DESC LIMIT 3)) n
			ORDER BY s DESC LIMIT 8`
	]);
	const marks = numbers.map((n) => ({
		near: n.slips,
		hit: hit({ what: n.kind, id: n.id, label: n.number, detail: n.by ? `${n.itemName}, ${n.by}` : n.itemName })
	}));
	const rest = others.map((r) => ({ near: slips(low, r.label), hit: hit(r) }));
	const near = [...marks, ...rest].sort((a, b) => a.near - b.near).slice(0, 8);
	return { hits: near.map((n) => n.hit), exact: false };
}

/** What a work card stands for: the unit, once it is made, or its order. */
async function findCard(sql: Db, card: Card): Promise<{ hits: Hit[]; exact: boolean }> {
	const rows = await sql<Row[]>`
		SELECT n.what, n.id, n.label, n.detail, n.kind FROM (
			SELECT 'serial' AS what, k.id, k.number AS label, i.name AS detail, NULL AS kind, 0 AS pos FROM orders o JOIN order_line l ON l.order_id = o.id AND l.no = ${card.line}
				JOIN mark k ON k.item_id = l.item_id AND k.kind = 'serial' AND k.serial_no = ${card.serial ?? ''} JOIN item i ON i.id = k.item_id WHERE o.code = ${card.order}
			UNION ALL SELECT 'order', o.id, o.code, coalesce(p.name, ''), o.kind, 1 FROM orders o LEFT JOIN partner p ON p.id = o.partner_id WHERE o.code = ${card.order}) n
		ORDER BY n.pos LIMIT 1`;
	return { hits: rows.map(hit), exact: rows.length > 0 };
}

/** What a GS1 code stands for: the serial or the lot of the item it names, or the item. */
async function findCoded(sql: Db, scan: Scan): Promise<{ hits: Hit[]; exact: boolean }> {
	const rows = await sql<Row[]>`
		SELECT k.kind AS what, k.id, k.number AS label, i.name AS detail FROM item i JOIN mark k ON k.item_id = i.id
		WHERE i.gtin = ${scan.gtin ?? ''} AND CASE WHEN ${scan.serial ?? null}::text IS NOT NULL THEN k.kind = 'serial' AND k.serial_no = ${scan.serial ?? ''}
			ELSE k.kind = 'lot' AND (k.lot_no = ${scan.lot ?? ''} OR lower(k.supplier_lot) = ${(scan.lot ?? '').toLowerCase()}) END`;
	if (rows.length) return { hits: rows.map(hit), exact: true };
	const items = await sql<
		Row[]
	>`SELECT 'item' AS what, id, code AS label, name AS detail FROM item WHERE gtin = ${scan.gtin ?? ''}`;
	return { hits: items.map(hit), exact: items.length > 0 && !scan.serial && !scan.lot };
}

interface Row {
	what: Hit['what'];
	id: string;
	label: string;
	detail: string;
	/** of an order */
	kind?: Kind | null;
}
function hit(r: Row): Hit {
	const code = encodeURIComponent(r.label);
	const url =
		r.what === 'order'
			? documentPath(r.kind!, r.label)
			: r.what === 'item'
				? `/register?item=${code}`
				: r.what === 'place'
					? `/register?place=${code}`
					: `/register/${r.id}`;
	const detail = r.kind ? [documentKind(r.kind).name, r.detail].filter(Boolean).join(', ') : r.detail;
	return { what: r.what, label: r.label, detail, url, mark: r.what === 'lot' || r.what === 'serial' ? r.id : null };
}
