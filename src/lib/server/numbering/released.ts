import { grouped } from '../../core/quantity/sign.ts';
import type { Db } from '../database/connect.ts';
import { notReleased, type Policy } from '../../core/checks/catalogue.ts';
import { found, type Finding } from '../../core/checks/check.ts';
import { group } from '../../core/group/group.ts';
import { dayIn } from '../../core/time/clock.ts';
import { Problem } from '../../core/problem/problem.ts';
import { MOST } from '../../core/ranges/ranges.ts';
import type { Block } from '../../core/numbering/pattern.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import { draw } from './draw.ts';
import { everySerial, type Typed } from './serials.ts';

/** The numbers drawn for an order when it was released. */
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
	drafts: readonly Typed[],
	only?: string
): Promise<Map<string, Released>> {
	const lines = order.lines.filter((l) => l.drawnAt === 'release' && (!only || l.id === only));
	const out = new Map<string, Released>();
	if (!lines.length) return out;
	const drawn = await sql<{ line: string; kind: string; number: string }[]>`
		SELECT d.line_id AS line, d.kind, d.number FROM drawn_number d WHERE d.line_id = ANY(${lines.map((l) => l.id)}::bigint[])
			-- One that is known and was never anywhere was only released to the floor.
			AND NOT EXISTS (SELECT 1 FROM mark k JOIN movement m ON m.mark_id = k.id WHERE k.item_id = d.item_id AND k.kind = d.kind AND k.number = d.number)
			AND NOT EXISTS (SELECT 1 FROM unit_work u WHERE u.order_id = d.order_id AND u.serial = d.number) ORDER BY d.id`;
	for (const line of lines) {
		const kind = line.tracking.includes('serial') ? 'serial' : 'lot';
		const held = new Set(
			drafts
				.filter((d) => d.lineId === line.id)
				.flatMap((d) => (kind === 'lot' ? (d.data.lot ?? []) : everySerial(d.data)))
		);
		const numbers = drawn
			.filter((d) => d.line === line.id && d.kind === kind && !held.has(d.number))
			.map((d) => d.number);
		if (numbers.length) out.set(line.id, { left: numbers.length, first: numbers[0], numbers });
	}
	return out;
}
/** A row of numbers that are given for a line. */
interface Numbered {
	lineId: string;
	lot: string;
	serials: string[];
}
/** Notes numbers that are not among those drawn for their line when its order was released. One statement, or none. */
export async function checkReleased<R extends Numbered>(
	sql: Db,
	lines: readonly OrderLine[],
	rows: readonly R[],
	policy: Policy
): Promise<{ row: R; found: Finding }[]> {
	const mine = lines.filter((l) => l.drawnAt === 'release' && rows.some((r) => r.lineId === l.id));
	if (!mine.length) return [];
	const drawn = group(
		[
			...(await sql<{ line: string; kind: string; number: string }[]>`
			SELECT line_id AS line, kind, number FROM drawn_number WHERE line_id = ANY(${mine.map((l) => l.id)}::bigint[])`)
		],
		(d) => d.line
	);
	return mine.flatMap((line) => {
		const kind = line.tracking.includes('serial') ? 'serial' : 'lot';
		const known = new Set((drawn.get(line.id) ?? []).filter((d) => d.kind === kind).map((d) => d.number));
		if (!known.size) return [];
		return rows
			.filter((r) => r.lineId === line.id)
			.flatMap((row) =>
				(kind === 'serial' ? row.serials : row.lot ? [row.lot] : [])
					.filter((n) => !known.has(n))
					.map((number) => ({
						row,
						found: found(notReleased, {}, { line: -1, about: { kind, number }, level: policy[notReleased.code] })
					}))
			);
	});
}

/**
 * Draws the numbers of orders as they are released, for the lines whose items want that: a serial for each piece, one
 * lot for each line. They wait in the register of drawn numbers until the sheet takes them.
 * @throws Problem when a line asks for more than one release gives
 */
export async function drawAtRelease(tx: Db, by: string, orders: readonly string[]): Promise<void> {
	const lines = await tx<
		{
			order: string;
			id: string;
			no: number;
			qty: string;
			itemId: string;
			item: string;
			kind: 'lot' | 'serial';
			place: string | null;
			zone: string;
			pattern: { id: string; blocks: Block[] };
		}[]
	>`
		SELECT o.id AS order, x.id, x.no, trim_scale(x.qty)::text AS qty, i.id AS "itemId", i.code AS item, CASE WHEN i.tracking LIKE '%serial%' THEN 'serial' ELSE 'lot' END AS kind,
			l.code AS place, coalesce(l.zone, s.zone, f.zone) AS zone, json_build_object('id', p.id::text, 'blocks', p.blocks) AS pattern
		FROM firm f CROSS JOIN order_line x JOIN orders o ON o.id = x.order_id JOIN item i ON i.id = x.item_id AND i.drawn_at = 'release'
		LEFT JOIN place l ON l.id = o.place_id LEFT JOIN place s ON s.id = l.site_id
		JOIN number_pattern p ON p.id = CASE WHEN i.tracking LIKE '%serial%' THEN i.serial_pattern_id ELSE i.lot_pattern_id END
		WHERE o.id = ANY(${orders}::bigint[]) AND x.role <> 'component' ORDER BY o.id, x.no`;
	for (const l of lines) {
		const count = l.kind === 'serial' ? Number(l.qty) : 1;
		if (count > MOST)
			throw new Problem([
				{
					message: `${l.item}: ${l.qty} serials are more than one release draws (${grouped(MOST)}). Split the order.`,
					at: `line ${l.no}`
				}
			]);
		const [site = '', line = ''] = (l.place ?? '').split('/');
		await draw(tx, by, {
			pattern: l.pattern,
			item: { id: l.itemId, code: l.item },
			kind: l.kind,
			count,
			context: { day: dayIn(l.zone, new Date()), item: l.item, site, line },
			order: l.order,
			line: l.id
		});
	}
}
