import Fraction from 'fraction.js';
import type { Content } from 'pdfmake/interfaces';
import { showDay, showWhen } from '../../core/dates/dates.ts';
import { group } from '../../core/group/group.ts';
import { exact, show } from '../../core/quantity/quantity.ts';
import type { PaperHead } from '../ledger/seal.ts';
import { headOf } from '../pdf/head.ts';
import { paperTable, renderPaper, titled } from '../pdf/page.ts';

/** One movement of a repacking, as its record shows it. */
export interface Moved {
	run: string;
	role: 'use' | 'make';
	itemName: string;
	item: string;
	number: string;
	qty: string;
	unit: string;
	/** content of it, and its unit */
	content: string;
	contentUnit: string;
	place: string;
	lost: boolean;
	expiresOn: string | null;
}
/** The record of one repacking: what went in, what came out, what was lost, for each lot. */
export interface RepackPaper {
	code: string;
	on: string;
	by: string;
	reason: string;
	moved: Moved[];
	head: PaperHead;
}

/** Draws the record: a table for each run, whose content adds up. */
export async function renderRepack(paper: RepackPaper): Promise<Uint8Array> {
	const cells = (m: Moved): Content[] => [
		{ text: m.role === 'use' ? 'in' : m.lost ? 'lost' : 'out' },
		{ stack: [m.itemName, { text: m.item, style: 'soft' }] },
		{
			stack: [
				{ text: m.number, font: 'Mono', fontSize: 9 },
				...(m.expiresOn ? [{ text: `expires ${showDay(m.expiresOn)}`, style: 'soft' }] : [])
			]
		},
		{ text: m.lost ? '–' : m.place, font: 'Mono', fontSize: 9 },
		{ text: `${show(m.qty)} ${m.unit}`, alignment: 'right' },
		{ text: `${show(m.content)} ${m.contentUnit}`, alignment: 'right' }
	];
	const runs = [...group(paper.moved, (m) => m.run)].map(([run, list]): Content => {
		const of = (role: string, lost: boolean) =>
			show(
				exact(
					list.filter((m) => m.role === role && m.lost === lost).reduce((s, m) => s.add(m.content), new Fraction(0))
				)
			);
		const unit = list[0].contentUnit;
		return {
			stack: [
				{ text: run, font: 'Mono', fontSize: 9, margin: [0, 8, 0, 2] },
				paperTable(['', 'Item', 'Lot', 'Place', 'Quantity', 'Content'], [28, '*', 110, 70, 70, 70], list.map(cells)),
				{
					text: `${of('use', false)} ${unit} in = ${of('make', false)} ${unit} out + ${of('make', true)} ${unit} lost`,
					style: 'soft',
					margin: [0, 3, 0, 0]
				}
			]
		};
	});
	return renderPaper({
		info: { title: `Repacking record ${paper.code}` },
		content: [
			{ text: 'Repacking record', style: 'title' },
			{
				columns: [titled('Repacking', paper.code, true), titled('Booked', showWhen(paper.on)), titled('By', paper.by)],
				margin: [0, 6, 0, 6]
			},
			...(paper.reason ? [titled('Reason', paper.reason)] : []),
			...runs,
			headOf(paper.head)
		]
	});
}
