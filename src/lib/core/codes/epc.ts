import epcTds from 'epc-tds';

const { Sgtin96, Sgtin198 } = epcTds;

/** What is written into a tag's EPC memory for a unit, by the GS1 EPC Tag Data Standard. */
export interface TagCode {
	/** SGTIN-96 where the serial is a number that fits, else SGTIN-198; own where the item has no GTIN or the serial does not fit either */
	scheme: 'sgtin-96' | 'sgtin-198' | 'own';
	/** hexadecimal, in capitals; empty for our own, which stands in the user memory alone */
	hex: string;
}
/** Point of sale trade item is 1; a single piece has 0 (all others): the reader does not filter. */
const FILTER = 0;
/** 38 bits of SGTIN-96 for a serial without leading zeros. */
const MOST_96 = 274_877_906_943n;
/** GS1 character set 82, twenty signs. */
const SERIAL_198 = /^[!"%&'()*+,\-./0-9:;<=>?A-Z_a-z]{1,20}$/;

/**
 * The EPC of one piece.
 * @param gtin 14 digits, or null where the item has none
 * @param prefixDigits how many digits of the GTIN, after the first, are the firm's company prefix
 */
export function tagCode(gtin: string | null, serial: string, prefixDigits: number): TagCode {
	if (!gtin || !SERIAL_198.test(serial)) return { scheme: 'own', hex: '' };
	const short = /^(0|[1-9]\d*)$/.test(serial) && BigInt(serial) <= MOST_96;
	const whole = gtin.padStart(14, '0');
	const [scheme, hex] = short
		? ([
				'sgtin-96',
				new Sgtin96()
					.setFilter(FILTER)
					.setPartition(12 - prefixDigits)
					.setGtin(whole)
					.setSerial(Number(serial))
					.toHexString()
			] as const)
		: ([
				'sgtin-198',
				new Sgtin198()
					.setFilter(FILTER)
					.setPartition(12 - prefixDigits)
					.setGtin(whole)
					.setSerial(serial)
					.toHexString()
			] as const);
	return { scheme, hex: hex.toUpperCase() };
}

/** The GTIN and serial of an EPC; null where it is blank, of another kind, or cannot be read. */
export function readTagCode(hex: string): { gtin: string; serial: string } | null {
	if (!/^(30[0-9A-F]{22}|36[0-9A-F]{48,50})$/.test(hex)) return null;
	try {
		const epc = hex.startsWith('30') ? new Sgtin96(hex) : new Sgtin198(hex);
		const [gtin, serial] = [epc.getGtin(), String(epc.getSerial())];
		return serial ? { gtin, serial } : null;
	} catch {
		return null;
	}
}

/** What a tag says of its unit besides its EPC. */
export interface TagMemory {
	item: string;
	serial: string;
	order: string;
	operation: string;
	state: string;
}
const FIELDS = ['item', 'serial', 'order', 'operation', 'state'] as const;
/** The user memory of a tag: item, serial, order, operation and state, one after the other; none of them has a bar in it, or it is written as its code. */
export const tagText = (m: TagMemory): string => FIELDS.map((f) => encodeURIComponent(m[f])).join('|');
/** What a user memory says; null where it is blank or of another kind. */
export function readTagText(text: string): TagMemory | null {
	const parts = text.split('|');
	if (parts.length !== FIELDS.length) return null;
	try {
		const [item, serial, order, operation, state] = parts.map(decodeURIComponent);
		return item && serial ? { item, serial, order, operation, state } : null;
	} catch {
		return null;
	}
}
