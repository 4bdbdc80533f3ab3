import type { Content } from 'pdfmake/interfaces';
import type { CountRow } from '../../core/count/shown.ts';
import { showDay } from '../../core/dates/dates.ts';
import { group } from '../../core/group/group.ts';
import { show } from '../../core/quantity/quantity.ts';
import { paperTable, renderPaper, titled } from '../pdf/page.ts';

/** Sheets to count by: each place on its own, with a line to write on. */
export interface CountPaper {
	code: string;
	place: string;
	note: string;
	on: string;
	/** what is to be counted, with what the ledger has where that is to be shown */
	rows: (Pick<CountRow, 'place' | 'kind' | 'number' | 'lot' | 'item' | 'itemName' | 'unit' | 'expiresOn'> & {
		expected: string | null;
	})[];
}

/** Draws the sheets of a count, each place on a page of its own. */
export async function renderCount(paper: CountPaper): Promise<Uint8Array> {
	const shows = paper.rows.some((r) => r.expected !== null);
	const line: Content = { text: '____________' };
	const titles = ['Number', 'Lot', 'Item', 'Expires', ...(shows ? ['Expected'] : []), 'Counted', 'Unit'];
	const widths = ['*', 'auto', '*', 'auto', ...(shows ? ['auto'] : []), 'auto', 'auto'];
	const places = [...group([...paper.rows], (r) => r.place)];
	return renderPaper({
		info: { title: `Count ${paper.code}` },
		content: places.flatMap(([place, rows], n): Content[] => [
			{ text: `Count ${paper.code}`, style: 'title', ...(n ? { pageBreak: 'before' as const } : {}) },
			{
				columns: [
					titled('Place', place, true),
					titled('Printed', paper.on),
					titled('Counted by', '____________________')
				],
				margin: [0, 6, 0, paper.note ? 6 : 14]
			},
			...(paper.note ? [{ text: paper.note, margin: [0, 0, 0, 14] as [number, number, number, number] }] : []),
			paperTable(
				titles,
				widths,
				rows.map((r): Content[] => [
					{ text: r.kind === 'unmarked' ? 'no number' : r.number, ...(r.kind === 'unmarked' ? {} : { font: 'Mono' }) },
					{ text: r.lot ?? '', font: 'Mono' },
					{ stack: [r.itemName, { text: r.item, style: 'soft' }] },
					{ text: r.expiresOn ? showDay(r.expiresOn) : '–' },
					...(shows ? [{ text: r.expected === null ? '' : show(r.expected) }] : []),
					line,
					{ text: r.unit === 'each' ? 'pcs' : r.unit }
				])
			)
		])
	});
}
