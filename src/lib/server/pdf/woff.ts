import { inflateSync } from 'node:zlib';

const WOFF = { header: 44, entry: 20 };
const SFNT = { header: 12, entry: 16 };

/**
 * Unpacks a typeface from WOFF to the form that it was packed from (W3C, WOFF File Format 1.0, sections 3 to 5; OpenType,
 * "Organization of an OpenType Font"). What draws PDFs takes letters that are put together from others (an accent, a
 * colon) out of the unpacked form only; out of the packed ones it ends with an error.
 * @param woff the file as it is shipped for browsers
 */
export function unpackWoff(woff: Buffer): Buffer {
	const count = woff.readUInt16BE(12);
	const power = 2 ** Math.floor(Math.log2(count));
	const head = Buffer.alloc(SFNT.header + SFNT.entry * count);
	woff.copy(head, 0, 4, 8);
	head.writeUInt16BE(count, 4);
	head.writeUInt16BE(power * 16, 6);
	head.writeUInt16BE(Math.log2(power), 8);
	head.writeUInt16BE((count - power) * 16, 10);
	const parts: Uint8Array[] = [head];
	let at = head.length;
	for (let i = 0; i < count; i++) {
		const from = WOFF.header + WOFF.entry * i;
		const [offset, packed, length] = [4, 8, 12].map((n) => woff.readUInt32BE(from + n));
		const raw = woff.subarray(offset, offset + packed);
		const table = packed < length ? inflateSync(raw) : raw;
		const to = SFNT.header + SFNT.entry * i;
		woff.copy(head, to, from, from + 4);
		woff.copy(head, to + 4, from + 16, from + 20);
		head.writeUInt32BE(at, to + 8);
		head.writeUInt32BE(length, to + 12);
		const filled = Math.ceil(length / 4) * 4;
		parts.push(table, Buffer.alloc(filled - length));
		at += filled;
	}
	return Buffer.concat(parts);
}
