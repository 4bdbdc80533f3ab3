<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	import { Button } from 'carbon-components-svelte';
	import Text from '../fields/Text.svelte';
	// Serials that have no lot yet: put into one, typed or drawn, in one act.
	import type { SheetLine } from '$lib/core/sheet/sheet';
	import { typed, type Sheet } from './sheet.svelte';
	let { sheet, line }: { sheet: Sheet; line: SheetLine } = $props();
	let lot = $state('');
	const without = $derived(line.rows.filter((r) => r.serial && !r.lot));
	const pieces = $derived(without.reduce((n, r) => n + r.count, 0));
	async function put() {
		const number = lot.trim().slice(0, 200);
		if (!number) return;
		const rows = without.map((r) => ({
			id: r.id,
			version: r.version,
			lineId: line.id,
			data: { ...typed(r), lot: number }
		}));
		if (await sheet.put(rows)) lot = '';
	}
</script>

{#if without.length}
	<form
		class="group"
		onsubmit={(e) => {
			e.preventDefault();
			void put();
		}}
	>
		<span>{grouped(pieces)} {pieces === 1 ? 'serial has' : 'serials have'} no lot yet.</span>
		<Text label="Put {pieces === 1 ? 'it' : 'them'} in lot" mono ch={14} bind:value={lot} />
		<Button kind="tertiary" size="small" type="submit" disabled={!lot.trim()}>Put in</Button>
		{#if line.lotPattern}<Button kind="ghost" size="small" class="link" on:click={() => sheet.group(line.id)}
				>Take the next lot of {line.lotPattern} for {pieces === 1 ? 'it' : 'them'}</Button
			>{/if}
	</form>
{/if}

<style>
	.group {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.5rem 0.75rem;
		padding: 0.4rem 0.75rem;
		background: var(--amber-soft);
	}
</style>
