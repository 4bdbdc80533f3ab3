import type { Content, ContentTable, TDocumentDefinitions } from 'pdfmake/interfaces';
import { pdfs } from './fonts.ts';

/** Draws a paper: A4, the firm's typefaces, its title and the page at the foot. */
export async function renderPaper(doc: TDocumentDefinitions): Promise<Buffer> {
	const maker = await pdfs();
	return maker
		.createPdf({
			pageSize: 'A4' as const,
			pageMargins: [40, 40, 40, 50] as [number, number, number, number],
			defaultStyle: { font: 'Sans', fontSize: 10, color: '#14202a' },
			...doc,
			styles: {
				title: { fontSize: 18, bold: true },
				part: { fontSize: 12, bold: true, margin: [0, 12, 0, 4] as [number, number, number, number] },
				soft: { fontSize: 8, color: '#52606b' }
			},
			footer: (page: number, pages: number) => ({
				text: `${doc.info?.title} · page ${page} of ${pages}`,
				alignment: 'center',
				fontSize: 8,
				color: '#52606b'
			})
		})
		.getBuffer();
}

/** A table of a paper: small titles, a fine line below each row. */
export const paperTable = (titles: string[], widths: (string | number)[], rows: Content[][]): ContentTable => ({
	table: { headerRows: 1, widths, body: [titles.map((t) => ({ text: t, style: 'soft' })), ...rows] },
	layout: {
		hLineWidth: () => 0.5,
		vLineWidth: () => 0,
		hLineColor: () => '#c3ced6',
		paddingTop: () => 4,
		paddingBottom: () => 4
	}
});

/** Something under a small title, as at the head of a paper. */
export const titled = (title: string, value: string, mono = false): Content => ({
	stack: [
		{ text: title, style: 'soft' },
		{ text: value, ...(mono ? { font: 'Mono' } : {}) }
	]
});
