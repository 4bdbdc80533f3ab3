<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	import { Button } from 'carbon-components-svelte';
	import { enhance } from '$app/forms';
	import DeviceState from '$lib/ui/devices/DeviceState.svelte';
	import List from '$lib/ui/list/List.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const SAYS = {
		takes: ['takes mail at once', 'Let it take mail'],
		slow: ['is slow: it takes five seconds for each', 'Let it be slow'],
		refuses: ['refuses everything', 'Let it refuse']
	} as const;
</script>

<svelte:head><title>Mailbox · Devices · Earmark</title></svelte:head>
<Said {form} />
<DeviceState title="Mail server" good={data.answers === 'takes'}>
	{#snippet says()}It stands in for a real one and <b>{SAYS[data.answers][0]}</b>. What arrived stands below; nothing
		leaves this machine.{/snippet}
	{#snippet acts()}{#if data.may}
			<form class="fields" method="POST" action="?/answers" use:enhance>
				{#each ['takes', 'slow', 'refuses'] as const as answers (answers)}
					{#if answers !== data.answers}<Button
							kind="tertiary"
							size="small"
							type="submit"
							name="answers"
							value={answers}>{SAYS[answers][1]}</Button
						>{/if}
				{/each}
			</form>
		{/if}{/snippet}
</DeviceState>
<h2>What arrived</h2>
<List list={data.list} cells={['subject', 'size']}>
	{#snippet cell(m, c)}
		{#if c.key === 'subject'}<a href="/devices/mail/{m.id}">{m.subject}</a>{:else}{grouped(Number(m.size))}{/if}
	{/snippet}
</List>
