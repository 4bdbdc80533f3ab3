<script lang="ts">
	// A date, typed as people write it and read by our own parser, with a calendar to look it up in.
	import { parseDay } from '$lib/core/dates/dates';
	import { showDay, showWhen } from '$lib/ui/dates';
	import DayPick from './DayPick.svelte';
	import Text from './Text.svelte';
	interface Props {
		label: string;
		/** YYYY-MM-DD, or whatever was typed before it was refused */
		value?: string;
		name?: string;
		hide?: boolean;
		/** what cannot be read is given too: whoever takes it keeps it, and says what is wrong */
		loose?: boolean;
		/** a day that was read, or nothing when the field was cleared */
		onday?: (day: string) => unknown;
		[attribute: string]: unknown;
	}
	let { label, value = $bindable(''), name, hide = false, loose = false, onday, ...rest }: Props = $props();
	let typed = $derived(showWhen(value ?? ''));
	let field = $state<HTMLInputElement | null>(null);
	const read = $derived(typed.trim() ? parseDay(typed) : null);
	let looked = $state(false);
	function take() {
		looked = true;
		if (read && 'problem' in read && !loose) return;
		const day = !read ? '' : 'day' in read ? read.day : typed.trim();
		typed = showWhen(day);
		if (day === value) return;
		value = day;
		onday?.(day);
	}
	function pick(day: string) {
		typed = showWhen(day);
		take();
		field?.focus();
	}
</script>

<div class="day">
	<Text
		{label}
		{hide}
		{name}
		ch={11}
		bind:value={typed}
		bind:ref={field}
		maxlength="40"
		placeholder="31 Mar 2027"
		title={read && 'day' in read ? showDay(read.day) : undefined}
		fault={looked && read && 'problem' in read ? read.problem : ''}
		oninput={() => (looked = false)}
		onchange={take}
		{...rest}
	/>
	<DayPick {label} {typed} onpick={pick} onclose={() => field?.focus()} />
</div>

<style>
	.day {
		display: flex;
		align-items: flex-end;
	}
</style>
