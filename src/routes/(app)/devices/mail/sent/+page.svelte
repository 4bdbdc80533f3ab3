<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import { enhance } from '$app/forms';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import List from '$lib/ui/list/List.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
</script>

<svelte:head><title>Mail sent · Devices · Earmark</title></svelte:head>
<Said {form} />
<List list={data.list}>
	{#snippet acts(m)}
		{#if data.may && m.waits}<form method="POST" action="?/again" use:enhance>
				<Hidden name="mail" value={m.id} />
				<Button type="submit" kind="ghost" size="small" class="link"
					>Send now<span class="visually-hidden">: {m.subject}</span></Button
				>
			</form>{/if}
	{/snippet}
</List>
