<script lang="ts">
	let { data } = $props();
</script>

<p><a class="new" href="/setup/kinds/new">New kind of items</a></p>
<table class="rows">
	<thead><tr><th>Kind</th><th>Name</th><th class="num">Items</th><th class="num">Go by its rule</th></tr></thead>
	<tbody>
		{#each data.kinds as k (k.code)}
			<tr
				><td><a class="mono" href="/setup/kinds/{encodeURIComponent(k.code)}">{k.code}</a></td><td>{k.name}</td><td
					class="num">{k.items}</td
				><td class="num">{k.follow}</td></tr
			>
		{:else}<tr
				><td colspan="4" class="soft"
					>No kind yet. A kind holds one marking rule for many items: chemicals by lot with expiry, electronics by
					serial.</td
				></tr
			>{/each}
	</tbody>
</table>
