import bwipjs from 'bwip-js/node';
import type { PaperHead } from './seal.ts';

/** A head as a QR code says it: what `./earmark verify --head` takes. */
export const headText = (head: PaperHead): string => `${head.size}:${head.root}`;

/** The QR code of a head, as the address of a picture. */
export async function headQr(head: PaperHead): Promise<string> {
	const png = await bwipjs.toBuffer({
		bcid: 'qrcode',
		text: headText(head),
		scale: 2,
		padding: 8,
		backgroundcolor: 'FFFFFF'
	});
	return `data:image/png;base64,${png.toString('base64')}`;
}
