<script lang="ts">
	// How far a sale has come: its goods, its payment and its numbers, each for itself; and its terms.
	import { Button } from 'carbon-components-svelte';
	import { showWhen } from '$lib/ui/dates';
	import { numbersToCome, progressOf } from '$lib/core/sheet/progress';
	import NoteDown from './NoteDown.svelte';
	import Sign from './Sign.svelte';
	import type { Sheet } from './sheet.svelte';
	let { sheet, may }: { sheet: Sheet; may: boolean } = $props();
	const s = $derived(sheet.state);
	const progress = $derived(progressOf(s.lines, s.noted));
	const paid = $derived(s.noted.filter((n) => n.what === 'payment' && !n.withdrawn));
	const agreed = $derived(s.sale?.signed.find((x) => x.meaning === 'terms'));
	const without = $derived(s.lines.filter((l) => numbersToCome(l) !== '0'));
	const untouched = $derived(progress.goods === 'to ship' || progress.goods === 'staged');
	let asking = $state<'payment' | 'terms' | null>(null);
	const leave = () => (asking = null);
</script>

{#if s.lines.length}
	<dl class="progress">
		<div class:done={progress.goods === 'handed over'}>
			<dt>Goods</dt>
			<dd>{progress.goods}</dd>
		</div>
		<div class:done={paid.length > 0}>
			<dt>Payment</dt>
			<dd>
				{paid.length ? paid.map((n) => `${n.number}, ${showWhen(n.dated)}`).join('; ') : 'none noted'}
				{#if may}<Button kind="ghost" size="small" class="link" on:click={() => (asking = 'payment')}
						>Note a payment…</Button
					>{/if}
			</dd>
		</div>
		{#if progress.numbers !== 'none asked'}<div class:done={progress.numbers === 'assigned'}>
				<dt>Numbers</dt>
				<dd>
					{progress.numbers}{without.length && without.length < s.lines.length
						? `, open: line ${without.map((l) => l.no).join(', ')}`
						: ''}
				</dd>
			</div>{/if}
		{#if s.sale?.terms || agreed}<div class:done={!!agreed}>
				<dt>Terms</dt>
				<dd>
					{#if agreed}<a href="/orders/{encodeURIComponent(s.code)}/terms">signed by {agreed.signer}</a>
						<span class="soft">{showWhen(agreed.at)}</span>
					{:else}not signed{#if may && untouched && !s.closedAt}<Button
								kind="ghost"
								size="small"
								class="link"
								on:click={() => (asking = 'terms')}>Sign the terms…</Button
							>{/if}{/if}
				</dd>
			</div>{/if}
	</dl>
{/if}
{#if asking === 'payment'}<NoteDown {sheet} what="payment" onleave={leave} />
{:else if asking === 'terms'}<Sign {sheet} event={null} onleave={leave} />{/if}

<style>
	.progress {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 2rem;
		margin: 0 0 0.75rem;
		padding: 0.4rem 0.75rem;
		border-left: 3px solid var(--amber);
	}
	.progress > div {
		display: flex;
		flex-wrap: wrap;
		gap: 0 0.5rem;
		align-items: center;
	}
	dt {
		color: var(--ink-soft);
	}
	dd {
		display: flex;
		flex-wrap: wrap;
		gap: 0 0.75rem;
		align-items: center;
		margin: 0;
		font-weight: 600;
	}
	dd :global(.bx--btn) {
		font-weight: 400;
	}
	.done dd {
		color: var(--green);
	}
	dd .soft {
		font-weight: 400;
	}
</style>
