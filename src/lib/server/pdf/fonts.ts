import pdfmake from 'pdfmake';
import { join } from 'node:path';

const fonts = join(process.cwd(), 'node_modules/@fontsource');
let set = false;
/** The typefaces of every PDF; nothing else is read from disk, and nothing from a network. */
export function setFonts() {
	if (set) return;
	set = true;
	pdfmake.setFonts({
		Sans: {
			normal: join(fonts, 'ibm-plex-sans/files/ibm-plex-sans-latin-400-normal.woff2'),
			bold: join(fonts, 'ibm-plex-sans/files/ibm-plex-sans-latin-600-normal.woff2')
		},
		Mono: { normal: join(fonts, 'ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff2') }
	});
	pdfmake.setLocalAccessPolicy((path: string) => path.startsWith(fonts));
	pdfmake.setUrlAccessPolicy(() => false);
}
