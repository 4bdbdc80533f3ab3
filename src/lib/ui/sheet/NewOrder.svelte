<script lang="ts">
	// An order by hand: a delivery without one, something to make, something to ship.
	import { Button } from 'carbon-components-svelte';
	import Faults from '../shell/Faults.svelte';
	import { documentKind, type Kind } from '$lib/core/document/kinds';
	import type { Fault } from '$lib/core/problem/problem';
	interface Props {
		kind: Kind;
		items: { code: string; name: string; unit: string }[];
		partners: { code: string; name: string }[];
		jobs: { code: string; name: string; partnerName: string | null }[];
		places: string[];
		today: string;
		faults: Fault[];
		typed: object | null;
	}
	let { kind, items, partners, jobs, places, today, faults, typed }: Props = $props();
	const row = $derived(documentKind(kind));
	const title = $derived(row.words.add);
	const before = $derived<Record<string, unknown>>({ ...typed });
	const was = (name: string) => String(before[name] ?? '');
	// svelte-ignore state_referenced_locally
	let lines = $state<{ item: string; qty: string }[]>(
		before.lines ? JSON.parse(String(before.lines)) : [{ item: '', qty: '' }]
	);
	const unitOf = (code: string) => items.find((i) => i.code === code)?.unit ?? '';
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
		{#if row.partner}
			<label class="field"
				>{row.partner.label}<select class="plain" name="partner" required
					><option value="">Choose…</option>{#each partners as p (p.code)}<option
							value={p.code}
							selected={p.code === was('partner')}>{p.name}</option
						>{/each}</select
				></label
			>
		{/if}
		{#if row.job}
			<label class="field"
				>Job<select class="plain" name="job" required
					><option value="">Choose…</option>{#each jobs as j (j.code)}<option
							value={j.code}
							selected={j.code === was('job')}>{j.name}{j.partnerName ? `, for ${j.partnerName}` : ''}</option
						>{/each}</select
				></label
			>
		{/if}
		<label class="field"
			>{row.place.label}
			<select class="plain" name="place"
				>{#if !row.place.needed}<option value="">anywhere</option>{/if}{#each places as p (p)}<option
						selected={p === was('place')}>{p}</option
					>{/each}</select
			></label
		>
		<label class="field"
			>{row.due}<input
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
		{#if row.line.several}<button type="button" class="link" onclick={() => lines.push({ item: '', qty: '' })}
				>Add a line</button
			>{/if}
		<Button type="submit" size="field">{row.words.make}</Button>
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
