<script lang="ts">
	import { createVirtualizer } from '@tanstack/svelte-virtual';
	import { replaceState } from '$app/navigation';
	import { get } from 'svelte/store';
	import { amount } from '$lib/core/quantity/quantity';
	import Tag from '$lib/ui/tag/Tag.svelte';

	let { data } = $props();
	type Filter = typeof data.filter;
	// svelte-ignore state_referenced_locally
	let filter = $state<Filter>({ ...data.filter });
	// svelte-ignore state_referenced_locally
	let rows = $state.raw(data.rows);
	// svelte-ignore state_referenced_locally
	let count = $state(data.count);
	let said = $state('');
	let loading = false;
	let asked = 0;
	let scroller = $state<HTMLDivElement>();
	const HEIGHT = 32;

	const virtual = createVirtualizer<HTMLDivElement, HTMLDivElement>({
		count: 0,
		getScrollElement: () => scroller ?? null,
		estimateSize: () => HEIGHT,
		overscan: 12
	});
	$effect(() => {
		get(virtual).setOptions({ count: rows.length, getScrollElement: () => scroller ?? null });
	});
	$effect(() => {
		const items = $virtual.getVirtualItems();
		const last = items[items.length - 1];
		if (last && last.index > rows.length - 60 && rows.length < count) more();
	});
	// A link to another filter of this page brings new data.
	let shown = '';
	$effect(() => {
		const next = JSON.stringify(data.filter);
		if (shown && shown !== next) {
			filter = { ...data.filter };
			rows = data.rows;
			count = data.count;
		}
		shown = next;
	});
	const query = (f: Filter) => new URLSearchParams(Object.entries(f).filter(([, v]) => v) as [string, string][]);

	async function ask(extra: Record<string, string> = {}) {
		const answer = await fetch(
			`/register/rows?${new URLSearchParams({ ...Object.fromEntries(query(filter)), ...extra })}`,
			{ headers: { accept: 'application/json' } }
		);
		if (!answer.ok) {
			said =
				answer.status === 401
					? 'Your session has ended. Reload the page to sign in again.'
					: 'The register could not be read. Try again.';
			return null;
		}
		said = '';
		return answer.json();
	}
	async function more() {
		if (loading) return;
		loading = true;
		const [last, mine] = [rows[rows.length - 1], asked];
		const given = await ask({ afterNumber: last.number, afterId: last.id });
		if (given && mine === asked) rows = [...rows, ...given.rows];
		loading = false;
	}
	let timer: ReturnType<typeof setTimeout>;
	function changed(wait = 0) {
		clearTimeout(timer);
		timer = setTimeout(async () => {
			const mine = ++asked;
			replaceState(`/register?${query(filter)}`, {});
			const given = await ask();
			if (!given || mine !== asked) return;
			rows = given.rows;
			count = given.count;
			scroller?.scrollTo(0, 0);
		}, wait);
	}
	const views = [
		['', 'All'],
		['on hand', 'On hand'],
		['gone', 'Not here'],
		['held', 'Stopped'],
		['expiring', 'Expiring in 30 days']
	] as const;
</script>

<svelte:head><title>Register · Earmark</title></svelte:head>
<div class="head">
	<h1>Register</h1>
	<span class="soft" role="status">{count.toLocaleString('en')} numbers{said ? ` · ${said}` : ''}</span>
</div>
<div class="fields">
	<label class="field"
		>Find<input
			class="plain mono"
			data-first
			bind:value={filter.q}
			oninput={() => changed(120)}
			placeholder="number, supplier’s lot or item"
			size="28"
			maxlength="100"
			autocomplete="off"
			spellcheck="false"
		/></label
	>
	<label class="field"
		>Item<select class="plain" bind:value={filter.item} onchange={() => changed()}
			><option value={undefined}>every item</option>{#each data.items as i (i.code)}<option value={i.code}
					>{i.name}</option
				>{/each}</select
		></label
	>
	<label class="field"
		>Place<select class="plain" bind:value={filter.place} onchange={() => changed()}
			><option value={undefined}>every place</option>{#each data.places as p (p)}<option value={p}>{p}</option
				>{/each}</select
		></label
	>
	<label class="field"
		>Lots or serials<select class="plain" bind:value={filter.kind} onchange={() => changed()}
			><option value={undefined}>both</option><option value="lot">lots</option><option value="serial">serials</option
			></select
		></label
	>
	<label class="field"
		>Which<select class="plain" bind:value={filter.show} onchange={() => changed()}
			>{#each views as [value, label] (value)}<option value={value || undefined}>{label}</option>{/each}</select
		></label
	>
</div>
<div class="table" role="table" aria-label="Lots and serials" aria-rowcount={count}>
	<div class="row headings" role="row">
		<span role="columnheader">Number</span><span role="columnheader">Item</span><span role="columnheader">Lot</span
		><span role="columnheader" class="num">On hand</span><span role="columnheader">Where</span><span role="columnheader"
			>Expires</span
		><span role="columnheader">Supplier’s lot</span>
	</div>
	<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
	<div class="scroller" bind:this={scroller} tabindex="0" role="rowgroup" aria-label="Rows">
		<div style="height:{$virtual.getTotalSize()}px;position:relative" role="presentation">
			{#each $virtual.getVirtualItems() as v (v.index)}
				{@const r = rows[v.index]}
				{#if r}
					<div class="row" role="row" aria-rowindex={v.index + 1} style="transform:translateY({v.start}px)">
						<span role="cell"
							><Tag
								kind={r.kind}
								number={r.number}
								id={r.id}
								status={r.status}
								expiresOn={r.state === 'on hand' ? r.expiresOn : null}
							/></span
						>
						<span role="cell" title={r.item}>{r.itemName}</span>
						<span role="cell" class="mono">{r.lot ?? ''}</span>
						<span role="cell" class="num">{r.qty === '0' ? '–' : `${amount(r.qty, r.unit)}`}</span>
						<span role="cell"
							>{#if r.places}<span class="mono">{r.places}</span>{:else}<span class="soft">{r.state}</span>{/if}</span
						>
						<span role="cell">{r.expiresOn ?? '–'}</span>
						<span role="cell" class="mono">{r.supplierLot ?? ''}</span>
					</div>
				{/if}
			{/each}
		</div>
		{#if !rows.length}<p class="soft none">Nothing fits. Take a filter away, or type less.</p>{/if}
	</div>
</div>

<style>
	.table {
		margin-top: 0.75rem;
		background: var(--paper);
		border: 1px solid var(--rule);
	}
	.scroller {
		height: calc(100vh - 260px);
		min-height: 240px;
		overflow: auto;
	}
	.row {
		display: grid;
		grid-template-columns: minmax(14rem, 1.6fr) minmax(9rem, 1.4fr) 8rem 7rem minmax(8rem, 1fr) 6.5rem 8rem;
		gap: 0.75rem;
		align-items: center;
		height: 32px;
		padding: 0 0.75rem;
		border-bottom: 1px solid var(--rule);
		box-sizing: border-box;
		white-space: nowrap;
	}
	.row > span {
		overflow: hidden;
		text-overflow: ellipsis;
	}
	.scroller .row {
		position: absolute;
		inset: 0 0 auto 0;
	}
	.scroller .row:hover {
		background: color-mix(in srgb, var(--tag) 45%, transparent);
	}
	.headings {
		font-size: 0.8125rem;
		color: var(--ink-soft);
		font-weight: 500;
	}
	.none {
		padding: 0 0.75rem;
	}
	@media (max-width: 640px) {
		.row {
			grid-template-columns: 1.5fr 1fr;
		}
		.row > span:nth-child(n + 3) {
			display: none;
		}
		.row > span:nth-child(4) {
			display: inline;
		}
		.row > span:nth-child(2) {
			display: none;
		}
	}
</style>
