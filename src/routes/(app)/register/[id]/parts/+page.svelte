<script lang="ts">
	// What is in one unit, at any time; and to take parts out of it, put others in, or take it apart.
	import {
		Button,
		ContentSwitcher,
		Switch,
		Table,
		TableBody,
		TableCell,
		TableHead,
		TableHeader,
		TableRow
	} from 'carbon-components-svelte';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { readScan } from '$lib/core/codes/scan';
	import { takeScans } from '$lib/ui/scan/scanner';
	import { showDay, showWhen } from '$lib/ui/dates';
	import { amount } from '$lib/core/quantity/quantity';
	import { otherwise, type UnitPart } from '$lib/core/pairing/unit';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import DayField from '$lib/ui/fields/DayField.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data, form } = $props();
	const unit = $derived(data.unit);
	const KINDS = ['now', 'built', 'day'] as const;
	const kind = $derived(data.asOf === 'now' || data.asOf === 'built' ? data.asOf : 'day');
	const look = (at: string) => goto(`?at=${encodeURIComponent(at)}`, { keepFocus: true, noScroll: true });

	interface Fate {
		to: '' | 'bin' | 'hold' | 'scrap';
		place: string;
		instead: string;
	}
	// svelte-ignore state_referenced_locally
	const place = data.bins.find((b) => b === unit.place) ?? '';
	let fates = $state<Record<string, Fate>>({});
	const fateOf = (p: UnitPart): Fate => fates[p.mark] ?? { to: '', place, instead: '' };
	const set = (p: UnitPart, what: Partial<Fate>) => (fates[p.mark] = { ...fateOf(p), ...what });
	let rest = $state<'no' | 'yes'>('no');
	const changed = $derived(unit.parts.filter((p) => fateOf(p).to));
	const parts = $derived(
		changed.map((p) => {
			const f = fateOf(p);
			return { mark: p.mark, to: f.to, place: f.to === 'scrap' ? null : f.place, instead: f.instead.trim() || null };
		})
	);
	const different = $derived(otherwise(unit.parts, unit.planned));
	const changing = $derived(data.may && kind === 'now' && !!unit.place && unit.parts.length > 0);
	function takeApart() {
		for (const p of unit.parts) if (!fateOf(p).to) set(p, { to: 'bin' });
		rest = 'yes';
	}
	let scanned = $state('');
	/** A part that is scanned comes out; anything else is put in place of the last one that came out. */
	function scan(text: string): boolean {
		const read = readScan(text, new Date().getFullYear());
		const number = ('problem' in read ? '' : (read.serial ?? read.lot)) || text.trim();
		const own = unit.parts.find((p) => p.number === number);
		const empty = changed.findLast((p) => p.kind !== 'unmarked' && !fateOf(p).instead);
		if (own) set(own, { to: fateOf(own).to || 'bin' });
		else if (empty) set(empty, { instead: number });
		scanned = own
			? `${number} comes out`
			: empty
				? `${number} goes in, in place of ${empty.number}`
				: `${number} is not in ${unit.number}. Scan the part that comes out first`;
		return true;
	}
	onMount(() => takeScans((text) => changing && scan(text)));
	const fates_ = (p: UnitPart) =>
		[
			['', 'stays in'],
			['bin', 'comes out, to a bin'],
			...(p.kind === 'serial' ? [['hold', 'comes out, on hold'] as const] : []),
			['scrap', 'comes out, scrapped']
		] as const;
	const key = crypto.randomUUID();
</script>

{#snippet row(p: UnitPart, depth: number)}
	<TableRow class={depth ? 'inner' : ''}>
		<TableCell style="padding-left:{1 + depth * 1.5}rem"
			><Tag kind={p.kind} number={p.number} id={p.mark} status={p.status} expiresOn={p.expiresOn} /></TableCell
		>
		<TableCell>{p.itemName}</TableCell>
		<TableCell class="num">{amount(p.qty, p.unit)}</TableCell>
		{#if changing}
			{@const f = fateOf(p)}
			{@const said = p.number || p.itemName}
			<TableCell
				>{#if !depth}<Choose
						label="What becomes of {said}"
						hide
						options={fates_(p)}
						value={f.to}
						onpick={(to: string) => set(p, { to: to as Fate['to'] })}
					/>{/if}</TableCell
			>
			<TableCell
				>{#if !depth && (f.to === 'bin' || f.to === 'hold')}<Choose
						label="Bin for {said}"
						hide
						options={fateOf(p).place ? data.bins : [['', 'choose a bin'], ...data.bins]}
						value={f.place}
						onpick={(to: string) => set(p, { place: to })}
					/>{/if}</TableCell
			>
			<TableCell
				>{#if !depth && f.to && p.kind !== 'unmarked'}<Text
						label="In place of {said}"
						hide
						mono
						ch={16}
						value={f.instead}
						placeholder="nothing"
						maxlength="60"
						oninput={(e: Event & { currentTarget: HTMLInputElement }) => set(p, { instead: e.currentTarget.value })}
					/>{/if}</TableCell
			>
		{/if}
	</TableRow>
	{#each p.parts as inner (inner.mark)}{@render row(inner, depth + 1)}{/each}
{/snippet}
<svelte:head><title>Parts of {unit.number} · Register · Earmark</title></svelte:head>
<div class="head">
	<h1>Parts of <Tag kind="serial" number={unit.number} id={unit.id} /> {unit.itemName}</h1>
	<span class="soft"
		>run <span class="mono">{unit.run}</span>{unit.builtOn ? ` · made ${showWhen(unit.builtOn)}` : ''} · {unit.place
			? `at ${unit.place}`
			: 'not here'}</span
	>
	<span class="push"><a href="/trace?mark={unit.id}&direction=back">Trace back</a></span>
</div>
<Said form={form ?? (data.said ? { said: 'Booked. What came out and what went in stands in its history.' } : null)} />
<div class="asked">
	<ContentSwitcher
		size="sm"
		selectedIndex={KINDS.indexOf(kind)}
		on:change={(e) => {
			const to = KINDS[e.detail];
			if (to !== kind) look(to === 'day' ? new Date().toISOString().slice(0, 10) : to);
		}}
	>
		<Switch text="As it is now" />
		<Switch text="As built" />
		<Switch text="As of a day" />
	</ContentSwitcher>
	{#if kind === 'day'}<DayField
			label="At the end of"
			value={data.asOf}
			onday={(day: string) => day && day !== data.asOf && look(day)}
		/>{/if}
</div>
{#if changing}<p class="soft" role="status">
		{scanned || 'Scan a part to take it out, and then what goes in its place.'}
	</p>{/if}
{#if unit.planned.length}<p class="soft">
		{different.length
			? `Otherwise than the parts list says today: ${different.join('; ')}.`
			: 'As the parts list says today.'}
	</p>{/if}
<form method="POST" class="panel">
	<Hidden name="key" value={key} />
	<Hidden name="parts" value={JSON.stringify(parts)} />
	<Hidden name="scrapRest" value={rest} />
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Part</TableHeader><TableHeader>Item</TableHeader><TableHeader class="num">Quantity</TableHeader
				>{#if changing}<TableHeader>What becomes of it</TableHeader><TableHeader>Goes to</TableHeader><TableHeader
						>In its place</TableHeader
					>{/if}</TableRow
			></TableHead
		>
		<TableBody>
			{#each unit.parts as p (p.mark)}{@render row(p, 0)}{:else}<TableRow
					><TableCell colspan={6} class="soft"
						>{kind === 'now'
							? 'Nothing is in it now.'
							: `Nothing was in it ${kind === 'built' ? 'when it was made' : `on ${showDay(data.asOf)}`}.`}</TableCell
					></TableRow
				>{/each}
		</TableBody>
	</Table>
	{#if changing}
		<div class="below">
			<Choose
				label="What is left of {unit.number}"
				options={[
					['no', `stays at ${unit.place}`],
					['yes', 'is scrapped']
				]}
				bind:value={rest}
			/>
			<Text label="Why, in one line; it is kept in the ledger" name="reason" required maxlength="1000" ch={36} />
			<Button kind="tertiary" size="small" on:click={takeApart}>Take all of it apart</Button>
			<Button type="submit" size="small" disabled={!changed.length && rest === 'no'}
				>{changed.length ? `Book: ${changed.length} ${changed.length === 1 ? 'part' : 'parts'} out` : 'Book'}</Button
			>
		</div>
	{:else if data.may && kind === 'now' && !unit.place}
		<p class="soft none">It is not here, so nothing is taken out of it. Enter its return first.</p>
	{:else if data.may && kind !== 'now'}
		<p class="soft none">This is how it was. To change its parts, look at it as it is now.</p>
	{/if}
</form>

<style>
	h1 {
		display: flex;
		align-items: center;
		gap: 0.6rem;
	}
	.asked {
		display: flex;
		flex-wrap: wrap;
		align-items: end;
		gap: 0.5rem 1rem;
		margin-bottom: 0.75rem;
	}
	.below {
		display: flex;
		flex-wrap: wrap;
		align-items: end;
		gap: 0.5rem 1rem;
		padding: 0.75rem;
	}
	.below :global(.bx--btn:last-child) {
		margin-left: auto;
	}
	.none {
		margin: 0;
		padding: 0.75rem;
	}
</style>
