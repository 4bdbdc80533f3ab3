<script lang="ts">
	import { GS } from '$lib/core/codes/gs1';
	import { behaviours, wedge, type Behaviour } from './wedge';
	import Choose from '../fields/Choose.svelte';
	import { Button } from 'carbon-components-svelte';
	import Text from '../fields/Text.svelte';
	import { backToField } from '../scan/scanner';
	// The simulated hand scanner: any code typed or picked here is pressed as keys into the page.
	let code = $state('');
	let behaviour = $state<Behaviour>('works');
	let labels = $state<{ reads: string; number: string }[]>([]);
	$effect(() => {
		void fetch('/labels/latest', { headers: { accept: 'application/json' } }).then(async (a) => {
			if (a.ok) labels = (await a.json()).labels;
		});
	});
	async function scan(text: string) {
		if (!text.trim()) return;
		backToField();
		await wedge(text.replaceAll('{FNC1}', GS), behaviour);
	}
</script>

<aside aria-label="Scanner">
	<h2>Scanner</h2>
	<p class="soft">
		Stands in for a hand scanner. Put the cursor where you would scan; {'{FNC1}'} stands for that sign.
	</p>
	<Text label="Code" mono bind:value={code} maxlength="2000" />
	<Button size="small" on:click={() => scan(code)}>Scan it</Button>
	<Choose
		label="It"
		options={behaviours}
		value={behaviour}
		onpick={(b) => (behaviour = behaviours.find((x) => x === b) ?? 'works')}
	/>
	{#if labels.length}
		<h3>Labels printed last</h3>
		<ul>
			{#each labels as l (l.reads)}<li>
					<Button kind="ghost" size="small" class="link mono" title={l.reads} on:click={() => scan(l.reads)}
						><span class="visually-hidden">Scan </span>{l.number}</Button
					>
				</li>{/each}
		</ul>
	{/if}
</aside>

<style>
	aside {
		position: fixed;
		inset: 48px 0 0 auto;
		width: 230px;
		z-index: 15;
		box-sizing: border-box;
		padding: 0.75rem;
		background: var(--paper);
		border-left: 1px solid var(--rule);
		overflow-y: auto;
		display: flex;
		flex-direction: column;
		gap: 0.5rem;
	}
	h2,
	h3,
	p {
		margin: 0;
	}
	h3 {
		font-size: 0.875rem;
		margin-top: 0.5rem;
	}
	p {
		font-size: 0.8125rem;
	}
	ul {
		list-style: none;
		margin: 0;
		padding: 0;
	}
	li {
		padding: 0.15rem 0;
	}
</style>
