<script lang="ts">
	// What came back from a customer: each number is looked over, and goes into stock, on hold or to scrap.
	import { endedOn } from '$lib/core/sheet/ended';
	import { Button, TableCell } from 'carbon-components-svelte';
	import type { Goes } from '$lib/core/document/kinds';
	import type { PickRow } from '$lib/core/sheet/sheet';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import GridField from '$lib/ui/fields/GridField.svelte';
	import LinePicks from '$lib/ui/sheet/LinePicks.svelte';
	import ReasonHead from '$lib/ui/sheet/ReasonHead.svelte';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
	import { pickData } from '$lib/ui/sheet/sheet.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data, { picks: true });
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
	const words: [Goes, string][] = [
		['stock', 'into stock'],
		['hold', 'on hold'],
		['scrap', 'scrapped']
	];
	const open = $derived(
		s.lines.flatMap((l) => l.cells.flatMap((c) => c.picks.filter((p) => !p.goes).map((p) => ({ l, p }))))
	);
	/** Everything that was not looked over yet goes one way. */
	const rest = (goes: Goes) =>
		sheet.put(
			open.map(({ l, p }) => ({
				...(p.id ? { id: p.id, version: p.version } : {}),
				lineId: l.id,
				data: pickData({ ...p, goes }, null)
			}))
		);
</script>

<ReasonHead {s} done={endedOn(s, 'taken back')} />
{#if !shut && open.length > 1}
	<p class="rest">
		<span>{open.length} not looked over yet. All of them:</span>
		{#each words as [goes, word] (goes)}<Button kind="ghost" size="small" class="link" on:click={() => rest(goes)}
				>{word}</Button
			>{/each}
	</p>
{/if}
<datalist id="found"
	>{#each ['Unopened, as new', 'Opened, complete', 'Incomplete', 'Damaged'] as f (f)}<option value={f}
		></option>{/each}</datalist
>
<datalist id="bins"
	>{#each data.bins as b (b)}<option value={b}></option>{/each}</datalist
>
<SheetBody {sheet} {data} verb="Take back" word={(line) => (line.open !== '0' ? 'here' : 'taken back')} labels>
	{#snippet body(line)}
		<LinePicks
			{sheet}
			{line}
			{more}
			readonly={shut}
			promises={false}
			suggests={false}
			offers="they have"
			called="They have"
			heads={['Found', 'What becomes of it', 'To']}
		/>
	{/snippet}
</SheetBody>
{#snippet more(picks: PickRow[], enter: (what: Partial<PickRow>) => unknown)}
	{@const p = picks[0]}
	<TableCell data-label="Found"
		>{#if shut}{p.found ?? ''}{:else}<GridField
				label="Found on {p.number}"
				value={p.found ?? ''}
				ch={16}
				list="found"
				placeholder="as it looks"
				onchange={(found) => enter({ found: found.trim() })}
			/>{/if}</TableCell
	>
	<TableCell data-label="What becomes of it"
		>{#if shut}{words.find(([goes]) => goes === p.goes)?.[1] ?? ''}{:else}<Choose
				label="What becomes of {p.number}"
				hide
				options={[['', 'choose'], ...words]}
				value={p.goes ?? ''}
				onpick={(goes) => enter({ goes: (goes || undefined) as Goes | undefined })}
			/>{/if}</TableCell
	>
	<TableCell data-label="To"
		>{#if p.goes === 'scrap'}–{:else if shut}{p.to ?? s.place}{:else}<GridField
				label="Where {p.number} goes"
				mono
				value={p.to ?? s.place ?? ''}
				ch={10}
				list="bins"
				onchange={(to) => enter({ to: to.trim() || undefined })}
			/>{/if}</TableCell
	>
{/snippet}

<style>
	.rest {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.25rem 1.25rem;
		margin: 0 0 0.5rem;
	}
</style>
