<script lang="ts">
	// A month to look a day up in: arrows go by days and weeks, Page Up and Page Down by months, Escape closes it.
	import { onMount, tick } from 'svelte';
	import { Button } from 'carbon-components-svelte';
	import { monthOf, addDuration } from '$lib/core/dates/dates';
	import { showDay } from '$lib/ui/dates';
	interface Props {
		/** the day that is chosen; today without one */
		day: string;
		onpick: (day: string) => void;
		onclose: () => void;
	}
	let { day, onpick, onclose }: Props = $props();
	// svelte-ignore state_referenced_locally
	let at = $state(day || new Date().toISOString().slice(0, 10));
	const weeks = $derived(monthOf(at));
	let grid: HTMLElement;
	const back = (d: string, days: number) => new Date(Date.parse(d) - days * 86_400_000).toISOString().slice(0, 10);
	async function go(to: string) {
		at = to;
		await tick();
		grid.querySelector<HTMLElement>(`[data-day="${at}"]`)?.focus();
	}
	const month = (d: string, n: number) => {
		const [y, m] = d.split('-').map(Number);
		const first = new Date(Date.UTC(y, m - 1 + n, 1)).toISOString().slice(0, 10);
		const last = monthOf(first)
			.flat()
			.filter((x) => x.slice(0, 7) === first.slice(0, 7))
			.pop()!;
		return d.slice(8) > last.slice(8) ? last : first.slice(0, 8) + d.slice(8);
	};
	function keys(e: KeyboardEvent) {
		const to: Record<string, () => string> = {
			ArrowLeft: () => back(at, 1),
			ArrowRight: () => addDuration(at, 'P1D'),
			ArrowUp: () => back(at, 7),
			ArrowDown: () => addDuration(at, 'P7D'),
			PageUp: () => month(at, -1),
			PageDown: () => month(at, 1)
		};
		if (e.key === 'Escape') {
			e.stopPropagation();
			return onclose();
		}
		if (!to[e.key]) return;
		e.preventDefault();
		void go(to[e.key]());
	}
	onMount(() => void go(at));
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<div class="month" role="group" aria-label="Calendar" bind:this={grid} onkeydown={keys}>
	<div class="title">
		<Button kind="ghost" size="small" class="link" on:click={() => go(month(at, -1))} aria-label="Month before"
			>‹</Button
		>
		<b>{showDay(at).replace(/^\d+\.? /, '')}</b>
		<Button kind="ghost" size="small" class="link" on:click={() => go(month(at, 1))} aria-label="Month after">›</Button>
	</div>
	<div class="days">
		{#each ['Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa', 'Su'] as w (w)}<span class="soft" aria-hidden="true">{w}</span>{/each}
		{#each weeks.flat() as d (d)}
			<Button
				kind={d === day ? 'primary' : 'ghost'}
				size="small"
				class="day-of-month {d.slice(0, 7) === at.slice(0, 7) ? '' : 'other'}"
				tabindex={d === at ? 0 : -1}
				data-day={d}
				aria-label={showDay(d)}
				on:click={() => onpick(d)}>{Number(d.slice(8))}</Button
			>
		{/each}
	</div>
</div>

<style>
	.month {
		position: absolute;
		z-index: 25;
		top: calc(100% + 2px);
		left: 0;
		padding: 0.4rem;
		background: var(--paper);
		border: 1px solid var(--tag-rule);
	}
	.title {
		display: flex;
		justify-content: space-between;
		padding: 0 0.5rem 0.25rem;
	}
	.days {
		display: grid;
		grid-template-columns: repeat(7, 2rem);
		justify-items: center;
		font-size: 0.8125rem;
	}
	.days :global(.day-of-month.bx--btn) {
		width: 2rem;
		min-width: 0;
		padding: 0;
		justify-content: center;
	}
	.days :global(.day-of-month.other) {
		opacity: 0.55;
	}
</style>
