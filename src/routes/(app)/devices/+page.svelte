<script lang="ts">
	import { enhance } from '$app/forms';
	import Checkmark from 'carbon-icons-svelte/lib/Checkmark.svelte';
	import WarningAlt from 'carbon-icons-svelte/lib/WarningAlt.svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { data, form } = $props();
	const waits = $derived(data.jobs.filter((j) => j.printed < j.size && !j.cancelled));
	const state = $derived(!data.printer.online ? 'switched off' : data.printer.paper === 0 ? 'out of paper' : 'ready');
	const shown = $derived(data.jobs.filter((j) => j.printed > 0).slice(0, 6));
</script>

<svelte:head><title>Devices · Earmark</title></svelte:head>
<div class="head">
	<h1>Devices</h1>
	<span class="soft">These stand in for real ones. The scanner is in the panel on the right, on every page.</span>
</div>
<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if form && 'said' in form && form.said}<p role="status">{form.said}</p>{/if}
<section class="panel">
	<h2>Label printer</h2>
	<p class="state" class:good={state === 'ready'}>
		{#if state === 'ready'}<Checkmark size={16} />{:else}<WarningAlt size={16} />{/if}
		<span
			><b>{state}</b>, {data.printer.paper.toLocaleString('en')} labels of paper{waits.length
				? ` · ${waits.reduce((n, j) => n + j.size - j.printed, 0).toLocaleString('en')} labels wait`
				: ' · nothing waits'}</span
		>
	</p>
	{#if data.may}
		<form class="fields" method="POST" action="?/printer" use:enhance>
			<button class="act" name="online" value={data.printer.online ? 'no' : 'yes'}
				>{data.printer.online ? 'Switch it off' : 'Switch it on'}</button
			>
			<button class="act" name="paper" value="500">Put in a roll of 500</button>
			<button class="act" name="paper" value="0">Take the paper out</button>
		</form>
	{/if}
</section>
<h2>Queue</h2>
<table class="rows">
	<thead
		><tr
			><th>Job</th><th>Labels for</th><th>Code</th><th>Label, mm</th><th class="num">dpi</th><th class="num">Printed</th
			><th>By</th><th>When</th><th></th></tr
		></thead
	>
	<tbody>
		{#each data.jobs as j (j.id)}
			<tr>
				<td>{j.id}{j.reprintOf ? `, again of ${j.reprintOf}` : ''}</td>
				<td class="mono">{j.title}</td>
				<td>{j.symbol}</td>
				<td>{j.label}</td>
				<td class="num">{j.dpi}</td>
				<td class="num">{j.printed.toLocaleString('en')} of {j.size.toLocaleString('en')}</td>
				<td>{j.by}</td>
				<td>{j.at}</td>
				<td class="num acts">
					<a href="/labels/{j.id}/pdf">PDF</a>
					{#if j.cancelled}<span class="soft">cancelled</span>
					{:else if data.may && j.printed < j.size}<form method="POST" action="?/cancel" use:enhance>
							<button class="link" name="job" value={j.id}
								>Cancel<span class="visually-hidden"> job {j.id}</span></button
							>
						</form>
					{:else if data.may}<form method="POST" action="?/again" use:enhance>
							<button class="link" name="job" value={j.id}
								>Print again<span class="visually-hidden"> job {j.id}</span></button
							>
						</form>{/if}
				</td>
			</tr>
		{:else}<tr
				><td colspan="9" class="soft"
					>Nothing was printed yet. Labels are printed from the page of a lot or serial, and from what was booked on an
					order.</td
				></tr
			>{/each}
	</tbody>
</table>
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
	section {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.state {
		display: flex;
		align-items: center;
		gap: 0.35rem;
		color: var(--red);
		margin: 0 0 0.5rem;
	}
	.state.good {
		color: var(--green);
	}
	.acts form {
		display: inline;
		margin-left: 0.75rem;
	}
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
