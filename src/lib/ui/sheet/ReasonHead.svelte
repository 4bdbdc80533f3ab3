<script lang="ts">
	// The head of an adjustment or a return: why, with whom, and where.
	import { documentKind } from '$lib/core/document/kinds';
	import type { SheetState } from '$lib/core/sheet/sheet';
	/** `done`: what came of it, where it is complete */
	let { s, done }: { s: SheetState; done: string } = $props();
	const row = $derived(documentKind(s.kind));
</script>

<svelte:head><title>{s.code} · {row.words.list} · Earmark</title></svelte:head>
<div class="head">
	<h1>{s.reason?.name ?? row.words.list}: {s.code}</h1>
	<span class="soft"
		>{row.name}{s.partnerName ? `, ${s.partnerName}` : ''}{s.place
			? ` · ${row.place.label.toLowerCase()} ${s.place}`
			: ' · from anywhere'}{done ? ` · ${done}` : ''}</span
	>
</div>
{#if s.note}<p class="soft">{s.note}</p>{/if}
