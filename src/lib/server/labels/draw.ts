import bwipjs from 'bwip-js/node';
import { PNG } from 'pngjs';
import { pdfs } from '../pdf/fonts.ts';
import { GS } from '../../core/codes/gs1.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { dotsPerModule, SIZES, type Dpi, type Label, type LabelSize } from '../../core/labels/label.ts';

/**
 * The code of a label with its number beneath, as the printer's dots.
 * @param dots of one module; even for two-dimensional codes
 * @param tall height of bars, in mm
 * @returns a PNG, one pixel a dot
 */
export async function drawCode(
	label: Label,
	dpi: Dpi,
	dots = dotsPerModule(label.bcid, dpi),
	tall = 12
): Promise<Buffer> {
	const bars = label.bcid === 'code128';
	return bwipjs.toBuffer({
		bcid: label.bcid,
		...(/^\](d2|C1)/.test(label.reads)
			? { text: '^FNC1' + label.reads.slice(3).replaceAll(GS, '^FNC1'), parsefnc: true }
			: { text: label.reads }),
		// A module of a two-dimensional code is drawn as two units, of bars as one.
		scale: bars ? dots : dots / 2,
		// The library takes heights for 72 dots an inch and its scale.
		...(bars ? { height: (tall * dpi) / (72 * dots) } : {}),
		includetext: true,
		alttext: label.number,
		textsize: bars ? 10 : 12,
		// The quiet zone that a reader needs around the code: ten modules beside bars, four around a QR code, two around a
		// Data Matrix (one is enough by ISO/IEC 16022).
		...(bars ? { paddingwidth: 10, paddingheight: 2 } : { padding: label.bcid === 'qrcode' ? 8 : 4 }),
		backgroundcolor: 'FFFFFF'
	});
}
/** The same dots in grey without a layer of transparency: a PDF takes them as they are, where it would read each dot anew. */
function plain(png: Buffer): Buffer {
	const { width, height, data } = PNG.sync.read(png);
	return PNG.sync.write({ width, height, data } as PNG, {
		colorType: 0,
		inputHasAlpha: true,
		filterType: 0,
		deflateLevel: 4
	});
}
const size = (png: Buffer) => ({ width: png.readUInt32BE(16), height: png.readUInt32BE(20) });
/** A code wider than this share of its label has its text beneath, otherwise beside it. */
const BESIDE = 0.6;
/** Heights of a line of text and of bars on a label so high, in mm: less on a small one. */
const textOf = (high: number) => Math.min(2.9, high / 12);
const barsOf = (high: number) => Math.min(14, high / 3);

/**
 * The code of a label as large as it is drawn by rule, or smaller where its label is too small for that.
 * @returns null when it does not fit with modules of 0.2 mm or more
 */
export async function fitCode(label: Label, dpi: Dpi, labelSize: LabelSize): Promise<Buffer | null> {
	const dot = dpi / 25.4;
	const { width: w, height: h } = SIZES[labelSize];
	for (let dots = dotsPerModule(label.bcid, dpi); dots / dot >= 0.2; dots -= label.bcid === 'code128' ? 1 : 2) {
		const png = await drawCode(label, dpi, dots, barsOf(h));
		const { width, height } = size(png);
		const below = width > w * dot * BESIDE ? (1 + label.lines.length * textOf(h) * 1.35) * dot : 0;
		if (width <= w * dot && height + below <= h * dot) return png;
	}
	return null;
}

/** A printed label as a picture: the printer's dots, and the lines of text beside or beneath them. */
export async function drawLabel(label: Label, dpi: Dpi, labelSize: LabelSize): Promise<string> {
	const SIZE = SIZES[labelSize];
	const png = (await fitCode(label, dpi, labelSize)) ?? (await drawCode(label, dpi));
	const { width, height } = size(png);
	const dot = dpi / 25.4;
	const [w, h] = [Math.round(SIZE.width * dot), Math.round(SIZE.height * dot)];
	const wide = width > w * BESIDE;
	const px = textOf(SIZE.height) * dot;
	const [x, y] = wide
		? [2 * dot, height + dot + px]
		: [width + 2 * dot, (h - (label.lines.length - 1) * px * 1.35 + px * 0.7) / 2];
	const text = label.lines
		.map(
			(t, i) =>
				`<text x="${x}" y="${y + i * px * 1.35}" font-size="${px}"${i ? '' : ' font-weight="600"'}>${escape(t)}</text>`
		)
		.join('');
	return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" viewBox="0 0 ${w} ${h}" font-family="IBM Plex Sans, sans-serif"><rect width="${w}" height="${h}" fill="#fff"/><image href="data:image/png;base64,${png.toString('base64')}" x="0" y="${wide ? 0 : Math.max(0, Math.round((h - height) / 2))}" width="${width}" height="${height}"/>${text}</svg>`;
}
const escape = (t: string) => t.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

/**
 * Labels as a PDF, one a page, at the size of the label; dots stay whole when it is printed at its resolution.
 * @param said is told what is being done, for people
 */
export async function labelsPdf(
	labels: Label[],
	dpi: Dpi,
	labelSize: LabelSize,
	said: (what: string) => void = () => {}
): Promise<Buffer> {
	const SIZE = SIZES[labelSize];
	const mm = 72 / 25.4;
	const pages = [];
	for (const [n, label] of labels.entries()) {
		if (n % 50 === 0) said(`Drawing label ${grouped(n + 1)} of ${grouped(labels.length)}`);
		pages.push({ label, png: plain((await fitCode(label, dpi, labelSize)) ?? (await drawCode(label, dpi))) });
	}
	said(`Laying out ${grouped(labels.length)} labels`);
	const maker = await pdfs();
	return maker
		.createPdf({
			pageSize: { width: SIZE.width * mm, height: SIZE.height * mm },
			pageMargins: [4, 4, 4, 0],
			defaultStyle: { font: 'Sans', fontSize: Math.round(textOf(SIZE.height) * mm) },
			content: pages.map(({ label, png }, i) => {
				const { width, height } = size(png);
				const [w, h] = [(width * 72) / dpi, (height * 72) / dpi];
				const image = { image: `data:image/png;base64,${png.toString('base64')}`, width: w, height: h };
				const text = label.lines.map((t, n) => ({ text: t, bold: n === 0 }));
				const body =
					w > SIZE.width * mm * BESIDE
						? { stack: [image, ...text] }
						: {
								columns: [
									{ ...image, width: w },
									{ stack: text, width: '*' }
								],
								columnGap: 4
							};
				return { ...body, ...(i ? { pageBreak: 'before' as const } : {}) };
			})
		})
		.getBuffer();
}
