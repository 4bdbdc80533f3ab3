import type { Content } from 'pdfmake/interfaces';
import { showDay, type Day } from '../../core/dates/dates.ts';
import { group } from '../../core/group/group.ts';
import { amount, show, total } from '../../core/quantity/quantity.ts';
import { compress, gaps, text } from '../../core/ranges/ranges.ts';
import type { Stop } from '../../core/sheet/walk.ts';
import type { Weighed } from '../../core/weight/weight.ts';
import type { PaperHead } from '../ledger/seal.ts';
import { headOf } from '../pdf/head.ts';
import { paperTable, renderPaper, titled } from '../pdf/page.ts';

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
	/** what became of what has gone: "Shipped" */
	did: string;
	/** the customer or supplier, or the place that it goes to */
	partnerName: string | null;
	packed: Packed[];
	/** the way through the bins, for what is to be picked; null for what has gone */
	walk: Stop[] | null;
	on: Day | null;
	/** what of it weighs what, and what carriage is asked */
	weighed: Weighed;
	/** the head of the ledger when it was printed, for what has gone */
	head: PaperHead | null;
}

/** Draws a packing or pick list. Consecutive serials stand as ranges. */
export async function renderPacking(paper: PackingPaper): Promise<Uint8Array> {
	const { packed, walk } = paper;
	const shipped = !walk;
	return renderPaper({
		info: { title: `${shipped ? 'Packing list' : 'Pick list'} ${paper.code}` },
		content: [
			{ text: shipped ? 'Packing list' : 'Pick list', style: 'title' },
			{
				columns: [
					titled('Order', paper.code, true),
					titled('To', paper.partnerName ?? ''),
					titled(shipped ? paper.did : 'To go by', paper.on ? showDay(paper.on) : '–')
				],
				margin: [0, 6, 0, 14]
			},
			walk ? walking(walk) : table(packed),
			{
				text: walk
					? `${new Set(walk.map((w) => w.place)).size} bins`
					: `${new Set(packed.filter((p) => p.number).map((p) => `${p.item} ${p.number}`)).size} numbers in all`,
				style: 'soft',
				margin: [0, 10, 0, 0]
			},
			...weightLine(paper.weighed),
			...(paper.head ? [headOf(paper.head)] : [])
		]
	});
}

function table(packed: Packed[]): Content {
	const groups = group([...packed], (p) =>
		JSON.stringify([p.no, p.kind, p.lot, p.expiresOn, p.kind === 'serial' ? '' : p.number])
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
			p.expiresOn ? showDay(p.expiresOn) : '–',
			{ text: `${show(total(list.map((x) => x.qty)))} ${p.unit}`, alignment: 'right' as const }
		];
	});
	return paperTable(['Line', 'Item', 'Lot or serial', 'Expires', 'Quantity'], [24, 130, '*', 70, 70], rows);
}

/** What is to be picked, bin by bin, with a box to tick. */
function walking(walk: readonly Stop[]): Content {
	const mono = (text: string): Content => ({ text, font: 'Mono', fontSize: 9 });
	const rows = walk.map((w, n) => {
		const notes = [
			w.lot && `lot ${w.lot}`,
			w.expiresOn && `expires ${showDay(w.expiresOn)}`,
			w.promised && 'promised',
			w.picked && 'in hand'
		];
		return [
			n && walk[n - 1].place === w.place ? '' : mono(w.place),
			{
				stack: [mono(w.numbers.join(', ') || 'no number'), { text: notes.filter(Boolean).join(' · '), style: 'soft' }]
			},
			{ stack: [w.itemName, { text: `${w.item}, line ${w.no}`, style: 'soft' }] },
			{ text: amount(w.qty, w.unit), alignment: 'right' as const },
			{ canvas: [{ type: 'rect' as const, x: 2, y: 0, w: 11, h: 11, lineWidth: 0.7 }] }
		];
	});
	return paperTable(['Bin', 'Lot or serial', 'Item', 'Quantity', ''], [70, '*', 130, 70, 18], rows);
}

/** What all of it weighs, how it goes and what that asks; nothing where nobody weighed anything. */
function weightLine({ total: t, unknown, way, carriage, divisor }: Weighed): Content[] {
	if (t.chargeable === null && !way) return [];
	const kg = (label: string, q: string | null) => (q === null ? [] : [`${label} ${show(q, 3)} kg`]);
	const words = [
		`${show(t.pieces)} pieces`,
		...kg('net', t.net),
		...kg('gross', t.gross),
		...kg(`volumetric (${show(String(divisor))} cm³/kg)`, t.volumetric),
		...kg('chargeable', t.chargeable)
	].join(' · ');
	const sent = way
		? `Sent by ${way.name}${carriage ? `, carriage ${show(carriage.amount, 2)} ${carriage.currency}` : ''}`
		: '';
	const without = unknown.length ? `Without line ${unknown.join(', ')}, which nobody weighed` : '';
	return [{ text: [words, sent, without].filter(Boolean).join('\n'), margin: [0, 6, 0, 0] }];
}
