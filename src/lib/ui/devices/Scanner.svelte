<script lang="ts" module>
	import { GS } from '$lib/core/codes/gs1';

	/** How the scanner behaves: as it should, or with a fault that real ones have. */
	export const behaviours = ['works', 'scans twice', 'loses its last sign', 'types slowly'] as const;
	export type Behaviour = (typeof behaviours)[number];
	const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

	/** Presses the keys that a keyboard wedge would, where the cursor stands: through the same door as a real one. */
	export async function wedge(text: string, target: Element | null, behaviour: Behaviour = 'works') {
		const given = behaviour === 'loses its last sign' ? text.slice(0, -1) : text;
		for (let round = behaviour === 'scans twice' ? 2 : 1; round > 0; round--) {
			for (const sign of [...given, 'Enter']) {
				const el = (target?.isConnected ? target : document.body) as HTMLInputElement;
				const press = (type: string) =>
					el.dispatchEvent(
						new KeyboardEvent(type, {
							key: sign === GS ? ']' : sign,
							ctrlKey: sign === GS,
							bubbles: true,
							cancelable: true
						})
					);
				if (press('keydown') && sign.length === 1 && sign !== GS && 'setRangeText' in el && el.tagName === 'INPUT') {
					el.setRangeText(sign, el.selectionStart ?? 0, el.selectionEnd ?? 0, 'end');
					el.dispatchEvent(new Event('input', { bubbles: true }));
				}
				press('keyup');
				await pause(behaviour === 'types slowly' ? 120 : 5);
			}
			await pause(60);
		}
	}
</script>

<script lang="ts">
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
		await wedge(text.replaceAll('{FNC1}', GS), backToField(), behaviour);
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
