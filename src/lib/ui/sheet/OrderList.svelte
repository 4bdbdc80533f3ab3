<script lang="ts">
	// Expected deliveries, production orders, orders to ship: one table, one way to find.
	import { showDay } from '$lib/core/dates/dates';
	import { documentKind, documentPath, type Kind } from '$lib/core/document/kinds';
	interface Row {
		code: string;
		partnerName: string | null;
		jobName: string | null;
		place: string | null;
		dueOn: string | null;
		closedAt: string | null;
		lines: number;
		content: string;
		started: boolean;
		drafts: number;
	}
	interface Props {
		kind: Kind;
		rows: Row[];
		q: string;
		closed: boolean;
		mayAdd: boolean;
		today: string;
	}
	let { kind, rows, q, closed, mayAdd, today }: Props = $props();
	const row = $derived(documentKind(kind));
	const title = $derived(row.words.list);
	const add = $derived(mayAdd ? { url: `${row.path}/new`, label: row.words.add } : null);
	const who = $derived(row.job ? 'Job' : row.partner?.label);
	const due = (r: Row) => (!r.dueOn ? '–' : r.dueOn === today ? 'today' : r.dueOn);
</script>

<svelte:head><title>{title} · Earmark</title></svelte:head>
<div class="head">
	<h1>{title}</h1>
	<form class="fields" role="search">
		<input
			class="plain"
			name="q"
			defaultValue={q}
			placeholder="Find an order, {row.job ? 'job' : 'partner'} or item"
			size="28"
			aria-label="Find"
		/>{#if closed}<input type="hidden" name="closed" value="1" />{/if}
	</form>
	<nav class="which" aria-label="Which orders">
		<a href={row.path} aria-current={!closed}>Open</a><a href="{row.path}?closed=1" aria-current={closed}>Complete</a>
	</nav>
	{#if add}<a class="push" href={add.url}>{add.label}</a>{/if}
</div>
{#if rows.length}
	<table class="rows">
		<thead
			><tr
				><th>Order</th>{#if who}<th>{who}</th>{/if}<th>What</th><th>Place</th><th>{closed ? 'Complete' : row.due}</th
				><th>State</th></tr
			></thead
		>
		<tbody>
			{#each rows as r (r.code)}
				<tr class:late={!closed && r.dueOn && r.dueOn < today}>
					<td><a class="mono" href={documentPath(kind, r.code)}>{r.code}</a></td>
					{#if who}<td>{(row.job ? r.jobName : r.partnerName) ?? '–'}</td>{/if}
					<td class="what" title={r.content}>{r.content}</td>
					<td class="mono">{r.place ?? '–'}</td>
					<td title={r.dueOn ? showDay(r.dueOn) : ''}
						>{closed ? r.closedAt : due(r)}{#if !closed && r.dueOn && r.dueOn < today}<span class="soft">
								overdue</span
							>{/if}</td
					>
					<td
						>{closed
							? 'complete'
							: r.drafts
								? 'being entered'
								: r.started
									? 'partly booked'
									: row.fromSupplier
										? 'expected'
										: 'open'}</td
					>
				</tr>
			{/each}
		</tbody>
	</table>
{:else}
	<p class="empty">
		{q
			? `No order has “${q}” in its number, partner or items.`
			: closed
				? 'Nothing is complete yet.'
				: 'Nothing is open here.'}{#if add && !closed}&nbsp;<a href={add.url}>{add.label}</a>{/if}
	</p>
{/if}

<style>
	.which a {
		margin-right: 0.75rem;
		color: var(--ink-soft);
		text-decoration: none;
	}
	.which a[aria-current='true'] {
		color: var(--ink);
		font-weight: 600;
		border-bottom: 2px solid var(--amber);
	}
	.what {
		max-width: 26rem;
		overflow: hidden;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.late td:nth-last-child(2) {
		color: var(--red);
	}
</style>
