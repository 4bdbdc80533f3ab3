<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import Answer from '$lib/ui/trace/Answer.svelte';
	import Waiting from '$lib/ui/files/Waiting.svelte';

	let { data } = $props();
	const look = $derived(data.look);
</script>

<svelte:head><title>Trace{look ? ` ${data.direction}` : ''} · Earmark</title></svelte:head>
{#if !look}
	<div class="head">
		<h1>Trace</h1>
		<span class="push acts"
			><Button kind="ghost" size="small" href="/trace/parts">Parts lists</Button>
			<Button kind="ghost" size="small" href="/trace/contents">Parts in units</Button></span
		>
	</div>
	<form class="fields" action="/trace">
		<Text label="Lot or serial" mono ch={28} name="q" value={data.typed} data-first maxlength="200" />
		<Button kind="tertiary" size="small" type="submit" name="direction" value="back">Trace back</Button>
		<Button kind="tertiary" size="small" type="submit" name="direction" value="forward">Trace forward</Button>
	</form>
	{#if data.said}
		<p role="status">{data.said}</p>
		{#each data.hits as h (h.id)}<p>
				<a class="mono" href="/trace?mark={h.id}&direction={data.direction}">{h.label}</a>
				<span class="soft">{h.detail}</span>
			</p>{/each}
	{:else}<p class="soft">
			Back leads to the suppliers’ lots, forward to everyone who got some of it. A trace also starts from a lot’s or
			serial’s page.
		</p>{/if}
{:else}
	{#key look.look}
		{#await look.answer}
			<div class="head"><h1>Trace {data.direction}</h1></div>
			<Waiting work={look.look} />
		{:then answer}
			{#if 'said' in answer}{@render instead(look.mark, answer.said)}
			{:else}
				{@const { answer: _answer, ...of } = look}
				<Answer
					{of}
					first={answer.looked}
					asked={data.asked}
					said={data.said}
					when={data.when!}
					mayHold={data.mayHold}
				/>
			{/if}
		{:catch}{@render instead(look.mark, 'The server could not finish it. What is asked is kept; trace again.')}{/await}
	{/key}
{/if}

{#snippet instead(mark: string, said: string)}
	<div class="head"><h1>Trace {data.direction}</h1></div>
	<Faults faults={[{ message: said }]} />
	<p>
		<Button kind="tertiary" size="small" href="/register/{mark}">Back to its page</Button>
		<Button
			kind="ghost"
			size="small"
			href="/trace?mark={mark}&direction={data.direction}&since={data.asked.since}&asOf={data.asked.asOf}"
			data-sveltekit-reload>Trace again</Button
		>
	</p>
{/snippet}
