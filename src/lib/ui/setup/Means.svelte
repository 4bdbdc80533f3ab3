<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	// What a change of rule means, before it is saved.
	let { means }: { means: string[] } = $props();
</script>

<section class="panel" role="status">
	<h2>What the new rule means</h2>
	<ul>
		{#each means as m (m)}<li>{m}</li>{/each}
	</ul>
	<p>What is booked already stays as it is.</p>
	<Button size="small" type="submit">Save the new rule</Button>
</section>

<style>
	section {
		border-left: 3px solid var(--amber);
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
</style>
