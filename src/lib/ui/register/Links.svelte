<script lang="ts">
	import { Button, Table, TableBody, TableCell, TableRow } from 'carbon-components-svelte';
	import { amount } from '$lib/core/quantity/quantity';
	import Tag from '../tag/Tag.svelte';
	interface Link {
		id: string;
		kind: 'lot' | 'serial' | 'unmarked';
		number: string | null;
		item: string;
		itemName: string;
		unit: string;
		qty: string;
		run: string;
		pooled: boolean;
		role: string;
	}
	interface Props {
		title: string;
		/** as many as are shown, and whether there are more */
		of: { links: Link[]; more: boolean };
		none: string;
		/** where more of it is said */
		more?: { href: string; label: string };
	}
	let { title, of, none, more }: Props = $props();
	const links = $derived(of.links);
	const MOST = 8;
	let all = $state(false);
	const taken = (l: Link) => l.role === 'detach';
</script>

<section class="panel">
	<h2>
		{title} <span class="soft">{links.length || ''}{of.more ? ' and more' : ''}</span>{#if more && links.length}<a
				class="more"
				href={more.href}>{more.label}</a
			>{/if}
	</h2>
	{#if links.length}
		<Table size="short">
			<TableBody>
				{#each all ? links : links.slice(0, MOST) as l (l.id + l.run + l.role)}
					<TableRow>
						<TableCell><Tag kind={l.kind} number={l.number ?? ''} id={l.id} item={l.itemName} /></TableCell>
						<TableCell>{l.itemName}</TableCell>
						<TableCell class="num">{l.qty === '0' ? 'in work' : `${amount(l.qty, l.unit)}`}</TableCell>
						<TableCell class="soft">{taken(l) ? 'taken out' : l.pooled ? 'by batch' : 'piece by piece'}</TableCell>
					</TableRow>
				{/each}
			</TableBody>
		</Table>
		{#if links.length > MOST}<Button kind="ghost" size="small" class="link" on:click={() => (all = !all)}
				>{all ? 'Show fewer' : `Show all ${links.length}`}</Button
			>{/if}
	{:else}<p class="soft">{none}</p>{/if}
</section>

<style>
	.more {
		margin-left: 0.75rem;
		font-weight: 400;
	}
	section {
		padding: 0.6rem 0.75rem;
		position: relative;
		overflow-x: auto;
	}
	p {
		margin: 0;
	}
</style>
