import type { Content } from 'pdfmake/interfaces';
import { cardText } from '../../core/codes/card.ts';
import { showDay } from '../../core/dates/dates.ts';
import { labelOf } from '../../core/labels/label.ts';
import { isScanned } from '../../core/pairing/slots.ts';
import { amount, mul } from '../../core/quantity/quantity.ts';
import { drawCode } from '../labels/draw.ts';
import { paperTable, renderPaper, titled } from '../pdf/page.ts';
import type { UnitOrder } from './units.ts';

/** What the cards of one file are for. */
export interface CardsPaper {
	order: UnitOrder;
	/** finished serials; null is the order's own card */
	units: readonly (string | null)[];
	/** how often the card of each was printed before */
	again: Readonly<Record<string, number>>;
}

/**
 * Draws work cards: A5, what is to be made, its parts, and a code that a station reads.
 * @param said is told what is being done, for people
 */
export async function renderCards(
	{ order, units, again }: CardsPaper,
	said: (what: string) => void = () => {}
): Promise<Uint8Array> {
	const content: Content[] = [];
	for (const [i, serial] of units.entries()) {
		if (i % 50 === 0) said(`Drawing card ${i + 1} of ${units.length}`);
		const { made } = order;
		const subject = {
			subject: '',
			kind: 'card' as const,
			number: serial ?? order.code,
			lot: null,
			name: made.itemName
		};
		const card = { order: order.code, line: made.no, serial };
		const label = labelOf(
			{ ...subject, item: made.item, gtin: made.gtin, expiresOn: null, qty: null, card },
			'GS1 DataMatrix'
		);
		const png = await drawCode({ ...label, reads: cardText(card, made.gtin) }, 300);
		const times = serial === null ? 0 : (again[serial] ?? 0);
		content.push({
			...(i ? { pageBreak: 'before' as const } : {}),
			columns: [
				{
					stack: [
						{ text: serial ? 'Work card' : 'Work card of the order', style: 'title' },
						{ text: made.itemName, fontSize: 13, margin: [0, 2, 0, 8] },
						...(serial ? [titled('Serial', serial, true)] : []),
						titled('Order', order.code, true),
						titled('To', order.place, true),
						titled('Due', order.dueOn ? showDay(order.dueOn) : '–'),
						...(serial ? [] : [titled('Quantity', amount(made.qty, 'each'))]),
						...(times ? [{ text: `Printed ${times} ${times === 1 ? 'time' : 'times'} before`, style: 'soft' }] : [])
					],
					width: '*'
				},
				{ image: `data:image/png;base64,${png.toString('base64')}`, width: 110 }
			]
		});
		content.push({ text: serial ? 'What goes into it' : 'What goes in for the whole order', style: 'part' });
		content.push(
			paperTable(
				['Part', 'Item', 'Quantity', 'Scanned'],
				['*', 70, 60, 60],
				order.parts.map((p) => [
					p.itemName,
					{ text: p.item, font: 'Mono', fontSize: 8 },
					{ text: amount(serial ? p.per : mul(p.per, made.qty), p.unit), alignment: 'right' as const },
					isScanned(p) ? (p.tracking.includes('serial') ? 'serial' : 'lot') : 'no'
				])
			)
		);
	}
	said(`Laying out ${units.length} ${units.length === 1 ? 'card' : 'cards'}`);
	return renderPaper({
		pageSize: 'A5',
		pageMargins: [28, 28, 28, 36],
		info: { title: `Work cards ${order.code}` },
		content
	});
}
