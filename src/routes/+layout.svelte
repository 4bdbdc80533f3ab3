<script lang="ts">
	import { onMount } from 'svelte';
	import 'carbon-components-svelte/css/all.css';
	import '$lib/ui/fonts.css';
	import '$lib/ui/theme.css';
	let { children } = $props();
	// From here on the page answers to what is pressed; a program that drives it waits for this.
	onMount(() => document.documentElement.setAttribute('data-live', ''));
</script>

{@render children()}
