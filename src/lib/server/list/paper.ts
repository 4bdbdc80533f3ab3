import type { Content } from 'pdfmake/interfaces';
import { showWhen } from '../../core/dates/dates.ts';
import { filterWords, shownColumns, type Filter, type ListRow, type ListShape } from '../../core/list/list.ts';
import { grouped } from '../../core/quantity/sign.ts';
import type { PaperHead } from '../ledger/seal.ts';
import { headOf } from '../pdf/head.ts';
import { paperTable, renderPaper, titled } from '../pdf/page.ts';
import { wordsOf } from './export.ts';

/** A list on paper: what is asked of it, and every row that fits. */
export interface ListPaper {
	shape: ListShape;
	/** the columns that the person has chosen; null for those that everybody sees */
	chosen: string[] | null;
	find: string;
	filters: Record<string, Filter>;
	rows: ListRow[];
	by: string;
	/** when it was printed, where the firm is */
	at: string;
	head: PaperHead;
}

/** What a list was narrowed to, in words: "Reason: Damaged". */
function askedIn({ shape, find, filters }: ListPaper): string {
	const said = shape.columns.map((c) => filterWords(c, filters[c.key])).filter(Boolean);
	return [...(find ? [`“${find}”`] : []), ...said].join('; ') || 'everything';
}

/** Draws a list as it is shown, with what was asked of it, who printed it and when, and the head of the ledger. */
export async function renderList(paper: ListPaper): Promise<Uint8Array> {
	const columns = shownColumns(paper.shape.columns, paper.chosen);
	const cells = columns.map((c) => {
		const word = wordsOf(c);
		return (r: ListRow): Content => ({
			text: word(r) || '–',
			...(c.mono ? { font: 'Mono', fontSize: 7.5 } : {}),
			...(c.kind === 'number' ? { alignment: 'right' as const } : {})
		});
	});
	return renderPaper({
		info: { title: paper.shape.title },
		pageOrientation: 'landscape',
		defaultStyle: { font: 'Sans', fontSize: 8, color: '#14202a' },
		content: [
			{ text: paper.shape.title, style: 'title' },
			{
				columns: [
					titled('Shows', askedIn(paper)),
					titled('Rows', grouped(paper.rows.length)),
					titled('Printed', `${showWhen(paper.at)} by ${paper.by}`)
				],
				margin: [0, 6, 0, 10]
			},
			paperTable(
				columns.map((c) => c.label),
				columns.map((c) => (c.kind === 'text' ? '*' : 'auto')),
				paper.rows.map((r) => cells.map((cell) => cell(r)))
			),
			headOf(paper.head)
		]
	});
}
