import { tick } from 'svelte';
import { readScan } from '../../core/codes/scan.ts';
import { sound, takeScans } from '../scan/scanner.ts';
import type { Sheet, Taken } from './sheet.svelte.ts';

type Rows = (line: string) => { holdLot(number: string, expiresOn?: string): void } | undefined;

/**
 * A scan on a document with a sheet: to the line where the cursor is, or where the code says. A plain code scanned into a
 * field for a lot stays in that field.
 * @returns false when the scan is to stay as typed; else, later, whether it was taken
 */
export function scanned(sheet: Sheet, text: string, into: Element | null, rows: Rows): false | Promise<boolean> {
	const read = readScan(text, new Date().getFullYear());
	const coded = 'problem' in read || read.coded;
	const field = into?.getAttribute('data-field');
	const group = into?.closest<HTMLElement>('[data-line]') ?? null;
	if (!coded && into && ((field && field !== 'fill') || (!group && !into.closest('[role=search]')))) return false;
	const lot = group?.querySelector<HTMLInputElement>('[data-field=lot]')?.value.trim() || null;
	return handScan(sheet, text, group?.dataset.line ?? null, lot, rows);
}

/** Hands a scan to the sheet; sounds, and fills in the lot for serials to come. @returns whether it was taken */
export async function handScan(
	sheet: Sheet,
	text: string,
	line: string | null,
	lot: string | null,
	rows: Rows
): Promise<boolean> {
	const taken = await sheet.scan(text, line, lot);
	if (!taken) return true;
	sound(taken.taken ? 'good' : 'bad');
	if (taken.hold) rows(taken.hold.lineId)?.holdLot(taken.hold.lot, taken.hold.expiresOn);
	return taken.taken;
}

/**
 * Takes scans for a document that takes stock, until the returned function is called: each picks what it names. A field for
 * numbers that are given only now keeps what is scanned into it.
 * @param may whether the sheet takes any now
 * @param heard what became of each
 */
export const takePicks = (sheet: Sheet, may: () => boolean, heard: (taken: Taken) => void = () => {}) =>
	takeScans((text, into) => {
		if (!may()) return false;
		// A field keeps what is plainly meant for it; a code that says what it is goes to the sheet, wherever the cursor stands.
		const read = readScan(text, new Date().getFullYear());
		if (into?.closest('[data-field]') && !('problem' in read || read.coded)) return false;
		return sheet.scan(text, null, null).then((taken) => {
			if (!taken) return true;
			sound(taken.taken ? 'good' : 'bad');
			heard(taken);
			if (taken.taken && taken.changed) void toQuantity(taken.changed);
			return taken.taken;
		});
	});

/** The cursor stands in the quantity of the lot that was scanned: whoever took less of it types how much. */
async function toQuantity(row: string): Promise<void> {
	await tick();
	const field = document.querySelector<HTMLInputElement>(`[data-pick="${CSS.escape(row)}"]`);
	field?.focus();
	field?.select();
}
