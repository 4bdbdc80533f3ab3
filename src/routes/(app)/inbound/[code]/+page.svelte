<script lang="ts">
	import { endedOn } from '$lib/core/sheet/ended';
	import { showDay } from '$lib/ui/dates';
	import FilePick from '$lib/ui/files/FilePick.svelte';
	import { readPicked } from '$lib/ui/files/picked';
	import Announced from '$lib/ui/sheet/Announced.svelte';
	import Arriving from '$lib/ui/sheet/Arriving.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data);
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
	async function takeNotice(file: File) {
		try {
			await sheet.announce(await readPicked(file));
		} catch (e) {
			sheet.faults = [{ message: (e as Error).message }];
		}
	}
	const others = $derived([...new Set(s.lines.flatMap((l) => l.rows.map((r) => r.by)))]);
</script>

<svelte:head><title>{s.code} · Inbound · Earmark</title></svelte:head>
<div class="head">
	<h1>Delivery {s.code}</h1>
	<span class="soft"
		>{s.partnerName ?? 'supplier not named'}{s.dueOn ? ` · expected ${showDay(s.dueOn)}` : ''} · to {s.place}{s.closedAt
			? ` · ${endedOn(s, 'complete')}`
			: ''}</span
	>
	{#if others.length}<span class="soft push">entered by {others.join(', ')}</span>{/if}
</div>
{#if s.theirs}<p class="soft">
		What comes stays the property of {s.partnerName}: it is traced and counted, and not offered.
	</p>{/if}
{#if s.note}<p class="soft">{s.note}</p>{/if}
{#if !shut}
	<p class="notice">
		{#if s.notice}<span>Announced in <b>{s.notice.name}</b> ({s.notice.by}, {showDay(s.notice.at)})</span>{/if}
		<FilePick
			label={s.notice ? 'Another notice' : 'Advance notice from a file'}
			says="Advance notice: CSV, XLSX or EPCIS JSON"
			accept=".csv,.txt,.json,.jsonld,.xlsx"
			onpick={takeNotice}
		/>
	</p>
{/if}
<Arriving {sheet} {data} verb="Book in" beside>
	{#snippet above(line)}
		{#if line.announced}<Announced
				announced={line.announced}
				onenter={shut ? undefined : () => sheet.enterAnnounced(line.id)}
			/>{/if}
	{/snippet}
</Arriving>

<style>
	.notice {
		display: flex;
		gap: 1rem;
		margin: 0 0 0.5rem;
		font-size: 0.8125rem;
	}
</style>
