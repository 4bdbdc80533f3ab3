<script lang="ts">
	// What stands below the head of a line that takes from stock: what was found about it, and what goes.
	import type { ComponentProps } from 'svelte';
	import LineFindings from './LineFindings.svelte';
	import Picks from './Picks.svelte';
	let { line, ...rest }: Omit<ComponentProps<typeof Picks>, 'cell'> = $props();
</script>

<LineFindings {line} except={['note']} />
{#each line.cells as cell (cell.unit ?? '')}<Picks {line} {cell} {...rest} />{/each}
