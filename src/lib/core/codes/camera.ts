/** One code as a reader of pictures found it. */
export interface Seen {
	format: string;
	text: string;
	symbologyIdentifier: string;
	isValid: boolean;
}

/**
 * What a picture says, each code as a scanner would send it: one of GS1 with its identifier first (ISO/IEC 15424).
 * Interleaved 2 of 5 (ISO/IEC 16390) has no ends of its own and no check: a few modules of another code, or letters, read
 * as a short one. Only the fourteen digits that GS1 prints in it (General Specifications, 5.3) count.
 */
export const codesIn = (found: Seen[]): string[] =>
	found
		.filter((f) => f.isValid && (f.format !== 'ITF' || /^\d{14}$/.test(f.text)))
		.map((f) => (/^\](d2|C1|Q3|e\d)$/.test(f.symbologyIdentifier) ? f.symbologyIdentifier : '') + f.text);
