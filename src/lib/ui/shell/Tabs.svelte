<script lang="ts">
	// The parts of an area, the one that is open marked: of two whose addresses begin alike, the longer.
	import { page } from '$app/state';
	let { tabs, label }: { tabs: { url: string; name: string }[]; label: string } = $props();
	const at = $derived(page.url.pathname);
	const here = $derived(
		tabs
			.filter((t) => at === t.url || at.startsWith(`${t.url}/`))
			.reduce((best, t) => (t.url.length > best.length ? t.url : best), '')
	);
</script>

<nav class="tabs" aria-label={label}>
	{#each tabs as t (t.url)}<a href={t.url} aria-current={t.url === here ? 'page' : undefined}>{t.name}</a>{/each}
</nav>
