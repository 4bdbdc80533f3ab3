<script lang="ts">
	import { showWhen } from '$lib/core/dates/dates';
	import { show } from '$lib/core/quantity/quantity';
	import { unitWord } from '$lib/core/quantity/units';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import DayField from '$lib/ui/fields/DayField.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import { page } from '$app/state';
	import { goto } from '$app/navigation';
	import { KNOWN_BY, sayKnown } from '$lib/core/ledger/evidence';
	import { group } from '$lib/core/group/group';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import Stages from '$lib/ui/trace/Stages.svelte';
	import Tree from '$lib/ui/trace/Tree.svelte';
	import WhereTable from '$lib/ui/trace/WhereTable.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	import Findings from '$lib/ui/sheet/Findings.svelte';

	let { data } = $props();
	const view = $derived(data.view);
	const marks = $derived(new Map(view?.marks.map((m) => [m.id, m])));
	const root = $derived(view ? marks.get(view.root)! : null);
	const link = (changes: Record<string, string | null>) => {
		const p = new URLSearchParams(page.url.searchParams);
		for (const [k, v] of Object.entries(changes)) {
			if (v) p.set(k, v);
			else p.delete(k);
		}
		return `/trace?${p}`;
	};
	const tab = $derived(page.url.searchParams.get('tab') ?? (data.direction === 'forward' ? 'where' : 'numbers'));
	const customers = $derived(
		view
			? [
					...group(
						view.where.filter((w) => w.state === 'shipped'),
						(w) => w.at ?? 'not named'
					)
				]
			: []
	);
	const shown: Record<string, string> = {
		'on hand': 'On hand',
		shipped: 'With customers',
		scrapped: 'Scrapped',
		adjusted: 'Adjusted away',
		'sent back': 'Sent back to suppliers',
		'in process': 'In process',
		unmarked: 'In stock without numbers'
	};
	const known = $derived(view ? sayKnown(view.known) : '');
	const proof = $derived(
		!view
			? ''
			: view.pooled === 0
				? 'proven piece by piece: everything on the way was made one by one'
				: view.exact === 0
					? `proven by batch: ${view.pooled} ${view.pooled === 1 ? 'batch' : 'batches'} made many pieces at once`
					: `proven piece by piece in ${view.exact} runs, by batch in ${view.pooled}`
	);
</script>

<svelte:head><title>{root ? `Trace ${data.direction}: ${root.number}` : 'Trace'} · Earmark</title></svelte:head>
{#if !view || !root}
	<div class="head">
		<h1>Trace</h1>
		<span class="push acts"
			><Button kind="ghost" size="small" href="/trace/parts">Parts lists</Button>
			<Button kind="ghost" size="small" href="/trace/contents">What is in what</Button></span
		>
	</div>
	<form class="fields" action="/trace">
		<Text label="Lot or serial" mono ch={28} name="q" value={data.typed} data-first maxlength="200" />
		<Button kind="tertiary" size="small" type="submit" name="direction" value="back">Trace back</Button>
		<Button kind="tertiary" size="small" type="submit" name="direction" value="forward">Trace forward</Button>
	</form>
	{#if data.said}
		<p role="status">{data.said}</p>
		{#each data.hits as h (h.id)}<p>
				<a class="mono" href="/trace?mark={h.id}&direction={data.direction}">{h.label}</a>
				<span class="soft">{h.detail}</span>
			</p>{/each}
	{:else}<p class="soft">
			Back leads to the suppliers’ lots, forward to everyone who got some of it. A trace also starts from a lot’s or
			serial’s page.
		</p>{/if}
{:else}
	<div class="head">
		<h1>Trace {data.direction}</h1>
		<Tag
			kind={root.kind}
			number={root.number}
			id={root.id}
			qty={view.rootQty ? `${show(view.rootQty)} ${unitWord(view.unit)}` : null}
			status={root.status}
			expiresOn={root.expiresOn}
		/>
		<span class="soft">{root.itemName}{view.roots > 1 ? ` and the ${view.roots - 1} serials of this lot` : ''}</span>
	</div>
	<Faults faults={data.said ? [{ message: data.said }] : []} />
	<div class="bar">
		<span class="pair"
			><a href={link({ direction: 'back', tab: null, since: null })} aria-current={data.direction === 'back'}>Back</a><a
				href={link({ direction: 'forward', tab: null })}
				aria-current={data.direction === 'forward'}>Forward</a
			></span
		>
		{#if data.direction === 'forward'}
			<DayField
				label="from"
				value={data.asked.since}
				placeholder="its first day"
				onday={(day) => goto(link({ since: day || null }))}
			/>
		{/if}
		<DayField
			label="as of"
			value={data.asked.asOf}
			placeholder="now"
			onday={(day) => goto(link({ asOf: day || null }))}
		/>
		<span class="soft">{view.levels} levels · {view.reached.length} numbers · {proof}</span>
		{#if known}<span class:soft={!view.known.accepted}>{known}</span>{/if}
		<span class="push"
			>{#if data.direction === 'back'}<a href="/trace/parts?mark={view.root}">Beside the parts list</a>{/if}<a
				href="/trace/report?mark={view.root}&direction={data.direction}&since={data.asked.since}&asOf={data.asked.asOf}"
				>Report (PDF)</a
			><a
				href="/trace/csv?mark={view.root}&direction={data.direction}&part=numbers&since={data.asked.since}&asOf={data
					.asked.asOf}">Numbers as CSV</a
			>
			{#if data.direction === 'forward'}<a
					href="/trace/csv?mark={view.root}&direction=forward&part=where&since={data.asked.since}&asOf={data.asked
						.asOf}">Where it is now as CSV</a
				>{/if}</span
		>
	</div>
	{#if data.direction === 'forward'}
		<div class="proof panel">
			<Stages {view} />
			<aside>
				<span class="soft">Accounted for</span>
				<b class="big" class:broken={view.accounted === false}
					>{view.accounted === null ? '–' : view.accounted ? '100 %' : 'not all'}</b
				>
				<Table size="short">
					<TableBody>
						<TableRow
							><TableCell>Start</TableCell><TableCell class="num"
								><b>{view.rootQty ? show(view.rootQty) : ''} {unitWord(view.unit)}</b></TableCell
							></TableRow
						>
						{#each view.balance as b (b.state)}<TableRow
								><TableCell>{shown[b.state] ?? b.state}</TableCell><TableCell class="num">{show(b.content)}</TableCell
								></TableRow
							>{/each}
					</TableBody>
				</Table>
				{#if view.accounted === false}<p>
						<Findings
							findings={[
								{ code: 'content', level: 'stop', message: 'The quantities do not add up. Tell your administrator.' }
							]}
						/>
					</p>{/if}
			</aside>
		</div>
	{/if}
	<nav class="tabs" aria-label="Parts of the answer">
		{#if data.direction === 'forward'}<a
				href={link({ tab: 'where' })}
				aria-current={tab === 'where'}
				data-sveltekit-noscroll>Where it is now · {view.where.length}</a
			>{/if}
		<a href={link({ tab: 'numbers' })} aria-current={tab === 'numbers'} data-sveltekit-noscroll
			>By generation · {view.reached.length}</a
		>
		{#if data.direction === 'forward'}<a
				href={link({ tab: 'customers' })}
				aria-current={tab === 'customers'}
				data-sveltekit-noscroll>By customer · {customers.length}</a
			>{:else}
			<a href={link({ tab: 'suppliers' })} aria-current={tab === 'suppliers'} data-sveltekit-noscroll
				>Suppliers · {view.suppliers.length}</a
			>{/if}
		<a href={link({ tab: 'gaps' })} aria-current={tab === 'gaps'} data-sveltekit-noscroll>Gaps · {view.gaps.length}</a>
		{#if view.formerly.length}<a
				href={link({ tab: 'formerly' })}
				aria-current={tab === 'formerly'}
				data-sveltekit-noscroll>Formerly inside · {view.formerly.length}</a
			>{/if}
	</nav>
	{#if tab === 'where'}<WhereTable rows={view.where} {marks} unit={view.unit} root={root.number} />
	{:else if tab === 'numbers'}<Tree {view} {marks} />
	{:else if tab === 'customers'}
		{#each customers as [name, rows] (name)}<h2>{name}</h2>
			<WhereTable {rows} {marks} unit={view.unit} root={root.number} />{:else}<p class="empty">
				No customer has any of it.
			</p>{/each}
	{:else if tab === 'suppliers'}
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Supplier</TableHeader><TableHeader>Number</TableHeader><TableHeader>Item</TableHeader
					><TableHeader>Document</TableHeader><TableHeader>Known by</TableHeader><TableHeader>Received</TableHeader
					><TableHeader class="num">Quantity</TableHeader></TableRow
				></TableHead
			>
			<TableBody>
				{#each view.suppliers as s, i (i)}{@const m = marks.get(s.mark)!}
					<TableRow
						><TableCell data-label="Supplier">{s.partner}</TableCell><TableCell
							><Tag kind={m.kind} number={m.number} id={m.id} status={m.status} /></TableCell
						><TableCell data-label="Item">{m.itemName}</TableCell><TableCell class="mono" data-label="Document"
							>{s.document ?? '–'}</TableCell
						><TableCell data-label="Known by">{KNOWN_BY[s.known ?? 'unknown']}</TableCell><TableCell
							data-label="Received">{showWhen(s.at)}</TableCell
						><TableCell class="num" data-label="Quantity">{show(s.qty)} {unitWord(m.unit)}</TableCell></TableRow
					>
				{:else}<TableRow
						><TableCell colspan={7} class="soft">Nothing in it was received from a supplier.</TableCell></TableRow
					>{/each}
			</TableBody>
		</Table>
	{:else if tab === 'formerly'}
		<p>
			Was in it once and was taken out: {#each view.formerly as id (id)}{@const m = marks.get(id)!}<Tag
					kind={m.kind}
					number={m.number}
					{id}
					item={m.itemName}
				/>&nbsp;{/each}
		</p>
	{:else if view.gaps.length}
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>What</TableHeader><TableHeader>Of</TableHeader><TableHeader class="num">Quantity</TableHeader
					><TableHeader>Run</TableHeader><TableHeader>Document</TableHeader></TableRow
				></TableHead
			>
			<TableBody>
				{#each view.gaps as g, i (i)}{@const m = g.mark ? marks.get(g.mark) : null}
					<TableRow
						><TableCell>{g.what}</TableCell><TableCell
							>{#if m}<Tag kind={m.kind} number={m.number} id={m.id} />
								<span class="soft">{m.itemName}</span>{/if}</TableCell
						><TableCell class="num" data-label="Quantity">{show(g.qty)}</TableCell><TableCell
							class="mono"
							data-label="Run">{g.run ?? ''}</TableCell
						><TableCell class="mono" data-label="Document">{g.document ?? ''}</TableCell></TableRow
					>
				{/each}
			</TableBody>
		</Table>
	{:else}<p class="empty">No gap: every step is proven, and nothing was booked without a look at it.</p>{/if}
{/if}

<style>
	.bar {
		display: flex;
		flex-wrap: wrap;
		gap: 0.5rem 1rem;
		align-items: center;
		margin-bottom: 0.75rem;
	}
	.push {
		margin-left: auto;
		display: flex;
		gap: 1rem;
	}
	.pair {
		display: flex;
		border: 1px solid var(--tag-rule);
	}
	.pair a {
		padding: 0.3rem 0.9rem;
		text-decoration: none;
		color: var(--ink);
		background: var(--paper);
	}
	.pair a[aria-current='true'] {
		background: var(--ink);
		color: var(--paper);
	}
	.proof {
		display: grid;
		grid-template-columns: 1fr 15.5rem;
		margin-bottom: 0.75rem;
	}
	aside {
		padding: 0.6rem 0.75rem;
		border-left: 1px solid var(--rule);
	}
	.big {
		display: block;
		font-size: 1.75rem;
		font-weight: 600;
		line-height: 1.2;
		color: var(--green);
	}
	.big.broken {
		color: var(--red);
	}
	@media (max-width: 640px) {
		.proof {
			grid-template-columns: 1fr;
		}
	}
</style>
