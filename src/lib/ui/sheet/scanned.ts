import { readScan } from '../../core/codes/scan.ts';
import { sound } from '../scan/scanner.ts';
import type { Sheet } from './sheet.svelte.ts';

type Rows = (line: string) => { holdLot(number: string, expiresOn?: string): void } | undefined;

/**
 * A scan on a document with a sheet: to the line where the cursor is, or where the code says. A plain code scanned into a
 * field for a lot stays in that field.
 * @returns false when the scan is to stay as typed
 */
export function scanned(sheet: Sheet, text: string, into: Element | null, rows: Rows): boolean {
	const read = readScan(text, new Date().getFullYear());
	const coded = 'problem' in read || read.coded;
	const field = into?.getAttribute('data-field');
	const group = into?.closest<HTMLElement>('[data-line]') ?? null;
	if (!coded && into && ((field && field !== 'fill') || (!group && !into.closest('[role=search]')))) return false;
	const lot = group?.querySelector<HTMLInputElement>('[data-field=lot]')?.value.trim() || null;
	handScan(sheet, text, group?.dataset.line ?? null, lot, rows);
	return true;
}

/** Hands a scan to the sheet; sounds, and fills in the lot for serials to come. */
export function handScan(sheet: Sheet, text: string, line: string | null, lot: string | null, rows: Rows) {
	void sheet.scan(text, line, lot).then((taken) => {
		if (!taken) return;
		sound(taken.taken ? 'good' : 'bad');
		if (taken.hold) rows(taken.hold.lineId)?.holdLot(taken.hold.lot, taken.hold.expiresOn);
	});
}
