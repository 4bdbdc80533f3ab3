<script lang="ts">
	// An order by hand: a delivery without one, something to make, something to ship.
	import { Button } from 'carbon-components-svelte';
	import Faults from '../shell/Faults.svelte';
	import type { Fault } from '$lib/core/problem/problem';
	interface Props {
		title: string;
		kind: 'purchase' | 'production' | 'sale';
		items: { code: string; name: string; unit: string }[];
		partners: { code: string; name: string }[];
		places: string[];
		today: string;
		faults: Fault[];
		typed: Record<string, unknown> | null;
	}
	let { title, kind, items, partners, places, today, faults, typed }: Props = $props();
	const was = (name: string) => String(typed?.[name] ?? '');
	// svelte-ignore state_referenced_locally
	let lines = $state<{ item: string; qty: string }[]>(
		typed?.lines ? JSON.parse(String(typed.lines)) : [{ item: '', qty: '' }]
	);
	const unitOf = (code: string) => items.find((i) => i.code === code)?.unit ?? '';
	const who = $derived(kind === 'sale' ? 'Customer' : 'Supplier');
</script>

<svelte:head><title>{title} · Earmark</title></svelte:head>
<div class="head"><h1>{title}</h1></div>
<Faults {faults} />
<form method="POST" class="panel">
	<input type="hidden" name="lines" value={JSON.stringify(lines.filter((l) => l.item || l.qty))} />
	<div class="fields">
		<label class="field"
			>Order or delivery note no.<input
				class="plain mono"
				name="code"
				defaultValue={was('code')}
				placeholder="given by Earmark"
				size="20"
				maxlength="200"
			/></label
		>
		{#if kind !== 'production'}
			<label class="field"
				>{who}<select class="plain" name="partner" required
					><option value="">Choose…</option>{#each partners as p (p.code)}<option
							value={p.code}
							selected={p.code === was('partner')}>{p.name}</option
						>{/each}</select
				></label
			>
		{/if}
		<label class="field"
			>{kind === 'purchase' ? 'Arrives at' : kind === 'sale' ? 'From site' : 'Output to'}
			<select class="plain" name="place"
				>{#if kind === 'sale'}<option value="">anywhere</option>{/if}{#each places as p (p)}<option
						selected={p === was('place')}>{p}</option
					>{/each}</select
			></label
		>
		<label class="field"
			>{kind === 'purchase' ? 'Expected' : kind === 'sale' ? 'Ship by' : 'Due'}<input
				class="plain"
				name="dueOn"
				defaultValue={was('dueOn') || today}
				size="11"
				placeholder="2027-03-31"
				maxlength="200"
			/></label
		>
		<label class="field note"
			>Note<input class="plain" name="note" defaultValue={was('note')} maxlength="20000" /></label
		>
	</div>
	<table class="rows">
		<thead><tr><th>Line</th><th>Item</th><th class="num">Quantity</th><th>Unit</th><th></th></tr></thead>
		<tbody>
			{#each lines as line, i (i)}
				<tr>
					<td class="soft">{i + 1}</td>
					<td
						><input
							class="plain mono"
							list="items"
							bind:value={line.item}
							aria-label="Item of line {i + 1}"
							placeholder="code"
							size="24"
							maxlength="200"
						/> <span class="soft">{items.find((x) => x.code === line.item)?.name ?? ''}</span></td
					>
					<td class="num"
						><input
							class="plain num"
							bind:value={line.qty}
							aria-label="Quantity of line {i + 1}"
							size="10"
							inputmode="decimal"
							maxlength="200"
						/></td
					>
					<td class="soft">{unitOf(line.item)}</td>
					<td class="num"
						>{#if lines.length > 1}<button type="button" class="link" onclick={() => lines.splice(i, 1)}
								>Take out</button
							>{/if}</td
					>
				</tr>
			{/each}
		</tbody>
	</table>
	<datalist id="items"
		>{#each items as i (i.code)}<option value={i.code}>{i.name}</option>{/each}</datalist
	>
	<div class="below">
		{#if kind !== 'production'}<button type="button" class="link" onclick={() => lines.push({ item: '', qty: '' })}
				>Add a line</button
			>{/if}
		<Button type="submit" size="field">{kind === 'purchase' ? 'Number what came' : 'Make the order'}</Button>
	</div>
</form>

<style>
	form {
		padding-top: 0.75rem;
	}
	.fields {
		padding: 0 0.75rem 0.75rem;
	}
	.note {
		flex: 1;
	}
	.below {
		display: flex;
		justify-content: space-between;
		align-items: center;
		padding: 0.75rem;
	}
	.below :global(.bx--btn) {
		margin-left: auto;
	}
	td .plain {
		height: 28px;
	}
</style>
