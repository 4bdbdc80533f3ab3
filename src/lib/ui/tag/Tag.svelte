<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	// The ear tag: a lot has square corners and its quantity, a serial a round right end.
	import Status from './Status.svelte';
	import { showDay } from '$lib/ui/dates';
	interface Props {
		/** lot or serial; anything else is stock without a number */
		kind: string | null;
		number: string;
		/** the last of a range that starts with number */
		last?: string;
		count?: number;
		/** with unit, on a lot */
		qty?: string | null;
		id?: string | null;
		item?: string;
		place?: string | null;
		expiresOn?: string | null;
		status?: string;
	}
	let { kind: given, number, last, count = 1, qty, id, item, place, expiresOn, status = 'released' }: Props = $props();
	const kind = $derived(given === 'lot' || given === 'serial' ? given : 'unmarked');
	const title = $derived([item, place, expiresOn ? `expires ${showDay(expiresOn)}` : ''].filter(Boolean).join(' · '));
	const label = $derived(count > 1 && last ? `${number} … ${last}` : number);
</script>

<span class="whole">
	{#if id && kind !== 'unmarked'}
		<a class="tag {kind}" href="/register/{id}" {title} aria-label="{count > 1 ? `${count} ${kind}s` : kind} {label}"
			>{@render inside()}</a
		>
	{:else}
		<span class="tag {kind}" {title}>{@render inside()}</span>
	{/if}<Status {status} {expiresOn} />
</span>

{#snippet inside()}<span class="hole" aria-hidden="true"></span><span class="no"
		>{kind === 'unmarked' ? 'no number' : label}</span
	>{#if count > 1}<span class="qty">· {grouped(count)}</span>{:else if qty}<span class="qty">{qty}</span>{/if}{/snippet}

<style>
	.whole {
		display: inline-flex;
		align-items: center;
		gap: 0.375rem;
		vertical-align: middle;
	}
	.tag {
		display: inline-flex;
		align-items: center;
		gap: 0.4rem;
		height: 24px;
		padding: 0 0.6rem 0 0.4rem;
		background: var(--tag);
		border: 1px solid var(--tag-rule);
		border-radius: 2px;
		color: var(--ink);
		text-decoration: none;
		white-space: nowrap;
	}
	.serial {
		border-radius: 2px 12px 12px 2px;
	}
	.unmarked {
		border-style: dashed;
		color: var(--ink-soft);
	}
	a.tag:hover {
		border-color: var(--link);
	}
	.hole {
		width: 9px;
		height: 9px;
		border: 1px solid var(--tag-rule);
		border-radius: 50%;
		background: var(--paper);
	}
	.no {
		font-family: var(--mono);
		font-size: 0.8125rem;
	}
	.qty {
		font-size: 0.75rem;
		color: var(--ink-soft);
	}
</style>
