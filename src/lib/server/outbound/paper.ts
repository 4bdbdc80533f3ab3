import type { Content, TDocumentDefinitions } from 'pdfmake/interfaces';
import pdfmake from 'pdfmake';
import { showDay, type Day } from '../../core/dates/dates.ts';
import { group } from '../../core/group/group.ts';
import { show, total } from '../../core/quantity/quantity.ts';
import { compress, gaps, text } from '../../core/ranges/ranges.ts';
import type { PaperHead } from '../ledger/seal.ts';
import { setFonts } from '../pdf/fonts.ts';
import { headOf } from '../pdf/head.ts';

/** One number on the paper. */
export interface Packed {
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
/** A packing list, or the pick list before it. */
export interface PackingPaper {
	code: string;
	partnerName: string | null;
	packed: Packed[];
	/** true for what has gone, false for what is to be picked */
	shipped: boolean;
	on: Day | null;
	/** the head of the ledger when it was printed, for what has gone */
	head: PaperHead | null;
}

/** Draws a packing or pick list. Consecutive serials stand as ranges. */
export async function renderPacking(paper: PackingPaper): Promise<Uint8Array> {
	const { packed, shipped } = paper;
	return render({
		info: { title: `${shipped ? 'Packing list' : 'Pick list'} ${paper.code}` },
		content: [
			{ text: shipped ? 'Packing list' : 'Pick list', style: 'title' },
			{
				columns: [
					{
						stack: [
							{ text: 'Order', style: 'soft' },
							{ text: paper.code, font: 'Mono' }
						]
					},
					{ stack: [{ text: 'To', style: 'soft' }, paper.partnerName ?? ''] },
					{
						stack: [{ text: shipped ? 'Shipped' : 'To ship by', style: 'soft' }, paper.on ? showDay(paper.on) : '–']
					}
				],
				margin: [0, 6, 0, 14]
			},
			table(packed, !shipped),
			{
				text: `${new Set(packed.filter((p) => p.number).map((p) => `${p.item} ${p.number}`)).size} numbers in all`,
				style: 'soft',
				margin: [0, 10, 0, 0]
			},
			...(paper.head ? [headOf(paper.head)] : [])
		]
	});
}

function table(packed: Packed[], picking: boolean): Content {
	const titles = ['Line', 'Item', 'Lot or serial', ...(picking ? ['Place'] : ['Expires']), 'Quantity'].map((t) => ({
		text: t,
		style: 'soft'
	}));
	const groups = group([...packed], (p) =>
		JSON.stringify([p.no, p.kind, p.lot, p.expiresOn, picking ? p.place : '', p.kind === 'serial' ? '' : p.number])
	);
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
		return [
			String(p.no),
			{ stack: [p.itemName, { text: p.item, style: 'soft' }] },
			{ stack },
			picking ? { text: p.place, font: 'Mono', fontSize: 9 } : p.expiresOn ? showDay(p.expiresOn) : '–',
			{ text: `${show(total(list.map((x) => x.qty)))} ${p.unit}`, alignment: 'right' as const }
		];
	});
	return {
		table: { headerRows: 1, widths: [24, 130, '*', 70, 70], body: [titles, ...rows] },
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
			pageSize: 'A4' as const,
			pageMargins: [40, 40, 40, 50] as [number, number, number, number],
			defaultStyle: { font: 'Sans', fontSize: 10, color: '#14202a' },
			...doc,
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
