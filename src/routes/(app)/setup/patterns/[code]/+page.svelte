<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import { dayIn } from '$lib/core/time/clock';
	import History from '$lib/ui/setup/History.svelte';
	import { Button } from 'carbon-components-svelte';
	import Add from 'carbon-icons-svelte/lib/Add.svelte';
	import { CHECK_METHODS, inWords, readBack, type Block } from '$lib/core/numbering/pattern';
	import { showDay } from '$lib/ui/dates';
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
	const RESETS = [
		['never', 'never'],
		['year', 'each year'],
		['month', 'each month'],
		['week', 'each week'],
		['day', 'each day']
	] as const;
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
	<Hidden name="blocks" value={JSON.stringify(blocks)} />
	<div class="panel fields">
		{#if data.pattern}<h2 class="mono">{data.pattern.code}</h2>{:else}<Text
				label="Code"
				mono
				ch={14}
				name="code"
				required
				maxlength="60"
				data-first
			/>{/if}
		<Text label="Name" ch={30} name="name" bind:value={name} required maxlength="200" />
		{#if !locked}<Text
				label="Start at, if lower ones are used"
				num
				ch={9}
				name="start"
				bind:value={start}
				inputmode="numeric"
				maxlength="13"
			/>
			<Button type="submit" size="small" disabled={!!shown?.faults.length}>Save</Button>{/if}
	</div>
	<section class="panel">
		<h2>Blocks, from left to right</h2>
		{#if locked}<p class="soft">
				{grouped(data.pattern!.drawn)} numbers are drawn from it, so its blocks stay: changed, those numbers could not be
				read back. Make a new pattern instead.
			</p>{/if}
		<ol class="blocks">
			{#each blocks as b, n (b)}
				<li>
					<Choose
						label="Block {n + 1}"
						disabled={locked}
						value={b.kind}
						options={kinds}
						onpick={(v) => (blocks[n] = made(kinds.find(([k]) => k === v)![0]))}
					/>
					{#if b.kind === 'text'}<Text
							label="Text"
							mono
							ch={8}
							bind:value={b.text}
							disabled={locked}
							maxlength="40"
						/>{:else if b.kind === 'year'}<Choose
							label="Digits"
							disabled={locked}
							value={String(b.digits)}
							options={['2', '4']}
							onpick={(v) => (b.digits = v === '2' ? 2 : 4)}
						/>{:else if b.kind === 'sequence'}<Choose
							label="Digits"
							disabled={locked}
							value={String(b.digits)}
							options={Array.from({ length: 12 }, (_, i) => String(i + 1))}
							onpick={(v) => (b.digits = Number(v))}
						/><Choose
							label="Starts again"
							disabled={locked}
							value={b.reset}
							options={RESETS}
							onpick={(v) => (b.reset = RESETS.find(([r]) => r === v)![0])}
						/>{:else if b.kind === 'check'}<Choose
							label="Method"
							disabled={locked}
							value={b.method}
							options={CHECK_METHODS}
							onpick={(v) => (b.method = CHECK_METHODS.find((m) => m === v)!)}
						/>{/if}
					{#if !locked}<span class="acts">
							<Button kind="ghost" size="small" class="link" disabled={n === 0} on:click={() => move(n, -1)}
								>Left<span class="visually-hidden"> block {n + 1}</span></Button
							>
							<Button
								kind="ghost"
								size="small"
								class="link"
								disabled={n === blocks.length - 1}
								on:click={() => move(n, 1)}>Right<span class="visually-hidden"> block {n + 1}</span></Button
							>
							<Button kind="ghost" size="small" class="link" on:click={() => blocks.splice(n, 1)}
								>Remove<span class="visually-hidden"> block {n + 1}</span></Button
							>
						</span>{/if}
				</li>
			{/each}
			{#if !locked}<li class="more">
					<Button kind="tertiary" size="small" class="add" on:click={() => blocks.push({ kind: 'text', text: '-' })}
						><Add size={16} /> Add a block</Button
					>
				</li>{/if}
		</ol>
	</section>
	<section class="panel" aria-live="polite">
		<h2>What it gives</h2>
		{#if has('item', 'site', 'line')}<div class="fields for">
				{#if has('item')}<Choose
						label="For"
						bind:value={item}
						options={data.items.map((i) => [i.code, `${i.code}: ${i.name}`] as const)}
					/>{/if}
				{#if has('site', 'line')}<Choose label="Drawn at" bind:value={place} options={data.places} />{/if}
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
				Room for {grouped(shown.room)} numbers{per}{shown.busiest
					? `; the busiest gave ${grouped(shown.busiest)}`
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
	.faults {
		margin: 0;
		padding-left: 1.1rem;
		color: var(--red);
	}
	.clash {
		color: var(--amber-ink);
	}
</style>
