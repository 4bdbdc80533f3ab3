import bwipjs from 'bwip-js/node';
import pdfmake from 'pdfmake';
import { setFonts } from '../pdf/fonts.ts';
import { GS } from '../../core/codes/gs1.ts';
import { dotsPerModule, SIZES, type Dpi, type Label, type LabelSize } from '../../core/labels/label.ts';

/** The code of a label with its number beneath, as the printer's dots. @returns a PNG, one pixel a dot */
export async function drawCode(label: Label, dpi: Dpi): Promise<Buffer> {
	const scale = dotsPerModule(label.bcid, dpi);
	return bwipjs.toBuffer({
		bcid: label.bcid,
		...(/^\](d2|C1)/.test(label.reads)
			? { text: '^FNC1' + label.reads.slice(3).replaceAll(GS, '^FNC1'), parsefnc: true }
			: { text: label.reads }),
		scale,
		...(label.bcid === 'code128' ? { height: 12 } : {}),
		...{ includetext: true, alttext: label.number, textsize: label.bcid === 'code128' ? 10 : 6 },
		// The quiet zone that a reader needs around the code: ten modules beside bars, four around the others.
		...(label.bcid === 'code128' ? { paddingwidth: 10, paddingheight: 2 } : { padding: 4 }),
		backgroundcolor: 'FFFFFF'
	});
}
/** Does the code of a label, with its quiet zone, fit on a label of this size? */
export async function fits(label: Label, dpi: Dpi, labelSize: LabelSize): Promise<boolean> {
	const { width, height } = size(await drawCode(label, dpi));
	const dot = dpi / 25.4;
	return width <= SIZES[labelSize].width * dot && height <= SIZES[labelSize].height * dot;
}
const size = (png: Buffer) => ({ width: png.readUInt32BE(16), height: png.readUInt32BE(20) });

/** A printed label as a picture: the printer's dots, and the lines of text beside or beneath them. */
export async function drawLabel(label: Label, dpi: Dpi, labelSize: LabelSize): Promise<string> {
	const SIZE = SIZES[labelSize];
	const png = await drawCode(label, dpi);
	const { width, height } = size(png);
	const dot = dpi / 25.4;
	const [w, h] = [Math.round(SIZE.width * dot), Math.round(SIZE.height * dot)];
	const wide = width > w * 0.6;
	const px = 2.9 * dot;
	const [x, y] = wide ? [2 * dot, height + 2 * dot + px] : [width + 2 * dot, 4 * dot + px];
	const text = label.lines.map((t, i) => `<text x="${x}" y="${y + i * px * 1.35}" font-size="${px}"${i ? '' : ' font-weight="600"'}>${escape(t)}</text>`).join(''); // prettier-ignore
	return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" viewBox="0 0 ${w} ${h}" font-family="IBM Plex Sans, sans-serif"><rect width="${w}" height="${h}" fill="#fff"/><image href="data:image/png;base64,${png.toString('base64')}" x="0" y="${wide ? 0 : Math.max(0, Math.round((h - height) / 2))}" width="${width}" height="${height}"/>${text}</svg>`;
}
const escape = (t: string) => t.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

/** Labels as a PDF, one a page, at the size of the label; dots stay whole when it is printed at its resolution. */
export async function labelsPdf(labels: Label[], dpi: Dpi, labelSize: LabelSize): Promise<Buffer> {
	const SIZE = SIZES[labelSize];
	const mm = 72 / 25.4;
	const pages = [];
	for (const label of labels) pages.push({ label, png: await drawCode(label, dpi) });
	setFonts();
	return pdfmake
		.createPdf({
			pageSize: { width: SIZE.width * mm, height: SIZE.height * mm },
			pageMargins: [4, 4, 4, 0],
			defaultStyle: { font: 'Sans', fontSize: 8 },
			content: pages.map(({ label, png }, i) => {
				const { width, height } = size(png);
				const [w, h] = [(width * 72) / dpi, (height * 72) / dpi];
				const image = { image: `data:image/png;base64,${png.toString('base64')}`, width: w, height: h };
				const text = label.lines.map((t, n) => ({ text: t, bold: n === 0 }));
				const body = w > SIZE.width * mm * 0.6 ? { stack: [image, ...text] } : { columns: [{ ...image, width: w }, { stack: text, width: '*' }], columnGap: 4 }; // prettier-ignore
				return { ...body, ...(i ? { pageBreak: 'before' as const } : {}) };
			})
		})
		.getBuffer();
}
