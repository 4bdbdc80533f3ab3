import type { Content } from 'pdfmake/interfaces';
import { sayDuration, showDay, showWhen, type Day } from '../../core/dates/dates.ts';
import { group } from '../../core/group/group.ts';
import { amount, show, total } from '../../core/quantity/quantity.ts';
import { compress, gaps, text } from '../../core/ranges/ranges.ts';
import { PICK_WORDS } from '../../core/sheet/sheet.ts';
import type { Stop } from '../../core/sheet/walk.ts';
import type { Weighed } from '../../core/weight/weight.ts';
import type { PaperHead } from '../ledger/seal.ts';
import { headOf } from '../pdf/head.ts';
import type { Agreed } from './sale.ts';
import { paperTable, renderPaper, titled } from '../pdf/page.ts';

/** One number on the paper. */
export interface Packed {
	/** the order that its line is of */
	order: string;
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
	price: string;
	warrantyUntil: Day | null;
	/** the number that it went in place of */
	replaces: string | null;
}
/** Who signed, when, and the picture of it as SVG. */
export interface SignedPaper {
	/** "Received by" */
	says: string;
	signer: string;
	at: string;
	svg: string;
}
/** A packing list or a delivery note, or the pick list before it. */
export interface PackingPaper {
	title: string;
	/** one order or more */
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
	signed: SignedPaper | null;
	/** the head of the ledger when it was printed, for what has gone */
	head: PaperHead | null;
}

/** What a customer agreed to. */
export interface TermsPaper extends Agreed {
	code: string;
	terms: string;
	signed: SignedPaper | null;
	head: PaperHead | null;
}

/** Draws a packing list, a delivery note or a pick list. Consecutive serials stand as ranges. */
export async function renderPacking(paper: PackingPaper): Promise<Uint8Array> {
	const { packed, walk } = paper;
	const shipped = !walk;
	return renderPaper({
		info: { title: `${paper.title} ${paper.code}` },
		content: [
			{ text: paper.title, style: 'title' },
			{
				columns: [
					titled(paper.code.includes(',') ? 'Orders' : 'Order', paper.code, true),
					titled('To', paper.partnerName ?? 'whoever took it'),
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
			...(paper.title === 'Delivery note' ? signedBy(paper.signed, 'Received by') : []),
			...(paper.head ? [headOf(paper.head)] : [])
		]
	});
}

/** Draws what a customer agreed to. */
export const renderTerms = (paper: TermsPaper): Promise<Uint8Array> =>
	renderPaper({
		info: { title: `Terms of sale ${paper.code}` },
		content: [
			{ text: 'Terms of sale', style: 'title' },
			{
				columns: [titled('Order', paper.code, true), titled('Customer', paper.partnerName ?? '–')],
				margin: [0, 6, 0, 14]
			},
			paperTable(
				['Line', 'Item', 'Warranty', 'Price', 'Quantity'],
				[24, '*', 90, 90, 70],
				paper.lines.map((l) => [
					String(l.no),
					{ stack: [l.itemName, { text: l.item, style: 'soft' }] },
					l.warranty ? sayDuration(l.warranty) : '–',
					l.price || '–',
					{ text: amount(l.qty, l.unit), alignment: 'right' as const }
				])
			),
			{ text: paper.terms, margin: [0, 14, 0, 0] },
			...signedBy(paper.signed, 'Agreed to by'),
			...(paper.head ? [headOf(paper.head)] : [])
		]
	});

/** A signature with its name and time, or the line to sign on. */
const signedBy = (signed: SignedPaper | null, says: string): Content[] => [
	{
		stack: [
			signed
				? { svg: signed.svg, width: 190, margin: [0, 0, 0, 2] }
				: { canvas: [{ type: 'line' as const, x1: 0, y1: 44, x2: 230, y2: 44, lineWidth: 0.7 }], margin: [0, 0, 0, 4] },
			{
				text: signed ? `${signed.says} ${signed.signer}, ${showWhen(signed.at)}` : `${says}: name, date, signature`,
				style: 'soft'
			}
		],
		unbreakable: true,
		margin: [0, 20, 0, 0]
	}
];

function table(packed: Packed[]): Content {
	const groups = group([...packed], (p) =>
		JSON.stringify([p.order, p.no, p.kind, p.lot, p.expiresOn, p.replaces, p.kind === 'serial' ? '' : p.number])
	);
	const [several, warranted] = [new Set(packed.map((p) => p.order)).size > 1, packed.some((p) => p.warrantyUntil)];
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
		if (p.replaces) stack.push({ text: `replaces ${p.replaces}`, style: 'soft' });
		if (missing.length && p.kind === 'serial' && missing.reduce((n, m) => n + m.count, 0) < 20)
			stack.push({ text: `without ${missing.map(text).join(', ')}`, style: 'soft' });
		return [
			{ stack: [...(several ? [{ text: p.order, style: 'soft' }] : []), String(p.no)] },
			{ stack: [p.itemName, { text: [p.item, p.price].filter(Boolean).join(' · '), style: 'soft' }] },
			{ stack },
			p.expiresOn ? showDay(p.expiresOn) : '–',
			...(warranted ? [p.warrantyUntil ? showDay(p.warrantyUntil) : '–'] : []),
			{ text: `${show(total(list.map((x) => x.qty)))} ${p.unit}`, alignment: 'right' as const }
		];
	});
	return paperTable(
		['Line', 'Item', 'Lot or serial', 'Expires', ...(warranted ? ['Warranty until'] : []), 'Quantity'],
		[several ? 48 : 24, 120, '*', 62, ...(warranted ? [66] : []), 60],
		rows
	);
}

/** What is to be picked, bin by bin, with a box to tick. */
function walking(walk: readonly Stop[]): Content {
	const mono = (text: string): Content => ({ text, font: 'Mono', fontSize: 9 });
	const rows = walk.map((w, n) => {
		const notes = [
			w.lot && `lot ${w.lot}`,
			w.expiresOn && `expires ${showDay(w.expiresOn)}`,
			w.promised && 'promised',
			PICK_WORDS[w.state]
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
