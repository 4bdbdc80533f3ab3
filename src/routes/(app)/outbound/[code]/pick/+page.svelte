<script lang="ts">
	// The pick list in walking order, for a phone: every scan takes what it names, or says why not.
	import { onMount } from 'svelte';
	import { Button } from 'carbon-components-svelte';
	import { showDay } from '$lib/ui/dates';
	import { group } from '$lib/core/group/group';
	import { amount, show } from '$lib/core/quantity/quantity';
	import { PICK_WORDS } from '$lib/core/sheet/sheet';
	import { walkOf } from '$lib/core/sheet/walk';
	import { takePicks } from '$lib/ui/sheet/scanned';
	import FootBar from '$lib/ui/sheet/FootBar.svelte';
	import Notice from '$lib/ui/sheet/Notice.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';
	import Says from '$lib/ui/scan/Says.svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data, { mode: (s) => (s.staging ? 'use' : 'both') });
	onMount(() => {
		// What is picked, whatever else is next.
		if (s.staging?.side === 'ships') void sheet.load();
	});
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
	const bins = $derived([...group(walkOf(s.lines), (stop) => stop.place)]);
	const left = $derived(bins.filter(([, stops]) => stops.some((x) => x.state !== 'picked')).length);
	const page = $derived(`/outbound/${encodeURIComponent(s.code)}`);
	const waits = $derived(!bins.length && !!s.staging?.waits && s.lines.every((l) => l.open === '0'));
	let last = $state<{ taken: boolean; said: string } | null>(null);
	const says = $derived(
		sheet.waiting ||
			last?.said ||
			(s.closedAt
				? 'All of it has gone.'
				: left
					? `Scan what you take. ${left} ${left === 1 ? 'bin' : 'bins'} to go to.`
					: waits
						? `Everything is picked. It waits at ${s.staging!.at}.`
						: 'Everything is picked.')
	);

	onMount(() =>
		takePicks(
			sheet,
			() => !shut,
			(taken) => (last = taken)
		)
	);
	async function undo() {
		const scan = s.scans.find((x) => x.canUndo);
		if (!scan) return;
		await sheet.undoScan(scan.id);
		last = { taken: true, said: `Undone: ${scan.said}` };
	}
</script>

<svelte:head><title>{s.code} · Pick list · Earmark</title></svelte:head>
<div class="head">
	<h1>Pick {s.code}</h1>
	<span class="soft">{s.partnerName}{s.dueOn ? ` · to ship by ${showDay(s.dueOn)}` : ''}</span>
	<a class="push" href={page}>Order</a>
	{#if !s.closedAt}<a href="/orders/{encodeURIComponent(s.code)}/packing-list">Print (PDF)</a>{/if}
</div>
<Notice {sheet} />
<Faults faults={sheet.faults} onclose={() => (sheet.faults = [])} />
<Says {says} tone={last ? (last.taken ? 'good' : 'bad') : ''}>
	{#if !shut && s.scans.some((x) => x.canUndo)}<Button kind="ghost" size="small" class="link" on:click={undo}
			>Undo the last scan</Button
		>{/if}
</Says>
{#each bins as [place, stops] (place)}
	<section class="panel" aria-label={place}>
		<h2 class="mono" class:done={stops.every((x) => x.state === 'picked')}>{place}</h2>
		<ul>
			{#each stops as x (x.no + x.first + x.state)}
				<li class:done={x.state === 'picked'}>
					<span class="mark" aria-hidden="true">{x.state === 'picked' ? '✓' : ''}</span>
					<span class="what">
						{#if x.kind === 'unmarked'}no number{:else}<Tag
								kind={x.kind}
								number={x.first}
								last={x.last}
								count={x.kind === 'serial' ? x.count : 1}
							/>{/if}
						<span class="soft"
							>{x.itemName}{x.lot ? ` · lot ${x.lot}` : ''}{x.expiresOn
								? ` · expires ${showDay(x.expiresOn)}`
								: ''}{x.promised ? ' · promised' : ''}</span
						>
					</span>
					<span class="qty">{x.kind === 'serial' ? show(String(x.count)) : amount(x.qty, x.unit)}</span>
					<span class="state soft"
						>{PICK_WORDS[x.state]}{#if !shut && x.state !== 'picked'}<Button
								kind="tertiary"
								size="small"
								on:click={() => {
									last = null;
									void sheet.confirm(x.line, x.of);
								}}>Picked<span class="visually-hidden">: {x.first || x.itemName}</span></Button
							>{/if}</span
					>
				</li>
			{/each}
		</ul>
	</section>
{:else}<p class="soft">
		{s.closedAt ? '' : waits ? '' : 'Nothing can be taken: see on the order what is missing.'}
	</p>{/each}
{#if bins.length && !left && !s.staging}<p>
		<a href={page}>Everything is picked. Ship it on the page of {s.code}</a>
	</p>{/if}

{#if s.staging && !s.closedAt}<FootBar {sheet} verb="To {s.staging.at}" may={data.may} />{/if}

<style>
	section {
		margin-bottom: 0.5rem;
	}
	h2 {
		margin: 0;
		padding: 0.5rem 0.75rem;
		font-size: 1.125rem;
	}
	ul {
		list-style: none;
		margin: 0;
		padding: 0;
	}
	li {
		display: flex;
		flex-wrap: wrap;
		justify-content: flex-end;
		gap: 0.75rem;
		align-items: center;
		padding: 0.6rem 0.75rem;
		border-top: 1px solid var(--rule);
	}
	.mark {
		flex: 0 0 1.5rem;
		height: 1.5rem;
		border: 2px solid var(--rule);
		text-align: center;
		line-height: 1.3rem;
		color: var(--green);
		font-weight: 600;
	}
	.what {
		flex: 1;
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 0.75rem;
		align-items: center;
		min-width: 0;
	}
	.qty {
		font-weight: 600;
		white-space: nowrap;
	}
	.state {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 0.5rem;
		align-items: center;
		justify-content: flex-end;
		text-align: right;
	}
	li.done .qty,
	h2.done {
		color: var(--ink-soft);
	}
</style>
