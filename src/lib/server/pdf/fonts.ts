import { dirname, join } from 'node:path';
import { createRequire } from 'node:module';
import pdfmake from 'pdfmake';

/** Where the typefaces lie: packages of their own, installed with the application. */
const folder = (name: string) =>
	join(dirname(createRequire(join(process.cwd(), 'package.json')).resolve(`${name}/package.json`)), 'files');
let set = false;
/** The typefaces of every PDF; nothing else is read from disk, and nothing from a network. */
export function setFonts() {
	if (set) return;
	set = true;
	const [sans, mono] = [folder('@fontsource/ibm-plex-sans'), folder('@fontsource/ibm-plex-mono')];
	pdfmake.setFonts({
		Sans: {
			normal: join(sans, 'ibm-plex-sans-latin-400-normal.woff2'),
			bold: join(sans, 'ibm-plex-sans-latin-600-normal.woff2')
		},
		Mono: { normal: join(mono, 'ibm-plex-mono-latin-400-normal.woff2') }
	});
	pdfmake.setLocalAccessPolicy((path: string) => path.startsWith(sans) || path.startsWith(mono));
	pdfmake.setUrlAccessPolicy(() => false);
}
