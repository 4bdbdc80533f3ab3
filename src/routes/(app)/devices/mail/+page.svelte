<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	import { Button } from 'carbon-components-svelte';
	import { enhance } from '$app/forms';
	import Checkmark from 'carbon-icons-svelte/lib/Checkmark.svelte';
	import WarningAlt from 'carbon-icons-svelte/lib/WarningAlt.svelte';
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
<section class="panel">
	<h2>Mail server</h2>
	<p class="state" class:good={data.answers === 'takes'}>
		{#if data.answers === 'takes'}<Checkmark size={16} />{:else}<WarningAlt size={16} />{/if}
		<span
			>It stands in for a real one and <b>{SAYS[data.answers][0]}</b>. What arrived stands below; nothing leaves this
			machine.</span
		>
	</p>
	{#if data.may}
		<form class="fields" method="POST" action="?/answers" use:enhance>
			{#each ['takes', 'slow', 'refuses'] as const as answers (answers)}
				{#if answers !== data.answers}<Button kind="tertiary" size="small" type="submit" name="answers" value={answers}
						>{SAYS[answers][1]}</Button
					>{/if}
			{/each}
		</form>
	{/if}
</section>
<h2>What arrived</h2>
<List list={data.list} cells={['subject', 'size']}>
	{#snippet cell(m, c)}
		{#if c.key === 'subject'}<a href="/devices/mail/{m.id}">{m.subject}</a>{:else}{grouped(Number(m.size))}{/if}
	{/snippet}
</List>

<style>
	section {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.state {
		display: flex;
		align-items: center;
		gap: 0.35rem;
		color: var(--red);
		margin: 0 0 0.5rem;
	}
	.state.good {
		color: var(--green);
	}
</style>
