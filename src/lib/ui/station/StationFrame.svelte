<script lang="ts">
	// What every screen of a station has: who works where, what the next scan does and what the last one came to, scans that
	// wait, and a field for a label that cannot be read. Big enough to be read from an arm's length, in gloves.
	import type { Snippet } from 'svelte';
	import { onMount } from 'svelte';
	import { Button } from 'carbon-components-svelte';
	import Scanner from '../devices/Scanner.svelte';
	import Text from '../fields/Text.svelte';
	import { lineIs, takeScans } from '../scan/scanner';
	import type { Answer, ScanQueue, Waiting } from './queue.svelte';
	interface Props {
		/** of the page, and what is done here */
		title: string;
		station: { name: string };
		person: string;
		scans: ScanQueue<Waiting, Answer> & { scan(text: string, typed?: boolean): void };
		/** what the next scan does */
		next: string;
		/** it does something that was chosen */
		chosen?: boolean;
		/** besides the sentence of the last answer */
		notes?: readonly string[];
		/** beside the station's name */
		where: Snippet;
		/** what stands before the person */
		children: Snippet;
		/** what else can be done, before the field */
		acts?: Snippet;
	}
	let { title, station, person, scans: s, next, chosen = false, notes = [], where, children, acts }: Props = $props();
	onMount(() => s.connect());
	onMount(() => takeScans((text) => (s.scan(text), true)));
	let label = $state<HTMLInputElement | null>(null);
	onMount(() => (label ? lineIs(label) : undefined));
	let scanner = $state(false);
	let typed = $state('');
	function type(e: SubmitEvent) {
		e.preventDefault();
		s.scan(typed, true);
		typed = '';
	}
</script>

<svelte:head><title>{station.name} · {title} · Earmark</title></svelte:head>
<header>
	<h1>{station.name}<span class="visually-hidden">, {title}</span></h1>
	<span class="where">{@render where()}</span>
	<span class="who">{person}</span>
	<Button
		kind="ghost"
		size="small"
		class="link out device"
		aria-expanded={scanner}
		on:click={() => (scanner = !scanner)}>Scanner</Button
	>
	<a class="out" href="/station">Leave</a>
</header>
{#if scanner}<Scanner />{/if}
<main id="work" class:scanner tabindex="-1">
	{#if s.waiting}<p class="waits" role="alert">
			{s.waiting}{s.queue.length ? ` ${s.queue.length} ${s.queue.length === 1 ? 'scan waits' : 'scans wait'}.` : ''}
		</p>{/if}
	<section
		class="said"
		class:good={s.last?.taken}
		class:bad={s.last && !s.last.taken}
		class:chosen
		aria-live="assertive"
	>
		<p class="next">{next}</p>
		{#if s.last}<p>{s.last.said}</p>
			{#each notes as note (note)}<p class="note">{note}</p>{/each}{/if}
	</section>
	{@render children()}
	<section class="acts">
		{@render acts?.()}
		<form onsubmit={type}>
			<Text
				label="A label that cannot be read"
				placeholder="type its number"
				mono
				ch={20}
				bind:value={typed}
				bind:ref={label}
				maxlength="200"
			/>
			<Button kind="ghost" type="submit">Enter</Button>
		</form>
	</section>
	{#if s.log.length > 1}
		<h2>Before that</h2>
		<ul>
			{#each s.log.slice(1) as l (l.id)}<li class:bad={!l.taken}>{l.text}</li>{/each}
		</ul>
	{/if}
</main>

<style>
	h1 {
		font-size: 1rem;
		font-weight: 600;
		margin: 0;
	}
	header {
		display: flex;
		align-items: center;
		gap: 0.25rem 0.75rem;
		min-height: 48px;
		box-sizing: border-box;
		padding: 0.4rem 1rem;
		background: var(--bar);
		color: #fff;
		flex-wrap: wrap;
	}
	.where,
	.where :global(a) {
		color: #c3ced6;
		font-size: 0.875rem;
	}
	.who {
		margin-left: auto;
	}
	header :global(.out),
	header .out {
		color: #c3ced6;
	}
	main {
		max-width: 68rem;
		margin: 0 auto;
		padding: 0.75rem 1rem 2rem;
		outline: none;
	}
	main.scanner {
		margin-right: 240px;
	}
	.waits {
		background: var(--amber-soft);
		border-left: 6px solid var(--amber);
		padding: 0.75rem 1rem;
		margin: 0 0 0.75rem;
		font-size: 1.125rem;
	}
	.said {
		border-left: 8px solid var(--tag-rule);
		background: var(--paper);
		padding: 0.75rem 1rem;
		min-height: 5.5rem;
	}
	.said.good {
		border-color: var(--green);
	}
	.said.bad {
		border-color: var(--red);
		background: var(--red-soft);
	}
	.said.chosen {
		border-color: var(--amber);
		background: var(--amber-soft);
	}
	.said p {
		margin: 0;
		font-size: 1.25rem;
		line-height: 1.4;
	}
	.said .next {
		font-size: 1.75rem;
		font-weight: 600;
		margin-bottom: 0.25rem;
	}
	.said .note {
		font-size: 1rem;
		color: var(--ink-soft);
	}
	/* The unit that stands before the person. */
	main :global(h2.before) {
		display: flex;
		align-items: baseline;
		gap: 1rem;
		flex-wrap: wrap;
		font-size: 1.5rem;
		font-weight: 400;
		margin: 1rem 0 0;
	}
	main :global(h2.before .mono) {
		font-size: 2.5rem;
		font-weight: 600;
	}
	.acts {
		display: flex;
		align-items: flex-end;
		gap: 0.75rem;
		flex-wrap: wrap;
		margin-top: 1rem;
	}
	form {
		display: flex;
		align-items: flex-end;
		gap: 0.25rem;
		margin-left: auto;
	}
	h2 {
		font-size: 1rem;
		margin: 1.25rem 0 0.25rem;
	}
	ul {
		list-style: none;
		margin: 0;
		padding: 0;
		color: var(--ink-soft);
	}
	li {
		padding: 0.15rem 0;
	}
	li.bad {
		color: var(--red);
	}
	@media (max-width: 640px) {
		main :global(h2.before) {
			font-size: 1.125rem;
		}
		main :global(h2.before .mono) {
			font-size: 1.75rem;
		}
		.said .next {
			font-size: 1.375rem;
		}
		.said p {
			font-size: 1.0625rem;
		}
		header :global(.device) {
			display: none;
		}
		.where {
			order: 1;
			width: 100%;
		}
		form {
			margin-left: 0;
		}
	}
</style>
