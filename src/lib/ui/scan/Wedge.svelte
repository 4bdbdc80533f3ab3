<script lang="ts">
	// Hears a keyboard-wedge scanner anywhere on the page. What it typed into a field before it was known for a scan is
	// taken out again, so that a scan never lands in the wrong field.
	import { GS } from '$lib/core/codes/gs1';
	import { Wedge } from '$lib/core/codes/wedge';
	import { giveScan, putText, rememberField, scanLine } from './scanner';

	/** Keys that do something by themselves while nothing has the cursor: they may also begin a code. */
	const ACTS = ['/', '?'];
	/** How long, in ms, such a key waits for the next sign of a code. */
	const WAIT = 50;

	const wedge = new Wedge();
	type Field = HTMLInputElement | HTMLTextAreaElement | HTMLSelectElement;
	let field: Field | null = null;
	let held: { value: string; start: number | null; end: number | null } | null = null;
	/** what nobody knew, put back where it was scanned: the next one stands in its place */
	let refused: { field: Field; text: string } | null = null;
	let waiting: { key: string; timer: ReturnType<typeof setTimeout> } | null = null;
	/** the key is pressed again, for whoever else hears it */
	let again = false;

	/** What is typed there stays there: a field for text, or one that letters choose in. */
	function typedInto(el: Element | null): Field | null {
		if (el instanceof HTMLTextAreaElement || el instanceof HTMLSelectElement) return el;
		return el instanceof HTMLInputElement && !/^(checkbox|radio|button|submit|file|range)$/.test(el.type) ? el : null;
	}
	const isOpen = (el: Element) => getComputedStyle(el).visibility !== 'hidden';
	/** A question stands over the page: nothing behind it takes what is typed. */
	const asked = () => [...document.querySelectorAll('[role=dialog]')].some(isOpen);

	function hear(e: KeyboardEvent) {
		if (again || e.isComposing || e.metaKey || (e.altKey && e.key.length > 1)) return;
		const fnc1 = e.ctrlKey && e.key === ']';
		if (e.ctrlKey && !fnc1 && !e.altKey) return;
		const key = fnc1 ? GS : e.key;
		const sign = key.length === 1;
		if (waiting && !sign && key !== 'Shift') actNow();
		const at = typedInto(document.activeElement);
		const free = !at && !asked();
		// In an empty field `?` lists the keys as well, and in the empty scan line `/` does nothing: it is no part of what comes next.
		const acts = free ? ACTS.includes(key) : at?.value === '' && (key === '?' || (key === '/' && at === scanLine()));
		if (acts && !waiting && wedge.begins({ at: e.timeStamp, field })) {
			wait(e);
			return;
		}
		if (sign && key !== ' ' && free) {
			const line = scanLine();
			line?.focus();
			if (waiting && line) begin(line);
		}
		const into = typedInto(document.activeElement);
		if (waiting) {
			clearTimeout(waiting.timer);
			putText(into, waiting.key);
			wedge.key({ key: waiting.key, at: e.timeStamp, field: into });
			waiting = null;
		} else if (sign && wedge.begins({ at: e.timeStamp, field: into })) begin(into);
		if (fnc1) e.preventDefault();
		const length = wedge.length;
		const text = wedge.key({ key, at: e.timeStamp, repeat: e.repeat, field: into });
		// Signs that went nowhere were no press of the button that has the focus.
		if (key === 'Enter' && length > 1 && !into) e.preventDefault();
		if (text) take(text, e);
	}
	/** Remembers what stood in a field before something is typed into it. */
	function begin(into: Field | null) {
		field = into;
		held = field && {
			value: refused?.field === field && refused.text === field.value ? '' : field.value,
			start: 'selectionStart' in field ? field.selectionStart : null,
			end: 'selectionEnd' in field ? field.selectionEnd : null
		};
	}
	function wait(e: KeyboardEvent) {
		e.preventDefault();
		e.stopImmediatePropagation();
		waiting = { key: e.key, timer: setTimeout(actNow, WAIT) };
	}
	/** No code came after it: it does what it does by itself. */
	function actNow() {
		if (!waiting) return;
		const { key, timer } = waiting;
		clearTimeout(timer);
		waiting = null;
		again = true;
		document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
		again = false;
	}
	function take(text: string, e: KeyboardEvent) {
		const into = field;
		const before = held;
		const typed = into?.value ?? '';
		const taken = giveScan(text, into);
		if (!taken) {
			// What stays where it was scanned stands there alone: a number is never the end of another one.
			if (into?.closest('[data-column], [data-field]')) restore(into, text);
			return;
		}
		e.preventDefault();
		e.stopImmediatePropagation();
		if (!into || !before) return;
		restore(into, before.value);
		if ('setSelectionRange' in into) into.setSelectionRange(before.start, before.end);
		if (taken === true) return;
		// What nobody knows may have been typed: it stands there again, ready to be corrected or scanned over.
		void taken.then((known) => {
			if (known || !into.isConnected || into.value !== before.value) return;
			restore(into, typed);
			refused = { field: into, text: typed };
			if ('select' in into) into.select();
		});
	}
	function restore(into: Field, value: string) {
		if (into.value === value) return;
		into.value = value;
		into.dispatchEvent(new Event(into instanceof HTMLSelectElement ? 'change' : 'input', { bubbles: true }));
	}
</script>

<svelte:window onkeydowncapture={hear} onpointerdowncapture={() => wedge.end()} />
<svelte:document onfocusin={(e) => rememberField(e.target)} />
