<script lang="ts">
	import History from '$lib/ui/setup/History.svelte';
	import { Button } from 'carbon-components-svelte';
	import type { Rule } from '$lib/core/marking/rule';
	import Means from '$lib/ui/setup/Means.svelte';
	import RuleTable from '$lib/ui/setup/RuleTable.svelte';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	let { data, form } = $props();
	const i = $derived(data.item);
	// svelte-ignore state_referenced_locally
	let rules = $state<Rule[]>(data.item.rules);
	// svelte-ignore state_referenced_locally
	let kind = $state(data.item.kind ?? '');
	// svelte-ignore state_referenced_locally
	let own = $state(data.item.ownRule ? 'yes' : 'no');
	const means = $derived(form && 'means' in form ? (form.means as string[]) : null);
	// What was shown holds only for the rule that it was shown for.
	const about = $derived(JSON.stringify([kind || null, own === 'yes' || !kind, rules]));
	const confirmed = $derived(form && 'about' in form && form.about === about ? about : '');
	// svelte-ignore state_referenced_locally
	let parts = $state(data.item.parts.map((p) => ({ item: p.item, qty: p.qty })));
	const numbers = $derived((['lot', 'serial'] as const).filter((n) => i.tracking.includes(n)));
	const name = (code: string) => data.all.find((x) => x.code === code);
</script>

<KeptForm {form}>
	<div class="head">
		<h2 class="mono">{i.code}</h2>
		<span class="soft"
			>carries {i.tracking === 'none' ? 'no number' : i.tracking} · base unit {i.unit}{i.decimals
				? ` with ${i.decimals} decimals`
				: ', whole'} · {i.runMode === 'unit' ? 'one run for each serial' : 'pooled runs'}</span
		>
	</div>
	<input type="hidden" name="confirmed" value={confirmed} />
	<input type="hidden" name="rules" value={JSON.stringify(rules)} />
	<input type="hidden" name="parts" value={JSON.stringify(parts.filter((p) => p.item || p.qty))} />
	<div class="panel fields">
		<label class="field"
			>Name<input class="plain" name="name" defaultValue={i.name} required size="30" maxlength="1000" /></label
		>
		<label class="field"
			>Shelf life, as P12M or P90D<input
				class="plain mono"
				name="shelfLife"
				defaultValue={i.shelfLife ?? ''}
				size="8"
				maxlength="100"
			/></label
		>
		<label class="field"
			>Worked out to<select class="plain" name="endOfMonth"
				><option value="no">the day</option><option value="yes" selected={i.endOfMonth}>the end of its month</option
				></select
			></label
		>
		<label class="field"
			>Left at receipt, at least<input
				class="plain mono"
				name="leastLeft"
				defaultValue={i.leastLeft ?? ''}
				size="8"
				maxlength="100"
				placeholder="P6M"
			/></label
		>
		<label class="field"
			>Warranty from shipment<input
				class="plain mono"
				name="warranty"
				defaultValue={i.warranty ?? ''}
				size="8"
				maxlength="100"
				placeholder="P24M"
			/></label
		>
		<label class="field"
			>GTIN, from the label<input
				class="plain mono"
				name="gtin"
				defaultValue={i.gtin ?? ''}
				size="15"
				maxlength="100"
				inputmode="numeric"
			/></label
		>
		<Button type="submit" size="field">Save</Button>
	</div>
	{#if numbers.length}
		<div class="panel fields">
			{#each numbers as n (n)}
				{@const chosen = n === 'lot' ? i.lotPattern : i.serialPattern}
				<label class="field"
					>{n === 'lot' ? 'Lots are drawn from' : 'Serials are drawn from'}<select class="plain" name="{n}Pattern"
						><option value="">no pattern: typed or scanned</option>{#each data.patterns as p (p.code)}<option
								value={p.code}
								selected={p.code === chosen}>{p.code}: {p.like}</option
							>{/each}</select
					></label
				>
			{/each}
			<label class="field"
				>Drawn<select class="plain" name="drawnAt"
					><option value="sheet">in the sheet</option><option value="release" selected={i.drawnAt === 'release'}
						>when the order is released</option
					></select
				></label
			>
			<label class="field"
				>The supplier’s number<select class="plain" name="supplierNumber"
					>{#each [['beside', 'is kept beside ours'], ['printed', 'is kept, and printed on labels'], ['ours', 'is used as ours']] as [v, words] (v)}<option
							value={v}
							selected={v === i.supplierNumber}>{words}</option
						>{/each}</select
				></label
			>
			<label class="field"
				>A number that does not fit<select class="plain" name="misfit"
					>{#each [['stop', 'cannot be booked'], ['reason', 'wants a reason'], ['note', 'is only noted']] as [v, words] (v)}<option
							value={v}
							selected={v === i.misfit}>{words}</option
						>{/each}</select
				></label
			>
		</div>
	{/if}
	{#if means && confirmed}<Means {means} />{/if}
	<div class="two">
		<section class="panel">
			<h2>Marking rule</h2>
			{#if numbers.length}
				<div class="fields whose">
					<label class="field"
						>Kind of item<select class="plain" name="kind" bind:value={kind}
							><option value="">none</option>{#each data.kinds as k (k.code)}<option value={k.code}>{k.name}</option
								>{/each}</select
						></label
					>
					<label class="field"
						>Goes by<select class="plain" name="ownRule" bind:value={own}
							><option value="yes">a rule of its own</option>{#if kind}<option value="no">the rule of its kind</option
								>{/if}</select
						></label
					>
				</div>
				{#if own === 'no' && kind}<p>
						The rule of <a href="/setup/kinds/{encodeURIComponent(kind)}"
							>{data.kinds.find((k) => k.code === kind)?.name}</a
						> counts; change it there, for all items of the kind.
					</p>
					{#if kind === i.kind && !i.ownRule}<RuleTable
							rules={i.rules}
							carries={i.tracking}
							facts={data.facts}
							readonly
						/>{/if}
				{:else}<RuleTable bind:rules carries={i.tracking} facts={data.facts} />{/if}
			{:else}<p class="soft">
					This item carries no number: it is kept as unmarked stock, and a trace says so as a gap.
				</p>{/if}
		</section>
		<section class="panel">
			<h2>Parts list, for one {i.unit}</h2>
			<table class="rows">
				<thead><tr><th>Part</th><th class="num">Quantity</th><th>Unit</th><th></th></tr></thead>
				<tbody>
					{#each parts as p, n (n)}
						<tr>
							<td
								><input
									class="plain mono"
									list="all"
									bind:value={p.item}
									aria-label="Part {n + 1}"
									size="16"
									maxlength="200"
								/> <span class="soft">{name(p.item)?.name ?? ''}</span></td
							>
							<td class="num"
								><input
									class="plain num"
									bind:value={p.qty}
									aria-label="Quantity of part {n + 1}"
									size="8"
									maxlength="100"
								/></td
							>
							<td class="soft">{name(p.item)?.unit ?? ''}</td>
							<td class="num"
								><button type="button" class="link" onclick={() => parts.splice(n, 1)}>Take out</button></td
							>
						</tr>
					{:else}<tr><td colspan="4" class="soft">It is bought, not made.</td></tr>{/each}
				</tbody>
			</table>
			<p><button type="button" class="link" onclick={() => parts.push({ item: '', qty: '1' })}>Add a part</button></p>
			<datalist id="all"
				>{#each data.all as x (x.code)}<option value={x.code}>{x.name}</option>{/each}</datalist
			>
		</section>
	</div>
</KeptForm>
<History changes={data.history} />

<style>
	.fields {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.two {
		display: grid;
		grid-template-columns: 7fr 4fr;
		gap: 0.75rem;
		align-items: start;
	}
	.fields.whose {
		padding: 0;
		margin-bottom: 0.5rem;
	}
	section {
		padding: 0.6rem 0.75rem;
		min-width: 0;
		overflow-x: auto;
	}
	td .plain {
		height: 26px;
	}
	@media (max-width: 640px) {
		.two {
			grid-template-columns: 1fr;
		}
	}
</style>
