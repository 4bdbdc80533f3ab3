import { onMount } from 'svelte';
import type { SentSheet } from '$lib/core/sheet/sent';
import type { Mode, SheetState } from '$lib/core/sheet/sheet';
import { takePicks } from './scanned';
import { Sheet } from './sheet.svelte';

/**
 * The sheet of a document for as long as its page is open: it follows what others do, and takes what is scanned.
 * @param data what the page was given
 * @param how `picks`: a scan picks what it names; `mode`: what of it is recorded at first, where that is not both sides;
 *   `online`: a scan that cannot be sent is refused, not kept for later
 */
export function openSheet(
	data: () => { sheet: SentSheet; may: boolean },
	{ picks = false, mode, online = false }: { picks?: boolean; mode?: (s: SheetState) => Mode; online?: boolean } = {}
): Sheet {
	const sheet = new Sheet(data().sheet, mode, () => data().may, online);
	onMount(() => sheet.connect());
	if (picks) onMount(() => takePicks(sheet, () => !sheet.shut));
	return sheet;
}
