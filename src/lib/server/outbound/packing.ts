import type { Content, TDocumentDefinitions } from 'pdfmake/interfaces';
import pdfmake from 'pdfmake';
import { setFonts } from '../pdf/fonts.ts';
import type { Sql } from '../database/connect.ts';
import { compress, gaps, text } from '../../core/ranges/ranges.ts';
import { showDay } from '../../core/dates/dates.ts';
import { show, total } from '../../core/quantity/quantity.ts';
import { getOrder } from '../orders/orders.ts';
import { sheetState } from '../orders/sheet.ts';

interface Packed {
	no: number;
	item: string;
	itemName: string;
	unit: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string;
	lot: string | null;
	qty: string;
	expiresOn: string | null;
	place: string;
}

/**
 * A printable list of what goes: the packing list of one shipment, or before that the pick list as the sheet shows it.
 * Consecutive serials stand as ranges.
 * @param event id of the shipment; null for the pick list
 * @returns the PDF; null when there is no such order or shipment
 */
export async function packingList(sql: Sql, code: string, event: string | null): Promise<Buffer | null> {
	const order = await getOrder(sql, code);
	if (order?.kind !== 'sale') return null;
	let packed: Packed[];
	let when = '';
	if (event) {
		const [shipped] = await sql<{ at: string }[]>`
			SELECT to_char(at, 'YYYY-MM-DD') AS at FROM event e WHERE id = ${event} AND order_id = ${order.id} AND kind = 'shipment'
				AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id)`;
		if (!shipped) return null;
		when = shipped.at;
		packed = await sql<Packed[]>`
			SELECT l.no, i.code AS item, i.name AS "itemName", i.unit, k.kind, coalesce(k.number, '') AS number, p.number AS lot, trim_scale(m.qty)::text AS qty,
				coalesce(k.expires_on, p.expires_on) AS "expiresOn", f.code AS place
			FROM movement m JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id LEFT JOIN mark p ON p.id = k.parent_id
			JOIN order_line l ON l.id = m.order_line_id JOIN place f ON f.id = m.from_place WHERE m.event_id = ${event} ORDER BY l.no, m.id`;
	} else {
		const sheet = await sheetState(sql, code);
		packed = sheet.lines.flatMap(
			(l) =>
			l.cells.flatMap((c) => c.picks.map((p) => ({ no: l.no, item: l.item, itemName: l.itemName, unit: l.unit, kind: p.kind, number: p.kind === 'unmarked' ? '' : p.number, lot: p.lot, qty: p.qty, expiresOn: p.expiresOn, place: p.place }))) // prettier-ignore
		);
	}
	return render({
		info: { title: `${event ? 'Packing list' : 'Pick list'} ${order.code}` },
		content: [
			{ text: event ? 'Packing list' : 'Pick list', style: 'title' },
			{
				columns: [
					{
						stack: [
							{ text: 'Order', style: 'soft' },
							{ text: order.code, font: 'Mono' }
						]
					},
					{ stack: [{ text: 'To', style: 'soft' }, order.partnerName ?? ''] },
					{
						stack: [
							{ text: event ? 'Shipped' : 'To ship by', style: 'soft' },
							when || order.dueOn ? showDay(when || order.dueOn!) : '–'
						]
					}
				],
				margin: [0, 6, 0, 14]
			},
			table(packed, !event),
			{
				text: `${new Set(packed.filter((p) => p.number).map((p) => `${p.item} ${p.number}`)).size} numbers in all`,
				style: 'soft',
				margin: [0, 10, 0, 0]
			}
		]
	});
}

function table(packed: Packed[], picking: boolean): Content {
	const head = ['Line', 'Item', 'Lot or serial', ...(picking ? ['Place'] : ['Expires']), 'Quantity'].map((t) => ({
		text: t,
		style: 'soft'
	}));
	const groups = new Map<string, Packed[]>();
	for (const p of packed) {
		const key = [p.no, p.kind, p.lot, p.expiresOn, picking ? p.place : '', p.kind === 'serial' ? '' : p.number].join(
			' '
		);
		groups.set(key, [...(groups.get(key) ?? []), p]);
	}
	const rows = [...groups.values()].map((list) => {
		const p = list[0];
		const ranges = compress(list.map((x) => x.number).filter(Boolean));
		const missing = gaps(ranges);
		const stack: Content[] = [
			{
				text: ranges.map((r) => text(r) + (r.count > 1 ? ` (${r.count})` : '')).join(', ') || 'no number',
				font: 'Mono',
				fontSize: 9
			}
		];
		if (p.lot) stack.push({ text: `lot ${p.lot}`, style: 'soft' });
		if (missing.length && p.kind === 'serial' && missing.reduce((n, m) => n + m.count, 0) < 20)
			stack.push({ text: `without ${missing.map(text).join(', ')}`, style: 'soft' });
		return [String(p.no), { stack: [p.itemName, { text: p.item, style: 'soft' }] }, { stack }, picking ? { text: p.place, font: 'Mono', fontSize: 9 } : p.expiresOn ? showDay(p.expiresOn) : '–', { text: `${show(total(list.map((x) => x.qty)))} ${p.unit}`, alignment: 'right' as const }]; // prettier-ignore
	});
	return {
		table: { headerRows: 1, widths: [24, 130, '*', 70, 70], body: [head, ...rows] },
		layout: {
			hLineWidth: () => 0.5,
			vLineWidth: () => 0,
			hLineColor: () => '#c3ced6',
			paddingTop: () => 4,
			paddingBottom: () => 4
		}
	};
}

function render(doc: TDocumentDefinitions): Promise<Buffer> {
	setFonts();
	return pdfmake
		.createPdf({
			...{ pageSize: 'A4' as const, pageMargins: [40, 40, 40, 50] as [number, number, number, number] },
			...{ defaultStyle: { font: 'Sans', fontSize: 10, color: '#14202a' }, ...doc },
			styles: { title: { fontSize: 18, bold: true }, soft: { fontSize: 8, color: '#52606b' } },
			footer: (page: number, pages: number) => ({
				text: `${doc.info?.title} · page ${page} of ${pages}`,
				alignment: 'center',
				fontSize: 8,
				color: '#52606b'
			})
		})
		.getBuffer();
}
