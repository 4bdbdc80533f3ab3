<script lang="ts">
	let { data } = $props();
</script>

<p><a class="new" href="/setup/patterns/new">New pattern</a></p>
<table class="rows">
	<thead><tr><th>Pattern</th><th>Name</th><th>Numbers look like</th><th class="num">Drawn</th><th>For</th></tr></thead>
	<tbody>
		{#each data.patterns as p (p.code)}
			<tr
				><td><a class="mono" href="/setup/patterns/{encodeURIComponent(p.code)}">{p.code}</a></td><td>{p.name}</td><td
					class="mono">{p.like}</td
				><td class="num"
					>{#if p.drawn}<a href="/setup/drawn?q={encodeURIComponent(p.items[0] ?? '')}"
							>{p.drawn.toLocaleString('en')}</a
						>{:else}0{/if}</td
				><td>{p.items.join(', ') || 'no item yet'}</td></tr
			>
		{:else}<tr
				><td colspan="5" class="soft"
					>No pattern yet. Make one, then give it to items: their numbers are then drawn, not typed.</td
				></tr
			>{/each}
	</tbody>
</table>
