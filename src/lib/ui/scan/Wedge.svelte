<script lang="ts">
	// Hears a keyboard-wedge scanner anywhere on the page. What it typed into a field before it was known for a scan is
	// taken out again, so that a scan never lands in the wrong field.
	import { GS } from '$lib/core/codes/gs1';
	import { Wedge } from '$lib/core/codes/wedge';
	import { giveScan, rememberField } from './scanner';

	const wedge = new Wedge();
	let field: HTMLInputElement | null = null;
	let held: { value: string; start: number | null; end: number | null } | null = null;

	function hear(e: KeyboardEvent) {
		if (e.isComposing || e.metaKey || e.altKey) return;
		const fnc1 = e.ctrlKey && e.key === ']';
		if (e.ctrlKey && !fnc1) return;
		if (e.key.length === 1 && (wedge.idle || (wedge.stale(e.timeStamp) && !wedge.sure))) {
			const el = document.activeElement;
			field = el instanceof HTMLInputElement || el instanceof HTMLTextAreaElement ? (el as HTMLInputElement) : null;
			held = field && { value: field.value, start: field.selectionStart, end: field.selectionEnd };
		}
		if (fnc1) e.preventDefault();
		const text = wedge.key(fnc1 ? GS : e.key, e.timeStamp);
		if (!text || !giveScan(text, field)) return;
		e.preventDefault();
		e.stopImmediatePropagation();
		if (!field || !held) return;
		field.value = held.value;
		field.dispatchEvent(new Event('input', { bubbles: true }));
		field.setSelectionRange?.(held.start, held.end);
	}
</script>

<svelte:window onkeydowncapture={hear} />
<svelte:document onfocusin={(e) => rememberField(e.target)} />
