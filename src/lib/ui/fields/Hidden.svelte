<script lang="ts">
	// What a form sends that nobody sees.
	let { name, value }: { name: string; value: string | null | undefined } = $props();
</script>

<input type="hidden" {name} value={value ?? ''} />
