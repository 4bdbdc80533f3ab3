<script lang="ts">
	// What lies with fewer numbers than its item carries, bin by bin: each bin becomes a document of its own.
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { documentPath } from '$lib/core/document/kinds';
	import { group } from '$lib/core/group/group';
	import { amount } from '$lib/core/quantity/quantity';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data, form } = $props();
	const items = $derived([...group(data.bare, (b) => b.item)]);
</script>

<svelte:head><title>Number what lies there · Earmark</title></svelte:head>
<div class="head"><h1>Number what lies there</h1></div>
<Said {form} />
{#each items as [item, bins] (item)}
	<section class="panel" aria-label={item}>
		<div class="head">
			<h2>{bins[0].itemName} <span class="soft mono">{item}</span></h2>
			{#if bins.some((b) => !b.order)}<form class="push" method="POST">
					<Hidden name="item" value={item} />
					<Button type="submit" size="small">Number it bin by bin<span class="visually-hidden">: {item}</span></Button>
				</form>{/if}
		</div>
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Lies at</TableHeader><TableHeader>Number so far</TableHeader><TableHeader class="num"
						>How much</TableHeader
					><TableHeader>Is being numbered</TableHeader></TableRow
				></TableHead
			>
			<TableBody>
				{#each bins as b (b.place + b.mark)}<TableRow
						><TableCell class="mono" data-label="Lies at">{b.place}</TableCell><TableCell data-label="Number so far"
							>{#if b.lot}<Tag kind="lot" number={b.lot} id={b.mark} />{:else}none{/if}</TableCell
						><TableCell class="num" data-label="How much">{amount(b.qty, b.unit)}</TableCell><TableCell
							data-label="Is being numbered"
							>{#if b.order}<a class="mono" href={documentPath('numbering', b.order)}>{b.order}</a
								>{:else}–{/if}</TableCell
						></TableRow
					>{/each}
			</TableBody>
		</Table>
	</section>
{:else}<p class="soft">Everything that lies there has the numbers that its item carries.</p>{/each}

<style>
	section {
		margin-bottom: 0.75rem;
		padding: 0.5rem 0.75rem;
	}
</style>
