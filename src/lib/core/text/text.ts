/**
 * Text as it may enter: brought to one form (Unicode NFC), so that what looks the same is the same, and without what no
 * person types. Every door reads text through this.
 */

/** A lone half of a surrogate pair: no text at all, and PostgreSQL takes none. */
const LONE = /\p{Cs}/u;
/** Controls other than tab and line breaks. */
const CONTROL = /[\x00-\x08\x0B\x0C\x0E-\x1F\x7F-\x9F]/;
/** Format characters: zero-width, direction marks, soft hyphen. They tell two numbers apart that look alike. */
const FORMAT = /\p{Cf}/u;
/** Signs that are shown as nothing (Unicode, Default_Ignorable_Code_Point): variation selectors, fillers, joiners. */
const IGNORABLE = /\p{Default_Ignorable_Code_Point}/u;
/** Does a number or code hold a sign that nobody sees? A new one may not; one that is there already is still found by it. */
export const unseen = (text: string): boolean => IGNORABLE.test(text);
/** Places that Unicode keeps free of characters for good. */
const NONE = /\p{Noncharacter_Code_Point}/u;

/** What of a text can be stored at all, whatever it is for. @returns null when it can */
export function badText(text: string): string | null {
	if (LONE.test(text)) return 'holds half a character. Type it again.';
	if (CONTROL.test(text) || NONE.test(text)) return 'holds a sign that cannot be typed. Type it again.';
	return null;
}

/** Text for people: notes, reasons, names. NFC; line breaks stay. */
export function readText(typed: string): { text: string } | { problem: string } {
	const why = badText(typed);
	return why ? { problem: `“${shown(typed)}” ${why}` } : { text: typed.normalize('NFC') };
}

/** The longest number, as labels and codes hold it. */
export const LONGEST_NUMBER = 60;

/**
 * A lot's or serial's number as it is kept: NFC, without blanks, controls and format characters.
 * @returns the number, or what is wrong with it and how to type it
 */
export function readNumber(typed: string): { number: string } | { problem: string } {
	// Measured before anything else is done with it: what is longer is not looked into.
	if (typed.length > 4 * LONGEST_NUMBER) return { problem: tooLong(typed) };
	const why = badText(typed);
	if (why) return { problem: `“${shown(typed)}” ${why}` };
	if (FORMAT.test(typed))
		return {
			problem: `“${shown(typed)}” holds a sign that cannot be seen. Type the number by hand, as it is printed.`
		};
	const number = typed.normalize('NFC');
	if (number.length > LONGEST_NUMBER) return { problem: tooLong(number) };
	if (/[\s\p{Cc}]/u.test(number)) return { problem: `“${shown(number)}” has a blank in it. Type each number apart.` };
	return number ? { number } : { problem: 'The number is empty. Type it.' };
}

const tooLong = (text: string) =>
	`“${shown(text)}” has ${text.length} characters; a number has at most ${LONGEST_NUMBER}. Check what was pasted.`;

/** The first signs of a text for a sentence, without what would break it. */
export const shown = (text: string): string => {
	const plain = text.slice(0, 200).replace(/[\p{Cc}\p{Cf}\p{Cs}]/gu, '\u{FFFD}');
	const signs = [...plain];
	return signs.length > 24 || text.length > 200 ? signs.slice(0, 20).join('') + '…' : plain;
};
