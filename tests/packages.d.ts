// What is used of a package that brings no types.
declare module 'gs1-barcode-parser-mod' {
	export function parseBarcode(text: string): { parsedCodeItems: { ai: string; raw: string; isoDate: string }[] };
}
