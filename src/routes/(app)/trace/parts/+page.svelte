<script lang="ts">
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { MOST_LEVELS, type Level } from '$lib/core/parts/levels';
	import { amount, isZero } from '$lib/core/quantity/quantity';
	import Tag from '$lib/ui/tag/Tag.svelte';
	import Quantity from '$lib/ui/fields/Quantity.svelte';
	import Seek from '$lib/ui/fields/Seek.svelte';
	let { data } = $props();
	const found = $derived(data.found);
	const beside = $derived(data.beside);
	const known = $derived(new Map(data.items.map((i) => [i.code, i])));
	const of = (code: string) => known.get(code) ?? { code, name: code, unit: '' };
	const signed = (qty: string, unit: string) =>
		qty.startsWith('-') ? `−${amount(qty.slice(1), unit)}` : `+${amount(qty, unit)}`;
	const link = (code: string) => `/trace/parts?item=${encodeURIComponent(code)}`;
</script>

<svelte:head><title>Parts lists · Earmark</title></svelte:head>
<div class="head">
	<h1>Parts lists</h1>
	<span class="push acts"><Button kind="ghost" size="small" href="/trace/contents">Parts in units</Button></span>
</div>
{#key data.code}
	<form class="fields" action="/trace/parts">
		<Seek label="Item" name="item" options={data.items.map((i) => [i.code, i.name])} value={data.code} ch={24} />
		<Quantity label="How many" name="qty" value={data.typed} ch={8} />
		<Button kind="tertiary" size="small" type="submit">Show</Button>
	</form>
{/key}
{#if data.said}<p role="status">{data.said}</p>{/if}

{#snippet rows(levels: Level[], up: boolean)}
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>{up ? 'Goes into' : 'Part'}</TableHeader><TableHeader>Name</TableHeader><TableHeader class="num"
					>{up ? 'Of the line above' : 'In one of the line above'}</TableHeader
				><TableHeader class="num">{up ? `${found?.item.name ?? ''} in one` : 'In all'}</TableHeader></TableRow
			></TableHead
		>
		<TableBody>
			{#each levels as l, n (n)}<TableRow
					><TableCell
						><span class="level" style:--level={l.level - 1}><a class="mono" href={link(l.item)}>{l.item}</a></span
						></TableCell
					><TableCell>{of(l.item).name}</TableCell><TableCell class="num"
						>{amount(l.qty, of(up ? l.of : l.item).unit)}</TableCell
					><TableCell class="num"
						>{up ? amount(l.total, found?.item.unit ?? '') : amount(l.total, of(l.item).unit)}</TableCell
					></TableRow
				>{/each}
		</TableBody>
	</Table>
{/snippet}

{#if beside}
	<section aria-labelledby="beside">
		<h2 id="beside">
			What went into <Tag kind={beside.kind} number={beside.number} id={beside.id} /> beside its parts list
		</h2>
		<p class="soft">
			The parts list as it is today, for the {amount(beside.qty, beside.unit)} that were made; and what is recorded, of a
			batch the share that belongs to it.
		</p>
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Part</TableHeader><TableHeader>Name</TableHeader><TableHeader class="num">Planned</TableHeader
					><TableHeader class="num">Went in</TableHeader><TableHeader class="num">Difference</TableHeader><TableHeader
						class="num">Numbers</TableHeader
					></TableRow
				></TableHead
			>
			<TableBody>
				{#each beside.rows as l, n (n)}{@const unit = of(l.item).unit}
					<TableRow
						><TableCell
							><span class="level" style:--level={l.level - 1}><a class="mono" href={link(l.item)}>{l.item}</a></span
							></TableCell
						><TableCell>{of(l.item).name}</TableCell><TableCell class="num"
							>{l.planned === null ? 'not planned' : amount(l.planned, unit)}</TableCell
						><TableCell class="num">{l.real === null ? 'nothing recorded' : amount(l.real, unit)}</TableCell><TableCell
							class="num">{l.more === null ? '' : isZero(l.more) ? '–' : signed(l.more, unit)}</TableCell
						><TableCell class="num">{l.numbers || ''}</TableCell></TableRow
					>{:else}<TableRow
						><TableCell colspan={6} class="soft">Nothing is recorded of what went in.</TableCell></TableRow
					>{/each}
			</TableBody>
		</Table>
		{#if beside.cut}<p role="status">It was reworked so often that only the first levels are shown.</p>{/if}
	</section>
{/if}
{#if found}
	<section aria-labelledby="down">
		<h2 id="down">
			What goes into {amount(found.qty, found.item.unit)} of {found.item.name}
		</h2>
		{#if found.down.length}{@render rows(found.down, false)}
			<h3>What is needed in all, of what is not made here</h3>
			<Table size="short">
				<TableHead
					><TableRow
						><TableHeader>Part</TableHeader><TableHeader>Name</TableHeader><TableHeader class="num">In all</TableHeader
						></TableRow
					></TableHead
				>
				<TableBody>
					{#each found.needed as [code, qty] (code)}<TableRow
							><TableCell><a class="mono" href={link(code)}>{code}</a></TableCell><TableCell>{of(code).name}</TableCell
							><TableCell class="num">{amount(qty, of(code).unit)}</TableCell></TableRow
						>{/each}
				</TableBody>
			</Table>
		{:else}<p class="soft">It has no parts list. One is kept with the item in Setup.</p>{/if}
		<p class="on">
			<a href="/trace/contents?item={encodeURIComponent(found.item.code)}">What really went into it</a>
		</p>
	</section>
	<section aria-labelledby="up">
		<h2 id="up">What {found.item.name} goes into</h2>
		{#if found.up.length}{@render rows(found.up, true)}
			<p class="on">
				<a href="/trace/contents?partItem={encodeURIComponent(found.item.code)}">What it really went into</a>
			</p>
		{:else}<p class="soft">It is in no parts list.</p>{/if}
	</section>
	{#if found.cut}<p role="status">Only the first {MOST_LEVELS} lines are shown. Look at a part by itself.</p>{/if}
{/if}

<style>
	.level {
		padding-left: calc(var(--level) * 1.25rem);
	}
	.on {
		margin-top: 0.75rem;
	}
	section {
		margin-top: 1rem;
	}
	h3 {
		margin-top: 0.75rem;
		font-size: inherit;
		font-weight: 600;
	}
</style>
