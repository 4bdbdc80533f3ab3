<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	import { Button } from 'carbon-components-svelte';
	import { enhance } from '$app/forms';
	import DeviceState from '$lib/ui/devices/DeviceState.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import LongFile from '$lib/ui/files/LongFile.svelte';
	import List from '$lib/ui/list/List.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const waits = $derived(data.jobs.filter((j) => j.printed < j.size && !j.cancelled));
	const state = $derived(!data.printer.online ? 'switched off' : data.printer.paper === 0 ? 'out of paper' : 'ready');
	const shown = $derived(data.jobs.filter((j) => j.printed > 0).slice(0, 6));
</script>

<svelte:head><title>Devices · Earmark</title></svelte:head>
<Said {form} />
<DeviceState title="Label printer" good={state === 'ready'}>
	{#snippet says()}<b>{state}</b>, {grouped(data.printer.paper)} labels of paper{waits.length
			? ` · ${grouped(waits.reduce((n, j) => n + j.size - j.printed, 0))} labels wait`
			: ' · nothing waits'}{/snippet}
	{#snippet acts()}{#if data.may}
			<form class="fields" method="POST" action="?/printer" use:enhance>
				<Button kind="tertiary" size="small" type="submit" name="online" value={data.printer.online ? 'no' : 'yes'}
					>{data.printer.online ? 'Switch it off' : 'Switch it on'}</Button
				>
				<Button kind="tertiary" size="small" type="submit" name="paper" value="500">Put in a roll of 500</Button>
				<Button kind="tertiary" size="small" type="submit" name="paper" value="0">Take the paper out</Button>
			</form>
		{/if}{/snippet}
</DeviceState>
<h2>Labels printed</h2>
<List list={data.list} cells={['job', 'printed']}>
	{#snippet cell(j, c)}
		{#if c.key === 'job'}{j.job}{j.again ? `, again of ${j.again}` : ''}
		{:else}{grouped(Number(j.printed))} of {grouped(Number(j.size))}{j.cancelled ? ', cancelled' : ''}{/if}
	{/snippet}
	{#snippet acts(j)}
		<LongFile href="/labels/{j.id}/pdf">PDF<span class="visually-hidden"> of job {j.job}</span></LongFile>
		{#if data.may && !j.cancelled}
			{@const waits = Number(j.printed) < Number(j.size)}
			<form method="POST" action="?/{waits ? 'cancel' : 'again'}" use:enhance>
				<Hidden name="job" value={j.id} />
				<Button type="submit" kind="ghost" size="small" class="link"
					>{waits ? 'Cancel' : 'Print again'}<span class="visually-hidden"> job {j.job}</span></Button
				>
			</form>
		{/if}
	{/snippet}
</List>
{#if shown.length}
	<h2>What came out last</h2>
	<div class="paper">
		{#each shown as j (j.id)}{#each Array.from({ length: Math.min(j.printed, 3) }, (_, i) => i + 1) as n (n)}<img
					src="/labels/{j.id}/{n}"
					alt="Label {n} of {j.size} for {j.title}"
					loading="lazy"
				/>{/each}{/each}
	</div>
{/if}

<style>
	.paper {
		display: flex;
		flex-wrap: wrap;
		gap: 0.75rem;
	}
	.paper img {
		height: 140px;
		max-width: 100%;
		border: 1px solid var(--tag-rule);
		background: #fff;
	}
</style>
