<script lang="ts">
	import { afterNavigate } from '$app/navigation';
	import { takeEarly } from '$lib/ui/scan/early';
	import 'carbon-components-svelte/css/all.css';
	import '$lib/ui/fonts.css';
	import '$lib/ui/theme.css';
	let { children } = $props();
	// From here on the page answers to what is pressed; a program that drives it waits for this.
	afterNavigate(() => {
		document.documentElement.setAttribute('data-live', '');
		takeEarly();
	});
</script>

{@render children()}
