<script lang="ts">
	import 'carbon-components-svelte/css/all.css';
	import '$lib/ui/fonts.css';
	import '$lib/ui/theme.css';
	let { children } = $props();
</script>

{@render children()}
