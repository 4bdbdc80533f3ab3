<script lang="ts">
	import { dayIn } from '$lib/core/time/clock';
	import History from '$lib/ui/setup/History.svelte';
	import { Button } from 'carbon-components-svelte';
	import Add from 'carbon-icons-svelte/lib/Add.svelte';
	import { CHECK_METHODS, inWords, readBack, type Block } from '$lib/core/numbering/pattern';
	import { showDay } from '$lib/core/dates/dates';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';

	let { data, form } = $props();
	// svelte-ignore state_referenced_locally
	let blocks = $state<Block[]>(
		data.pattern?.blocks ?? [
			{ kind: 'text', text: 'WM-' },
			{ kind: 'sequence', digits: 4, reset: 'never' }
		]
	);
	// svelte-ignore state_referenced_locally
	let name = $state(data.pattern?.name ?? '');
	let start = $state('');
	// What the preview is drawn for, where a block says it.
	// svelte-ignore state_referenced_locally
	let item = $state(data.pattern?.items[0] ?? data.items[0]?.code ?? '');
	// svelte-ignore state_referenced_locally
	let place = $state(data.places.find((p) => p.includes('/')) ?? '');
	const has = (...kinds: Block['kind'][]) => blocks.some((b) => kinds.includes(b.kind));
	const locked = $derived(!!data.pattern?.drawn);
	const kinds: [Block['kind'], string][] = [
		['text', 'own text'],
		['year', 'year'],
		['month', 'month'],
		['day', 'day of the month'],
		['week', 'ISO week'],
		['year day', 'day of the year'],
		['item', 'item code'],
		['site', 'site'],
		['line', 'bin or line'],
		['sequence', 'sequence'],
		['check', 'check character']
	];
	const made = (kind: Block['kind']): Block =>
		kind === 'text'
			? { kind, text: '-' }
			: kind === 'year'
				? { kind, digits: 2 }
				: kind === 'sequence'
					? { kind, digits: 4, reset: 'never' }
					: kind === 'check'
						? { kind, method: 'MOD 37,36' }
						: { kind };
	interface Preview {
		next: string[];
		room: number;
		busiest: number;
		clash: string[];
		faults: string[];
	}
	let shown = $state<Preview | null>(null);
	$effect(() => {
		const body = JSON.stringify({ id: data.pattern?.id ?? null, blocks, item, place, start: start || 1 });
		const timer = setTimeout(async () => {
			const answer = await fetch('/setup/patterns/preview', {
				method: 'POST',
				headers: { 'content-type': 'application/json', accept: 'application/json' },
				body
			});
			if (answer.ok) shown = await answer.json();
		}, 150);
		return () => clearTimeout(timer);
	});
	const sequence = $derived(blocks.find((b) => b.kind === 'sequence'));
	const per = $derived(sequence && sequence.reset !== 'never' ? ` a ${sequence.reset}` : ' in all');
	const reads = $derived.by(() => {
		const first = shown?.next[0];
		const read = first ? readBack(blocks, first) : null;
		return read && !('problem' in read) ? inWords(read) : '';
	});
	const today = $derived(dayIn(data.zone, new Date()));
	const move = (n: number, by: number) => blocks.splice(n + by, 0, ...blocks.splice(n, 1));
</script>

<KeptForm {form}>
	<input type="hidden" name="blocks" value={JSON.stringify(blocks)} />
	<div class="panel fields">
		{#if data.pattern}<h2 class="mono">{data.pattern.code}</h2>{:else}<label class="field"
				>Code<input class="plain mono" name="code" required size="14" maxlength="60" data-first /></label
			>{/if}
		<label class="field"
			>Name<input class="plain" name="name" bind:value={name} required size="30" maxlength="200" /></label
		>
		{#if !locked}<label class="field"
				>Start at, if lower ones are used<input
					class="plain num"
					name="start"
					bind:value={start}
					size="9"
					inputmode="numeric"
					maxlength="13"
				/></label
			>
			<Button type="submit" size="field" disabled={!!shown?.faults.length}>Save</Button>{/if}
	</div>
	<section class="panel">
		<h2>Blocks, from left to right</h2>
		{#if locked}<p class="soft">
				{data.pattern!.drawn.toLocaleString('en')} numbers are drawn from it, so its blocks stay: changed, those numbers could
				not be read back. Make a new pattern instead.
			</p>{/if}
		<ol class="blocks">
			{#each blocks as b, n (b)}
				<li>
					<label class="field"
						>Block {n + 1}<select
							class="plain"
							disabled={locked}
							value={b.kind}
							onchange={(e) => (blocks[n] = made(e.currentTarget.value as Block['kind']))}
							>{#each kinds as [k, words] (k)}<option value={k}>{words}</option>{/each}</select
						></label
					>
					{#if b.kind === 'text'}<label class="field"
							>Text<input class="plain mono" bind:value={b.text} disabled={locked} size="8" maxlength="40" /></label
						>{:else if b.kind === 'year'}<label class="field"
							>Digits<select class="plain" bind:value={b.digits} disabled={locked}
								><option value={2}>2</option><option value={4}>4</option></select
							></label
						>{:else if b.kind === 'sequence'}<label class="field"
							>Digits<select class="plain" bind:value={b.digits} disabled={locked}
								>{#each Array.from({ length: 12 }, (_, i) => i + 1) as d (d)}<option value={d}>{d}</option
									>{/each}</select
							></label
						><label class="field"
							>Starts again<select class="plain" bind:value={b.reset} disabled={locked}
								>{#each [['never', 'never'], ['year', 'each year'], ['month', 'each month'], ['week', 'each week'], ['day', 'each day']] as [v, words] (v)}<option
										value={v}>{words}</option
									>{/each}</select
							></label
						>{:else if b.kind === 'check'}<label class="field"
							>Method<select class="plain" bind:value={b.method} disabled={locked}
								>{#each CHECK_METHODS as m (m)}<option>{m}</option>{/each}</select
							></label
						>{/if}
					{#if !locked}<span class="acts">
							<button type="button" class="link" disabled={n === 0} onclick={() => move(n, -1)}
								>Left<span class="visually-hidden"> block {n + 1}</span></button
							>
							<button type="button" class="link" disabled={n === blocks.length - 1} onclick={() => move(n, 1)}
								>Right<span class="visually-hidden"> block {n + 1}</span></button
							>
							<button type="button" class="link" onclick={() => blocks.splice(n, 1)}
								>Take out<span class="visually-hidden"> block {n + 1}</span></button
							>
						</span>{/if}
				</li>
			{/each}
			{#if !locked}<li class="more">
					<button type="button" class="act add" onclick={() => blocks.push({ kind: 'text', text: '-' })}
						><Add size={16} /> Add a block</button
					>
				</li>{/if}
		</ol>
	</section>
	<section class="panel" aria-live="polite">
		<h2>What it gives</h2>
		{#if has('item', 'site', 'line')}<div class="fields for">
				{#if has('item')}<label class="field"
						>For<select class="plain" bind:value={item}
							>{#each data.items as i (i.code)}<option value={i.code}>{i.code}: {i.name}</option>{/each}</select
						></label
					>{/if}
				{#if has('site', 'line')}<label class="field"
						>Drawn at<select class="plain" bind:value={place}
							>{#each data.places as p (p)}<option>{p}</option>{/each}</select
						></label
					>{/if}
			</div>{/if}
		{#if shown?.faults.length}
			<ul class="faults">
				{#each shown.faults as f (f)}<li>{f}</li>{/each}
			</ul>
		{:else if shown}
			<p>
				Next, today ({showDay(today)}): {#each shown.next as n (n)}<Tag kind="serial" number={n} />&nbsp;{/each}
			</p>
			<p class="soft">
				Room for {shown.room.toLocaleString('en')} numbers{per}{shown.busiest
					? `; the busiest gave ${shown.busiest.toLocaleString('en')}`
					: ''}. Read back, the first says: {reads}.
			</p>
			{#if shown.clash.length}<p class="clash">
					{shown.clash.join(', ')}
					{shown.clash.length === 1 ? 'exists' : 'exist'} already and would be passed over for an item that has {shown
						.clash.length === 1
						? 'it'
						: 'them'}.
				</p>{/if}
		{/if}
	</section>
</KeptForm>
<History changes={data.history} />

<style>
	.fields,
	section {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.fields.for {
		padding: 0;
	}
	.blocks {
		display: flex;
		flex-wrap: wrap;
		gap: 0.75rem;
		list-style: none;
		margin: 0;
		padding: 0;
	}
	.blocks li {
		display: flex;
		flex-wrap: wrap;
		gap: 0.5rem;
		align-items: flex-start;
		align-content: flex-start;
		border: 1px solid var(--rule);
		border-left: 3px solid var(--tag-rule);
		padding: 0.4rem 0.6rem;
		max-width: 24rem;
	}
	.blocks .more {
		border: 0;
		align-self: center;
	}
	.acts {
		display: flex;
		gap: 0.75rem;
		flex-basis: 100%;
		font-size: 0.8125rem;
	}
	.add {
		display: inline-flex;
		align-items: center;
		gap: 0.3rem;
	}
	.faults {
		margin: 0;
		padding-left: 1.1rem;
		color: var(--red);
	}
	.clash {
		color: var(--amber-ink);
	}
</style>
