import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';

interface Piece {
	text: string;
	/** where it begins and ends, and how high it stands on the page, in points */
	from: number;
	to: number;
	height: number;
}

/** The words of a PDF, line by line and from left to right, as another program reads them. */
export async function words(pdf: Uint8Array): Promise<string> {
	// The reader keeps the bytes it is given, so it gets its own.
	const reading = getDocument({ data: new Uint8Array(pdf), verbosity: 0 });
	const paper = await reading.promise;
	const lines: string[] = [];
	for (let n = 1; n <= paper.numPages; n++) {
		const { items } = await (await paper.getPage(n)).getTextContent();
		const pieces = items.flatMap((i): Piece[] => {
			if (!('str' in i) || !i.str.trim()) return [];
			const [from, height] = [Number(i.transform[4]), Number(i.transform[5])];
			return [{ text: i.str, from, to: from + i.width, height }];
		});
		lines.push(...linesOf(pieces).map(inOrder));
	}
	await reading.destroy();
	return lines.join(' ').replace(/\s+/g, ' ').trim();
}

/** What stands at one height, from the top down. */
function linesOf(pieces: Piece[]): Piece[][] {
	const lines: Piece[][] = [];
	for (const piece of pieces.toSorted((a, b) => b.height - a.height)) {
		const line = lines.at(-1);
		if (line && line[0].height - piece.height <= 2) line.push(piece);
		else lines.push([piece]);
	}
	return lines;
}

/** A line from left to right; what touches is one word. */
function inOrder(line: Piece[]): string {
	let [text, end] = ['', Infinity];
	for (const piece of line.toSorted((a, b) => a.from - b.from)) {
		text += (text && piece.from - end > 0.5 ? ' ' : '') + piece.text;
		end = piece.to;
	}
	return text;
}
