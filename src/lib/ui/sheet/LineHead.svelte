<script lang="ts">
	import { unitWord } from '$lib/core/quantity/units';
	import type { Snippet } from 'svelte';
	import { add, show } from '$lib/core/quantity/quantity';
	import { statesIn } from '$lib/core/sheet/entered';
	import type { PickState, SheetLine } from '$lib/core/sheet/sheet';
	interface Props {
		line: SheetLine;
		/** "entered", "picked" */
		word: string;
		/** what its stock is fetched as: what each state is called */
		states?: Readonly<Record<PickState, string>>;
		open: boolean;
		ontoggle: () => void;
		children?: Snippet;
	}
	let { line, word, states, open, ontoggle, children }: Props = $props();
	const share = (qty: string) => Math.min(100, (Number(qty) / Number(line.qty)) * 100);
	const part = $derived(share(add(line.done, line.entered)));
	const booked = $derived(share(line.done));
	/** how far what goes has come; null where nothing of it is to be fetched */
	const how = $derived(states && line.cells.length && line.open !== '0' ? statesIn(line.cells) : null);
	/** what somebody named or has in hand, and what nobody has looked at */
	const named = $derived(how ? share(add(line.done, add(how.chosen, how.picked))) : part);
	const inHand = $derived(
		how ? share(add(line.done, states!.chosen === states!.picked ? add(how.chosen, how.picked) : how.picked)) : part
	);
	const counts = $derived.by(() => {
		if (!how || !states) return '';
		const by = new Map<string, string>();
		for (const state of ['picked', 'chosen', 'suggested'] as const)
			if (how[state] !== '0') by.set(states[state], add(by.get(states[state]) ?? '0', how[state]));
		const said = [...by].map(([word, qty]) => ({ word, qty }));
		const [first] = said;
		const open = show(line.open);
		if (!first) return `0 of ${open} ${states.picked}`;
		return said.length === 1
			? `${show(first.qty)} of ${open} ${first.word}`
			: `${said.map((s) => `${show(s.qty)} ${s.word}`).join(', ')} of ${open}`;
	});
	const full = $derived(inHand >= 100);
	const stopped = $derived(
		[
			...line.findings,
			...line.rows.flatMap((r) => r.findings),
			...line.cells.flatMap((c) => c.picks.flatMap((p) => p.findings))
		].some((f) => f.level === 'stop' && !f.open)
	);
</script>

<div class="line" id="line-{line.no}">
	<button class="toggle" aria-expanded={open} onclick={ontoggle}>
		<span class="no">{line.no}</span>
		<span class="what"
			>{#if line.picture}<img src="/files/{line.picture}" alt="" />{/if}<b>{line.itemName}</b>
			<span class="soft"
				>{line.item}{line.tracking === 'none' ? '' : ` · ${line.tracking}`}{line.expiry === 'not asked'
					? ''
					: ', expiry'}{line.forPartner ? ` · for ${line.forPartner}` : ''}</span
			></span
		>
		<span class="ordered">{show(line.qty)} {unitWord(line.unit)}</span>
		<span class="bar" aria-hidden="true"
			>{#if how}<i class="suggested" style="width:{part}%"></i>{/if}<i class:full class:stopped style="width:{named}%"
			></i><i class="booked" style="width:{booked}%"></i></span
		>
		<span class="count"
			>{#if how}{counts}{:else}<b>{show(add(line.done, line.entered))}</b> of {show(line.qty)}
				{word}{/if}{line.done !== '0' ? `, ${show(line.done)} booked` : ''}</span
		>
	</button>
	{@render children?.()}
</div>

<style>
	img {
		width: 32px;
		height: 32px;
		object-fit: contain;
		vertical-align: middle;
		margin-right: 0.5rem;
	}
	.line {
		scroll-margin-top: 60px;
	}
	.toggle {
		display: grid;
		grid-template-columns: 2rem minmax(12rem, 2.2fr) 7rem minmax(5rem, 2fr) minmax(11rem, auto);
		gap: 0.75rem;
		align-items: center;
		width: 100%;
		min-height: 40px;
		padding: 0 0.75rem;
		border: 0;
		border-bottom: 1px solid var(--rule);
		background: none;
		color: var(--ink);
		font: inherit;
		text-align: left;
		cursor: pointer;
	}
	.no {
		color: var(--ink-soft);
	}
	.bar {
		position: relative;
		height: 6px;
		background: var(--rule);
	}
	i {
		position: absolute;
		inset: 0 auto 0 0;
		background: var(--ink);
	}
	i.suggested {
		background: none;
		border: 1px solid var(--ink-soft);
		box-sizing: border-box;
	}
	i.full {
		background: var(--green);
	}
	i.stopped {
		background: var(--red);
	}
	i.booked {
		background: var(--ink-soft);
	}
	.count {
		text-align: right;
		font-size: 0.8125rem;
	}
	@media (max-width: 640px) {
		.toggle {
			grid-template-columns: 1.5rem 1fr auto;
			padding: 0.5rem 0.75rem;
			gap: 0.25rem 0.5rem;
		}
		.bar {
			grid-column: 2 / 4;
			grid-row: 2;
		}
		.count {
			grid-column: 2 / 4;
			text-align: left;
		}
	}
</style>
