<script lang="ts">
	// What was found about a line as a whole, above what it holds.
	import type { Level } from '$lib/core/checks/check';
	import type { SheetLine } from '$lib/core/sheet/sheet';
	import Findings from './Findings.svelte';
	interface Props {
		line: SheetLine;
		/** what is shown elsewhere on the page */
		except: Level[];
	}
	let { line, except }: Props = $props();
</script>

{#each line.findings.filter((f) => !except.includes(f.level)) as f, i (i)}<p><Findings findings={[f]} /></p>{/each}

<style>
	p {
		margin: 0;
		padding: 0.4rem 0.75rem;
		background: var(--amber-soft);
		font-size: 0.8125rem;
	}
</style>
