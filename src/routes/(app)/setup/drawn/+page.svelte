<script lang="ts">
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
</script>

<form class="fields" method="GET">
	<label class="field"
		>Number, item or order<input
			class="plain mono"
			name="q"
			defaultValue={data.q}
			size="24"
			maxlength="60"
			data-first
		/></label
	>
	<button class="act">Find</button>
</form>
<table class="rows">
	<thead
		><tr
			><th>Number</th><th>Item</th><th>Pattern</th><th>Says</th><th>Drawn</th><th>By</th><th>For</th><th
				>What became of it</th
			></tr
		></thead
	>
	<tbody>
		{#each data.rows as r (r.kind + r.item + r.number)}
			<tr>
				<td><Tag kind={r.kind} number={r.number} id={r.mark} item={r.item} /></td>
				<td class="mono">{r.item}</td>
				<td class="mono">{r.pattern}</td>
				<td class="soft">{r.says}</td>
				<td>{r.at}</td>
				<td>{r.by}</td>
				<td
					>{#if r.order}<a class="mono" href={r.order.path}>{r.order.code}</a>{/if}</td
				>
				<td class:open={r.became === 'not used'}>{r.became}</td>
			</tr>
		{:else}<tr
				><td colspan="8" class="soft"
					>{data.q
						? `No drawn number fits “${data.q}”.`
						: 'Nothing is drawn yet. Numbers are drawn in a sheet, from the item’s pattern.'}</td
				></tr
			>{/each}
	</tbody>
</table>
{#if data.next}<p><a href="/setup/drawn?q={encodeURIComponent(data.q)}&before={data.next}">Earlier ones</a></p>{/if}

<style>
	form {
		margin-bottom: 0.75rem;
	}
	.open {
		color: var(--amber-ink);
	}
</style>
