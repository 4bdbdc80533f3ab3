/** Check digits and characters. Each returns null when the text has a sign that the method does not know. */

/**
 * The check digit of a GTIN, SSCC or GLN: weights 3 and 1 from the right, modulo 10 (GS1 General Specifications, 7.9).
 * @param digits the number without its check digit
 */
export function gs1CheckDigit(digits: string): string | null {
	if (!/^\d+$/.test(digits)) return null;
	let sum = 0;
	for (let i = digits.length - 1, weight = 3; i >= 0; i--, weight = 4 - weight) sum += Number(digits[i]) * weight;
	return String((10 - (sum % 10)) % 10);
}

/** Is the last digit the right one? */
export const gs1Valid = (digits: string): boolean =>
	digits.length > 1 && gs1CheckDigit(digits.slice(0, -1)) === digits.slice(-1);

/** A GTIN of 8, 12, 13 or 14 digits, with its check digit right, as the 14 digits that codes carry; else null. */
export function gtin14(digits: string): string | null {
	return /^(\d{8}|\d{12,14})$/.test(digits) && gs1Valid(digits) ? digits.padStart(14, '0') : null;
}

/** The check digit of Luhn's method (ISO/IEC 7812-1, annex B): every second digit from the right doubled. */
export function luhn(digits: string): string | null {
	if (!/^\d+$/.test(digits)) return null;
	let sum = 0;
	for (let i = digits.length - 1, twice = true; i >= 0; i--, twice = !twice) {
		const n = Number(digits[i]) * (twice ? 2 : 1);
		sum += n > 9 ? n - 9 : n;
	}
	return String((10 - (sum % 10)) % 10);
}

const SIGNS = '0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ';
/** The check character of ISO/IEC 7064 MOD 37,36 (the hybrid system): for digits and capital letters. */
export function mod37_36(text: string): string | null {
	if (!/^[0-9A-Z]+$/.test(text)) return null;
	let p = 36;
	for (const sign of text) {
		p = (p + SIGNS.indexOf(sign)) % 36 || 36;
		p = (p * 2) % 37;
	}
	return SIGNS[(37 - p) % 36];
}
