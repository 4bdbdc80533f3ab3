import 'pdfmake';

declare module 'pdfmake' {
	/** files that the library reads by name, from memory; its own types leave it out */
	export const virtualfs: { writeFileSync(name: string, content: Uint8Array): void };
}
