<script lang="ts">
	import Text from '$lib/ui/fields/Text.svelte';
	import type { Field } from '$lib/server/api/readable';
	let { data } = $props();
	let find = $state('');
	const shown = $derived(
		data.calls.filter((c) => `${c.method} ${c.path} ${c.summary}`.toLowerCase().includes(find.trim().toLowerCase()))
	);
</script>

{#snippet fields(title: string, all: Field[])}
	{#if all.length}
		<h3>{title}</h3>
		<dl>
			{#each all as f (f.name)}
				<dt class="mono">
					{f.name}{#if f.required}<span class="soft" title="must be given"> *</span>{/if}
				</dt>
				<dd>
					{f.type}{#if f.says}<span class="soft">{` · ${f.says}`}</span>{/if}
				</dd>
			{/each}
		</dl>
	{/if}
{/snippet}

<svelte:head><title>The interface for programs · Earmark</title></svelte:head>
<div class="head">
	<h1>The interface for programs</h1>
	<span class="push"><a href="/api/v1/openapi.json" data-sveltekit-reload>OpenAPI 3.1</a></span>
</div>
<p class="soft">
	What a screen does a program can do, with the same checks and the same sentences. An access is made in Setup, Access;
	it goes along with each call as <code>Authorization: Bearer …</code>. A refusal is a problem document (RFC 9457) that
	names each fault. <span class="mono">*</span> must be given.
</p>
<form class="fields" role="search" aria-label="Find a call" onsubmit={(e) => e.preventDefault()}>
	<Text
		label="Find a call"
		ch={24}
		shown={find}
		echoes
		maxlength="60"
		oninput={(e) => (find = e.currentTarget.value)}
	/>
</form>
<p class="soft" role="status">{shown.length} {shown.length === 1 ? 'call' : 'calls'}</p>
{#each shown as c (c.id)}
	<details id={c.id}>
		<summary>
			<h2><span class="method mono">{c.method}</span> <span class="mono">{c.path}</span></h2>
			<span>{c.summary}</span>
		</summary>
		<div class="call">
			<p>{c.right ? `Needs the right: ${c.right}.` : 'Open to anybody.'}</p>
			{@render fields('In the address', c.query)}
			{@render fields('Body', c.body)}
			{#if c.example}<h3>For example</h3>
				<pre class="mono">{c.example}</pre>{/if}
			{#each c.answers as a (a.status)}
				{@render fields(`${a.status}: ${a.says}`, a.fields)}
				{#if !a.fields.length}<h3>{a.status}: {a.says}</h3>{/if}
			{/each}
			<h3>Refused, for example</h3>
			<dl>
				{#each c.refusals as r (r.status)}<dt class="mono">{r.status}</dt>
					<dd>{r.example}</dd>{/each}
			</dl>
		</div>
	</details>
{/each}

<style>
	details {
		border: 1px solid var(--rule);
		background: var(--paper);
		margin-top: 0.5rem;
	}
	summary {
		padding: 0.6rem 0.75rem;
		cursor: pointer;
	}
	summary h2 {
		display: inline;
		margin-right: 0.75rem;
		font-size: 0.875rem;
		overflow-wrap: anywhere;
	}
	.method {
		display: inline-block;
		min-width: 4.5em;
		color: var(--ink-soft);
	}
	.call {
		padding: 0 0.75rem 0.75rem;
		border-top: 1px solid var(--rule);
	}
	pre {
		margin: 0;
		overflow-x: auto;
		font-size: 0.8125rem;
	}
	h3 {
		margin: 0.9rem 0 0.3rem;
		font-size: 0.8125rem;
	}
	dl {
		display: grid;
		grid-template-columns: minmax(8rem, max-content) 1fr;
		gap: 0.2rem 1rem;
		margin: 0;
	}
	dt {
		overflow-wrap: anywhere;
	}
	dd {
		margin: 0;
	}
</style>
