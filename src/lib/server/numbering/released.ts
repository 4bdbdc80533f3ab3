import type { Db } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { compress, expand, MOST, text } from '../../core/ranges/ranges.ts';
import type { Strength } from '../../core/facts/fact.ts';
import type { DraftRow } from '../orders/drafts.ts';
import type { Order, OrderLine } from '../orders/orders.ts';
import type { CheckedRow } from '../orders/rows.ts';
import { contextOf, draw } from './draw.ts';

export interface Released {
	left: number;
	first: string;
	/** those in no sheet and not booked, in the order they were drawn */
	numbers: string[];
}

/** What the sheet of an order still has of the numbers drawn when it was released, line by line. */
export async function releasedFor(
	sql: Db,
	order: Order,
	drafts: readonly DraftRow[],
	only?: string
): Promise<Map<string, Released>> {
	const lines = order.lines.filter((l) => l.drawnAt === 'release' && (!only || l.id === only));
	const out = new Map<string, Released>();
	if (!lines.length) return out;
	const drawn = await sql<{ line: string; kind: string; number: string }[]>`
		SELECT d.line_id AS line, d.kind, d.number FROM drawn_number d WHERE d.line_id = ANY(${lines.map((l) => l.id)}::bigint[])
			AND NOT EXISTS (SELECT 1 FROM mark k WHERE k.item_id = d.item_id AND k.kind = d.kind AND k.number = d.number) ORDER BY d.id`;
	for (const line of lines) {
		const kind = line.tracking.includes('serial') ? 'serial' : 'lot';
		const held = new Set(
			drafts
				.filter((d) => d.lineId === line.id)
				.flatMap((d) => (kind === 'lot' ? (d.data.lot ?? []) : d.data.serial ? runOf(d.data) : []))
		);
		const numbers = drawn.filter((d) => d.line === line.id && d.kind === kind && !held.has(d.number)).map((d) => d.number); // prettier-ignore
		if (numbers.length) out.set(line.id, { left: numbers.length, first: numbers[0], numbers });
	}
	return out;
}
/** The serials of a row as typed; the first alone when it cannot be counted on from. */
function runOf({ serial, count, step }: DraftRow['data']): string[] {
	try {
		return expand(serial!, count ?? 1, step);
	} catch {
		return [serial!];
	}
}

/** Notes numbers that are not among those drawn for the line when its order was released. */
export async function checkReleased(sql: Db, line: OrderLine, rows: CheckedRow[], level: Strength): Promise<void> {
	if (line.drawnAt !== 'release' || !rows.length) return;
	const kind = line.tracking.includes('serial') ? 'serial' : 'lot';
	const drawn = new Set(
		(await sql<{ number: string }[]>`SELECT number FROM drawn_number WHERE line_id = ${line.id} AND kind = ${kind}`).map((d) => d.number) // prettier-ignore
	);
	if (!drawn.size) return;
	for (const r of rows) {
		const odd = (kind === 'serial' ? r.serials : r.lot ? [r.lot] : []).filter((n) => !drawn.has(n));
		if (odd.length) r.findings.push({ level, message: `${compress(odd).slice(0, 3).map(text).join(', ')} was not drawn when the order was released${{ stop: '. Take one that was.', reason: ': say why it is used.', note: '.' }[level]}` }); // prettier-ignore
	}
}

/**
 * Draws the numbers of an order as it is released, for the lines whose items want that: a serial for each piece, one
 * lot for each line. They wait in the register of drawn numbers until the sheet takes them.
 * @throws Problem when a line asks for more than one release gives
 */
export async function drawAtRelease(tx: Db, by: string, order: { id: string; place: string | null }): Promise<void> {
	const lines = await tx<
		{ id: string; no: number; qty: string; itemId: string; item: string; kind: 'lot' | 'serial'; pattern: { id: string; blocks: never } }[]
	>`
		SELECT x.id, x.no, trim_scale(x.qty)::text AS qty, i.id AS "itemId", i.code AS item, CASE WHEN i.tracking LIKE '%serial%' THEN 'serial' ELSE 'lot' END AS kind,
			json_build_object('id', p.id::text, 'blocks', p.blocks) AS pattern
		FROM order_line x JOIN orders o ON o.id = x.order_id AND o.kind <> 'sale' JOIN item i ON i.id = x.item_id AND i.drawn_at = 'release'
		JOIN number_pattern p ON p.id = CASE WHEN i.tracking LIKE '%serial%' THEN i.serial_pattern_id ELSE i.lot_pattern_id END
		WHERE x.order_id = ${order.id} AND x.role <> 'component' ORDER BY x.no`; // prettier-ignore
	for (const l of lines) {
		const count = l.kind === 'serial' ? Number(l.qty) : 1;
		if (count > MOST) throw new Problem([{ message: `${l.item}: ${l.qty} serials are more than one release draws (${MOST.toLocaleString('en')}). Split the order.`, at: `line ${l.no}` }]); // prettier-ignore
		await draw(tx, by, { pattern: l.pattern, item: { id: l.itemId, code: l.item }, kind: l.kind, count, context: contextOf(l.item, order.place), order: order.id, line: l.id }); // prettier-ignore
	}
}
