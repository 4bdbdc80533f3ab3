<script lang="ts">
	// What is wrong, each with its way out.
	import type { Fault } from '$lib/core/problem/problem';
	import Message from './Message.svelte';
	let { faults, onclose }: { faults: Fault[]; onclose?: () => void } = $props();
</script>

{#if faults.length}
	<Message kind="error" {onclose}>
		<ul>
			{#each faults.slice(0, 12) as f, i (i)}<li>
					{f.message}{#if f.at && /^(row|line) /.test(f.at)}<span class="soft"> ({f.at})</span>{/if}
				</li>{/each}
			{#if faults.length > 12}<li class="soft">and {faults.length - 12} more</li>{/if}
		</ul>
	</Message>
{/if}

<style>
	ul {
		margin: 0;
		padding: 0;
		list-style: none;
		flex: 1;
		min-width: 0;
	}
	li {
		overflow-wrap: anywhere;
	}
</style>
