<script lang="ts">
	// A calendar to look a day up in, beside the field that it is typed into.
	import { Button } from 'carbon-components-svelte';
	import CalendarIcon from 'carbon-icons-svelte/lib/Calendar.svelte';
	import { parseDay } from '$lib/core/dates/dates';
	import MonthGrid from './MonthGrid.svelte';
	interface Props {
		/** the field that it stands beside */
		label: string;
		/** what is typed there */
		typed: string;
		/** takes the day; the field has the focus again when there is none */
		onpick: (day: string) => void;
		onclose: () => void;
	}
	let { label, typed, onpick, onclose }: Props = $props();
	let open = $state(false);
	const read = $derived(typed.trim() ? parseDay(typed) : null);
</script>

<span class="pick">
	<Button
		kind="ghost"
		size="small"
		icon={CalendarIcon}
		iconDescription="Calendar for {label}"
		hideTooltip
		aria-expanded={open}
		on:click={() => (open = !open)}
	/>
	{#if open}
		<MonthGrid
			day={read && 'day' in read ? read.day : ''}
			onpick={(day) => {
				open = false;
				onpick(day);
			}}
			onclose={() => {
				open = false;
				onclose();
			}}
		/>
	{/if}
</span>

<style>
	.pick {
		position: relative;
		display: flex;
	}
</style>
