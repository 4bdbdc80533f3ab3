<script lang="ts">
	// What was booked last on this sheet.
	import Message from '../shell/Message.svelte';
	import type { Sheet } from './sheet.svelte';
	let { sheet }: { sheet: Sheet } = $props();
</script>

<div aria-live="polite">
	{#key sheet.notice}{#if sheet.notice}<Message kind="success">{sheet.notice}</Message>{/if}{/key}
</div>
