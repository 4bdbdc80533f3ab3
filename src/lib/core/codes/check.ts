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

/** The check character of ISO/IEC 7064 MOD 11-2: for digits; 10 is written X. */
export function mod11_2(digits: string): string | null {
	if (!/^\d+$/.test(digits)) return null;
	let p = 0;
	for (const d of digits) p = ((p + Number(d)) * 2) % 11;
	return '0123456789X'[(12 - p) % 11];
}

/**
 * The two check digits of ISO/IEC 7064 MOD 97-10; a letter counts as two digits, A as 10 to Z as 35 (as in an IBAN,
 * ISO 13616, whose country stands behind the rest for this).
 */
export function mod97_10(text: string): string | null {
	if (!/^[0-9A-Z]+$/.test(text)) return null;
	let p = 0;
	for (const d of [...text].map((sign) => SIGNS.indexOf(sign)).join('') + '00') p = (p * 10 + Number(d)) % 97;
	return String((98 - p) % 97).padStart(2, '0');
}
