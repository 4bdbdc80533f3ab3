<script lang="ts">
	// One field that takes anything. Enter goes there; several matches, or none, open a list below.
	import { onMount } from 'svelte';
	import { afterNavigate, beforeNavigate, goto } from '$app/navigation';
	import { readScan } from '$lib/core/codes/scan';
	import { lineIs, takeScans } from '../scan/scanner';
	interface Hit {
		what: string;
		label: string;
		detail: string;
		url: string;
	}
	let field: HTMLInputElement;
	let typed = $state('');
	let hits = $state<Hit[]>([]);
	let said = $state('');
	let at = $state(0);
	let turn = 0;

	// A scan where no document takes it: here. In any other field a plain code is what is to stand there.
	onMount(() =>
		takeScans((text, into) => {
			const read = readScan(text, new Date().getFullYear());
			if (into && into !== field && !('coded' in read && read.coded)) return false;
			typed = text;
			void look();
			return true;
		})
	);
	onMount(() => lineIs(field));
	async function look() {
		const q = typed.trim();
		if (!q) return;
		const mine = ++turn;
		const answer = await fetch(`/find?q=${encodeURIComponent(q)}`, { headers: { accept: 'application/json' } });
		// Another scan was faster than this answer: what was asked last is answered.
		if (mine !== turn) return;
		if (!answer.ok) {
			said =
				answer.status === 401
					? 'Your session has ended. Reload the page to sign in again.'
					: 'Earmark does not answer. Try again.';
			return;
		}
		const found: { hits: Hit[]; exact: boolean } = await answer.json();
		if (mine !== turn) return;
		if (found.exact && found.hits.length === 1) {
			typed = '';
			return go(found.hits[0]);
		}
		hits = found.hits;
		at = 0;
		said = found.exact
			? `“${q}” stands for several. Which one?`
			: found.hits.length
				? `Nothing is called “${q.slice(0, 60)}”. The nearest:`
				: `Nothing is called “${q.slice(0, 60)}”, and nothing comes near. Check the number, or look in the register.`;
	}
	function close() {
		hits = [];
		said = '';
	}
	function go(hit: Hit) {
		close();
		goto(hit.url);
	}
	function keys(e: KeyboardEvent) {
		if (e.key === 'Enter') {
			e.preventDefault();
			if (hits.length && said) go(hits[at]);
			else look();
		} else if (e.key === 'Escape') close();
		else if (e.key === 'ArrowDown' && hits.length) {
			e.preventDefault();
			at = (at + 1) % hits.length;
		} else if (e.key === 'ArrowUp' && hits.length) {
			e.preventDefault();
			at = (at + hits.length - 1) % hits.length;
		} else if (e.key.length === 1 || e.key === 'Backspace') close();
	}
	const editable = (el: Element | null) =>
		!!el && (/^(INPUT|SELECT|TEXTAREA)$/.test(el.tagName) || (el as HTMLElement).isContentEditable);
	function slash(e: KeyboardEvent) {
		// In an empty scan line it does nothing: one is there already.
		if (e.key === '/' && document.activeElement === field && !typed) e.preventDefault();
		if (e.key === '/' && !editable(document.activeElement)) {
			e.preventDefault();
			field.focus();
			field.select();
		}
	}
	// Closed when the way begins: what is scanned while the page comes keeps its answer.
	beforeNavigate(close);
	afterNavigate(() => {
		if (editable(document.activeElement)) return;
		(document.querySelector<HTMLElement>('[data-first]') ?? field).focus();
	});
</script>

<svelte:window onkeydown={slash} />
<div class="scan" role="search" aria-label="Scan or find anything">
	<input
		bind:this={field}
		bind:value={typed}
		onkeydown={keys}
		maxlength="10000"
		placeholder="Scan or type a lot, serial, order, place or item"
		aria-label="Scan line"
		autocomplete="off"
		spellcheck="false"
	/>
	<kbd>/</kbd>
	{#if said}
		<div class="list" role="status">
			<p>{said}</p>
			{#each hits as hit, i (hit.url + hit.detail)}
				<a href={hit.url} class:at={i === at} onclick={close}
					><span class="mono">{hit.label}</span><span>{hit.what}</span><span class="soft">{hit.detail}</span></a
				>
			{/each}
		</div>
	{/if}
</div>

<style>
	.scan {
		position: relative;
		flex: 1;
		max-width: 800px;
	}
	input {
		width: 100%;
		height: 32px;
		box-sizing: border-box;
		border: 0;
		border-bottom: 2px solid var(--amber);
		background: #243340;
		color: #fff;
		font: inherit;
		padding: 0 2.5rem 0 0.75rem;
	}
	input::placeholder {
		color: #c3ced6;
	}
	input:focus-visible {
		outline: 2px solid #fff;
	}
	kbd {
		position: absolute;
		right: 8px;
		top: 6px;
		width: 20px;
		height: 18px;
		line-height: 18px;
		text-align: center;
		font-size: 0.75rem;
		border: 1px solid #52606b;
		color: #c3ced6;
	}
	.list {
		position: absolute;
		z-index: 30;
		top: 36px;
		left: 0;
		right: 0;
		background: var(--paper);
		border: 1px solid var(--tag-rule);
		color: var(--ink);
	}
	p {
		margin: 0;
		padding: 0.5rem 0.75rem;
		font-size: 0.8125rem;
		overflow-wrap: anywhere;
	}
	.list a {
		display: grid;
		grid-template-columns: minmax(10rem, auto) 5rem 1fr;
		gap: 0.75rem;
		padding: 0.4rem 0.75rem;
		color: var(--ink);
		text-decoration: none;
		border-top: 1px solid var(--rule);
	}
	.list a.at,
	.list a:hover {
		background: var(--amber-soft);
	}
</style>
