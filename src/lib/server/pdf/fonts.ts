import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { createRequire } from 'node:module';
import type pdfmake from 'pdfmake';
import { unpackWoff } from './woff.ts';

/** Where the typefaces lie: packages of their own, installed with the application. */
const folder = (name: string) =>
	join(dirname(createRequire(join(process.cwd(), 'package.json')).resolve(`${name}/package.json`)), 'files');
let made: Promise<typeof pdfmake> | null = null;
/**
 * What draws a PDF, with the typefaces of all of them; nothing else is read from disk, and nothing from a network. It is
 * loaded when somebody wants the first: a process that draws none does not hold it.
 */
export const pdfs = (): Promise<typeof pdfmake> => (made ??= load());
async function load(): Promise<typeof pdfmake> {
	const { default: maker } = await import('pdfmake');
	const [sans, mono] = [folder('@fontsource/ibm-plex-sans'), folder('@fontsource/ibm-plex-mono')];
	for (const [file, from] of [
		['sans.ttf', join(sans, 'ibm-plex-sans-latin-400-normal.woff')],
		['bold.ttf', join(sans, 'ibm-plex-sans-latin-600-normal.woff')],
		['mono.ttf', join(mono, 'ibm-plex-mono-latin-400-normal.woff')]
	])
		maker.virtualfs.writeFileSync(file, unpackWoff(readFileSync(from)));
	maker.setFonts({ Sans: { normal: 'sans.ttf', bold: 'bold.ttf' }, Mono: { normal: 'mono.ttf' } });
	maker.setLocalAccessPolicy(() => false);
	maker.setUrlAccessPolicy(() => false);
	return maker;
}
