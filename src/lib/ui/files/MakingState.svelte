<script lang="ts">
	// What is being done for a file, how to stop it, and why it did not come.
	import Faults from '../shell/Faults.svelte';
	import type { Making } from './making.svelte';
	import Waiting from './Waiting.svelte';
	let { making }: { making: Making } = $props();
	/** In milliseconds. What is there sooner moves nothing on the page. */
	const SOON = 400;
	let long = $state(false);
	$effect(() => {
		if (!making.work) return;
		const timer = setTimeout(() => (long = true), SOON);
		return () => {
			clearTimeout(timer);
			long = false;
		};
	});
</script>

{#if making.work && long}<Waiting
		work={making.work}
		first="Beginning"
		now={making.come}
		onstop={() => making.stop()}
	/>{/if}
<Faults faults={making.faults} onclose={() => (making.faults = [])} />
