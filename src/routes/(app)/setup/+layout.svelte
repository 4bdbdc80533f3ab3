<script lang="ts">
	import { page } from '$app/state';
	let { data, children } = $props();
</script>

<svelte:head><title>Setup · Earmark</title></svelte:head>
<div class="head"><h1>Setup</h1></div>
<nav class="tabs" aria-label="Setup">
	{#each data.tabs as t (t.url)}<a href={t.url} aria-current={page.url.pathname.startsWith(t.url) ? 'page' : undefined}
			>{t.name}</a
		>{/each}
</nav>
{@render children()}
