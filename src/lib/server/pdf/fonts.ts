import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { createRequire } from 'node:module';
import pdfmake from 'pdfmake';
import { unpackWoff } from './woff.ts';

/** Where the typefaces lie: packages of their own, installed with the application. */
const folder = (name: string) =>
	join(dirname(createRequire(join(process.cwd(), 'package.json')).resolve(`${name}/package.json`)), 'files');
let set = false;
/** The typefaces of every PDF; nothing else is read from disk, and nothing from a network. */
export function setFonts() {
	if (set) return;
	set = true;
	const [sans, mono] = [folder('@fontsource/ibm-plex-sans'), folder('@fontsource/ibm-plex-mono')];
	for (const [file, from] of [
		['sans.ttf', join(sans, 'ibm-plex-sans-latin-400-normal.woff')],
		['bold.ttf', join(sans, 'ibm-plex-sans-latin-600-normal.woff')],
		['mono.ttf', join(mono, 'ibm-plex-mono-latin-400-normal.woff')]
	])
		pdfmake.virtualfs.writeFileSync(file, unpackWoff(readFileSync(from)));
	pdfmake.setFonts({ Sans: { normal: 'sans.ttf', bold: 'bold.ttf' }, Mono: { normal: 'mono.ttf' } });
	pdfmake.setLocalAccessPolicy(() => false);
	pdfmake.setUrlAccessPolicy(() => false);
}
