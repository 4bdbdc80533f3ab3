import { expand } from '../../core/ranges/ranges.ts';

/** A row of a sheet as far as its numbers go, as typed. */
export interface Typed {
	lineId: string;
	data: { lot?: string; serial?: string; count?: number; step?: number };
}

/** The serials of a row as typed; the first alone when it cannot be counted on from; none when there are too many. */
export function everySerial({ serial, count, step }: Typed['data']): string[] {
	if (!serial || serial.length > 60) return [];
	try {
		return expand(serial, count ?? 1, step);
	} catch {
		return [serial];
	}
}
