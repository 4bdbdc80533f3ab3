<script lang="ts">
	import { Table, TableBody, TableCell, TableRow } from 'carbon-components-svelte';
	import { daysBetween } from '$lib/core/dates/dates';
	import { showWhen, showDay } from '$lib/ui/dates';
	import { amount } from '$lib/core/quantity/quantity';
	import { grouped } from '$lib/core/quantity/sign';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
	const due = (d: string | null) =>
		!d ? '' : d === data.today ? 'today' : d < data.today ? `${daysBetween(d, data.today)} d late` : showDay(d);
	const left = (d: string) =>
		d < data.today ? 'expired' : d === data.today ? 'today' : `${daysBetween(data.today, d)} d`;
</script>

<svelte:head><title>Today · Earmark</title></svelte:head>
<div class="head">
	<h1>Today</h1>
	<span class="soft">{showDay(data.today)}</span>
</div>
{#if data.empty}<p class="empty">
		Nothing is booked yet. Begin in <a href="/setup/items">Setup</a> with items, places and partners; then
		<a href="/inbound/new">enter a delivery</a>.
	</p>{/if}
{#if data.units}<p class="waits">
		<a href="/production/review">{grouped(data.units)} {data.units === 1 ? 'unit waits' : 'units wait'} to be booked</a
		>: all their parts are in.
	</p>{/if}
<div class="three">
	{#each data.groups as g (g.path)}
		<section class="panel">
			<h2>
				<a href={g.path}>{g.title}</a>
				<span class="soft">{g.rows.length} of {grouped(g.all)} open</span>
			</h2>
			{#each g.rows as o (o.id)}
				<a class="job" href="{g.path}/{encodeURIComponent(o.code ?? '')}">
					<span class="mono">{o.code}</span><span class="due" class:late={o.late === 'true'}>{due(o.due)}</span>
					<span class="what">{o.who ? `${o.who}: ` : ''}{o.content}</span>
					{#if o.state !== 'open'}<span class="state">{o.state}</span>{/if}
				</a>
			{:else}<p class="soft none">Nothing waits.</p>{/each}
		</section>
	{/each}
</div>
<div class="two">
	<section class="panel">
		<h2>
			<a href="/register?show=held">Not released</a>
			<span class="soft">{data.stopped.length}{data.stopped.length > 6 ? ', the first six' : ''}</span>
		</h2>
		<Table size="short">
			<TableBody>
				{#each data.stopped.slice(0, 6) as s (s.id)}<TableRow
						><TableCell><Tag kind={s.kind} number={s.number} id={s.id} status={s.status} /></TableCell><TableCell
							>{s.itemName}</TableCell
						><TableCell class="num">{amount(s.qty, s.unit)}</TableCell><TableCell class="mono">{s.places}</TableCell
						></TableRow
					>
				{:else}<TableRow><TableCell class="soft">Everything on hand is released.</TableCell></TableRow>{/each}
			</TableBody>
		</Table>
	</section>
	<section class="panel">
		<h2>
			<a href="/register?show=expiring">Expires soon</a> <span class="soft">{data.expiring.length}</span>
		</h2>
		<Table size="short">
			<TableBody>
				{#each data.expiring.slice(0, 8) as s (s.id)}<TableRow
						><TableCell><Tag kind={s.kind} number={s.number} id={s.id} /></TableCell><TableCell>{s.itemName}</TableCell
						><TableCell class="num">{amount(s.qty, s.unit)}</TableCell><TableCell class="mono">{s.places}</TableCell
						><TableCell class="num">{left(s.expiresOn!)}</TableCell></TableRow
					>
				{:else}<TableRow><TableCell class="soft">Nothing does.</TableCell></TableRow>{/each}
			</TableBody>
		</Table>
	</section>
</div>
<section class="panel">
	<h2><a href="/events">Last booked</a></h2>
	<Table size="short" aria-label="Last booked">
		<TableBody>
			{#each data.last as e (e.id)}<TableRow
					><TableCell>{e.recorded && showWhen(e.recorded)}</TableCell><TableCell
						>{e.kind}{e.undone ? ', undone' : ''}</TableCell
					><TableCell class="mono">{e.document ?? ''}</TableCell><TableCell>{e.partner ?? ''}</TableCell><TableCell
						>{e.by}</TableCell
					></TableRow
				>{:else}<TableRow><TableCell class="soft">Nothing yet.</TableCell></TableRow>{/each}
		</TableBody>
	</Table>
</section>

<style>
	.waits {
		margin: 0 0 0.75rem;
	}
	.three,
	.two {
		display: grid;
		grid-template-columns: repeat(3, minmax(0, 1fr));
		gap: 0.75rem;
		margin-bottom: 0.75rem;
	}
	.two {
		grid-template-columns: repeat(2, minmax(0, 1fr));
	}
	section {
		padding: 0.6rem 0;
		overflow: hidden;
	}
	h2 {
		padding: 0 0.75rem;
		margin-bottom: 0.25rem;
	}
	h2 a {
		color: var(--ink);
		text-decoration: none;
	}
	h2 .soft {
		font-weight: 400;
	}
	.job {
		display: grid;
		grid-template-columns: minmax(0, 1fr) auto;
		padding: 0.35rem 0.75rem;
		border-top: 1px solid var(--rule);
		color: var(--ink);
		text-decoration: none;
	}
	.job:hover {
		background: var(--amber-soft);
	}
	.what {
		grid-column: 1;
		color: var(--ink-soft);
		font-size: 0.8125rem;
		overflow: hidden;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.state,
	.due {
		text-align: right;
	}
	.state {
		font-size: 0.8125rem;
		color: var(--amber-ink);
	}
	.due {
		font-size: 0.8125rem;
	}
	.late {
		color: var(--red);
	}
	.none {
		margin: 0;
		padding: 0.35rem 0.75rem;
	}
	@media (max-width: 640px) {
		.three,
		.two {
			grid-template-columns: 1fr;
		}
	}
</style>
