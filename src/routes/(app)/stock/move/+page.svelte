<script lang="ts">
	import { showWhen } from '$lib/ui/dates';
	import { grouped } from '$lib/core/quantity/sign';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import GridField from '$lib/ui/fields/GridField.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import { afterNavigate, goto, invalidateAll } from '$app/navigation';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { amount, less, parseQty, show, sub } from '$lib/core/quantity/quantity';
	import type { Fault } from '$lib/core/problem/problem';
	import FactField from '$lib/ui/facts/FactField.svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Question from '$lib/ui/shell/Question.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	import Message from '$lib/ui/shell/Message.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';

	let { data, form } = $props();
	interface Part {
		qty: string;
		to: string;
		facts?: Record<string, string>;
	}
	type Lying = (typeof data.lying)[number];
	/** what was changed by hand, by row; everything else goes whole to where it is suggested */
	let changed = $state<Record<string, Part[]>>({});
	let faults = $state<Fault[]>([]);
	let said = $state('');
	/** why something that is asked is left out; offered once the ledger wants it */
	let reason = $state('');
	const wantsReason = $derived(reason !== '' || faults.some((f) => f.level === 'reason'));
	let busy = $state(false);
	let key = crypto.randomUUID() as string;
	const store = $derived(`earmark putting away ${data.place}`);
	afterNavigate(() => (changed = JSON.parse(localStorage.getItem(store) ?? '{}')));
	const keep = () =>
		Object.keys(changed).length ? localStorage.setItem(store, JSON.stringify(changed)) : localStorage.removeItem(store);
	const isDock = $derived(!!data.places.find((p) => p.code === data.place)?.dock);
	// From a dock everything is offered a bin; elsewhere nothing moves unless it is said.
	const partsOf = (l: Lying): Part[] => changed[l.key] ?? [{ qty: l.qty, to: isDock ? (l.suggested[0] ?? '') : '' }];
	function change(l: Lying, n: number, part: Partial<Part>) {
		changed[l.key] = partsOf(l).map((p, i) => (i === n ? { ...p, ...part } : p));
		keep();
	}
	/** What a split leaves, in a part of its own. */
	const left = (l: Lying) => {
		let rest = l.qty;
		for (const p of partsOf(l)) {
			const q = parseQty(p.qty, l.decimals);
			if ('qty' in q) rest = less(rest, q.qty) ? '0' : sub(rest, q.qty);
		}
		return rest;
	};
	const split = (l: Lying) => {
		changed[l.key] = [...partsOf(l), { qty: left(l), to: l.suggested[1] ?? '' }];
		keep();
	};
	const going = $derived(
		data.lying.flatMap((l) =>
			partsOf(l)
				.filter((p) => p.to.trim() && p.qty !== '0')
				.map((p) => ({ l, p }))
		)
	);
	const numbers = $derived(going.reduce((n, { l }) => n + l.count, 0));
	const stays = $derived(data.lying.filter((l) => !partsOf(l).some((p) => p.to.trim())).length);

	async function go() {
		if (!going.length || busy) return;
		busy = true;
		faults = [];
		said = '';
		const moving = going;
		const rows = moving.map(({ l, p }) => ({
			kind: l.kind,
			item: l.item,
			number: l.number,
			count: l.count,
			lot: l.lot,
			qty: p.qty,
			to: p.to.trim(),
			...(p.facts ? { facts: p.facts } : {})
		}));
		try {
			const answer = await fetch('/moves', {
				method: 'POST',
				headers: { accept: 'application/json', 'content-type': 'application/json' },
				body: JSON.stringify({ key, from: data.place, rows, reason })
			});
			const given = await answer.json();
			if (!answer.ok)
				faults = given.errors ?? [{ message: given.detail ?? 'This could not be done. Nothing was moved.' }];
			else {
				said = given.said;
				key = crypto.randomUUID();
				// What was said of lines that are not shown now stays.
				for (const { l } of moving) delete changed[l.key];
				keep();
				reason = '';
				await invalidateAll();
			}
		} catch {
			faults = [{ message: 'Earmark does not answer. Nothing was moved; what you typed is kept. Try again.' }];
		} finally {
			busy = false;
		}
	}
	let emptying = $state<{ key: string; from: string; to: string } | null>(null);
	const empty = () => (emptying = { key: crypto.randomUUID(), from: data.place ?? '', to: '' });
	/** The place itself, or all of its site. */
	const whole = $derived.by((): [string, string][] => {
		const place = data.place ?? '';
		const [site] = place.split('/');
		const all: [string, string] = [site, `${site}, with all its bins`];
		return place === site ? [all] : [[place, place], all];
	});
	function keys(e: KeyboardEvent) {
		if (e.key === 'Enter' && e.ctrlKey && data.may) {
			e.preventDefault();
			void go();
		}
	}
</script>

<svelte:head><title>{data.place} · Stock · Earmark</title></svelte:head>
<svelte:window onkeydown={keys} />
<div class="head">
	<h1>Put away or move</h1>
	<Choose
		label="Place"
		hide
		value={data.place}
		options={data.places.map(
			(p) => [p.code, `${p.code}${p.name === p.code ? '' : `, ${p.name}`}${p.holds ? '' : ', empty'}`] as const
		)}
		onpick={(code) => goto(`/stock/move?place=${encodeURIComponent(code)}`)}
	/>
	<span class="soft"
		>{isDock
			? 'Each has a bin suggested where the same item is already; change it, or clear it to leave it here.'
			: 'Name a bin to move something there.'}</span
	>
	<span class="push acts"
		><a href="/stock/transfers">Transfers</a><a href="/stock/issues">Issues to jobs</a
		>{#if data.may && data.place}<Button kind="ghost" size="small" class="link" on:click={empty}
				>Empty {data.place}…</Button
			>{/if}</span
	>
</div>
<Said {form} />
<div aria-live="polite">
	{#key said}{#if said}<Message kind="success">{said}</Message>{/if}{/key}
</div>
<Faults {faults} onclose={() => (faults = [])} />
{#if data.more || data.find}
	<form class="fields find" action="/stock/move" role="search" aria-label="Find what lies here">
		<Hidden name="place" value={data.place ?? ''} />
		<Text label="Find a number, lot or item at {data.place}" ch={28} name="find" value={data.find} maxlength="100" />
		<Button kind="tertiary" size="small" type="submit">Find</Button>
		{#if data.find}<a href="/stock/move?place={encodeURIComponent(data.place ?? '')}">All that lies here</a>{/if}
		<span class="soft" role="status"
			>{data.more
				? `The first ${grouped(data.lying.length)} lines are shown; find the others by what is on them.`
				: ''}</span
		>
	</form>
{/if}
<Table size="short">
	<TableHead
		><TableRow
			><TableHeader>Number</TableHeader><TableHeader>Item</TableHeader><TableHeader>Expires</TableHeader><TableHeader
				class="num">Here</TableHeader
			><TableHeader class="num">Goes</TableHeader><TableHeader>To</TableHeader><TableHeader
				><span class="visually-hidden">What can be done</span></TableHeader
			></TableRow
		></TableHead
	>
	<TableBody>
		{#each data.lying as l (l.key)}
			{#each partsOf(l) as p, n (n)}
				<TableRow>
					<TableCell
						>{#if n === 0}<Tag
								kind={l.kind}
								number={l.number ?? ''}
								last={l.last ?? undefined}
								count={l.count}
								id={l.mark}
								status={l.status}
								item={l.itemName}
								place={data.place}
							/>{:else}<span class="soft">and</span>{/if}</TableCell
					>
					<TableCell data-label={n === 0 ? 'Item' : undefined} data-none={n > 0 || undefined}
						>{n === 0 ? l.itemName : ''}{n === 0 && l.lot ? ` · lot ${l.lot}` : ''}</TableCell
					>
					<TableCell data-label={n === 0 ? 'Expires' : undefined} data-none={!l.expiresOn || n > 0 || undefined}
						>{n > 0 ? '' : l.expiresOn ? showWhen(l.expiresOn) : '–'}</TableCell
					>
					<TableCell class="num" data-label={n === 0 ? 'Here' : undefined} data-none={n > 0 || undefined}
						>{n === 0 ? amount(l.qty, l.unit) : ''}</TableCell
					>
					<TableCell class="num" data-label="Goes"
						>{#if l.kind === 'serial' || !data.may}{show(l.qty)}{:else}<GridField
								label="Quantity of {l.number ?? l.itemName}, part {n + 1}"
								value={p.qty}
								decimals={l.decimals}
								ch={8}
								onchange={(value) => change(l, n, { qty: value.trim() })}
							/>{/if}</TableCell
					>
					<TableCell data-label="To"
						><GridField
							label="Bin for {l.number ?? l.itemName}, part {n + 1}"
							value={p.to}
							mono
							ch={14}
							list="bins"
							disabled={!data.may}
							placeholder="stays here"
							onchange={(value) => change(l, n, { to: value.trim() })}
						/>{#if n === 0 && !changed[l.key] && l.suggested.length && isDock}<span class="soft small"
								>same item already there</span
							>{/if}{#each l.facts as f (f.code)}<span class="fact"
								>{f.name}{f.unit ? `, ${f.unit}` : ''}
								<FactField
									grid
									fact={f}
									says="{f.name} of {l.number ?? l.itemName}, part {n + 1}"
									value={p.facts?.[f.code] ?? ''}
									onchange={(value) => change(l, n, { facts: { ...p.facts, [f.code]: value.trim() } })}
								/></span
							>{/each}</TableCell
					>
					<TableCell class="num"
						>{#if data.may && l.kind !== 'serial' && n === partsOf(l).length - 1 && left(l) !== '0'}<Button
								kind="ghost"
								size="small"
								class="link"
								on:click={() => split(l)}>Split: {amount(left(l), l.unit)} elsewhere</Button
							>{/if}</TableCell
					>
				</TableRow>
			{/each}
		{:else}<TableRow
				><TableCell colspan={7} class="soft"
					>{data.find ? `Nothing here is called “${data.find}”.` : 'Nothing is stored here.'}</TableCell
				></TableRow
			>{/each}
	</TableBody>
</Table>
<datalist id="bins"
	>{#each data.places as p (p.code)}<option value={p.code}>{p.name}</option>{/each}</datalist
>
{#if data.may && data.lying.length}
	<div class="foot" role="region" aria-label="What goes">
		<span
			>{going.length
				? `${grouped(numbers)} ${numbers === 1 ? 'number goes' : 'numbers go'}`
				: 'Nothing goes yet: name a bin.'}{going.length && stays
				? `, ${stays} ${stays === 1 ? 'stays' : 'stay'} here`
				: ''}</span
		>
		{#if wantsReason}<Text
				label="Reason, kept in the ledger"
				hide
				placeholder="Reason"
				bind:value={reason}
				maxlength="1000"
			/>{/if}
		<Button size="small" disabled={!going.length || busy} onclick={go} title="Ctrl + Enter"
			>{isDock ? 'Put away' : 'Move'}</Button
		>
	</div>
{/if}

{#if emptying}
	<Question
		title="Empty a place into another"
		verb="Move all of it"
		action="?/empty"
		disabled={!emptying.to}
		onleave={() => (emptying = null)}
	>
		<Hidden name="key" value={emptying.key} />
		<Choose label="What is emptied" name="from" options={whole} bind:value={emptying.from} />
		<Choose
			label="All of it goes to"
			name="to"
			options={[['', 'choose a place'], ...data.places.map((p) => p.code).filter((p) => p !== emptying?.from)]}
			bind:value={emptying.to}
		/>
		<Text label="Why, kept in the ledger" name="reason" maxlength="1000" />
	</Question>
{/if}

<style>
	.acts {
		display: flex;
		gap: 1.25rem;
		align-items: baseline;
	}
	.find {
		align-items: flex-end;
		margin-bottom: 0.5rem;
	}
	.small {
		font-size: 0.75rem;
		margin-left: 0.5rem;
	}
	.fact {
		margin-left: 0.75rem;
		white-space: nowrap;
		font-size: 0.8125rem;
	}
	.foot {
		position: fixed;
		inset: auto 0 0 72px;
		z-index: 12;
		display: flex;
		align-items: center;
		justify-content: space-between;
		gap: 1rem;
		padding: 0.75rem 1.25rem;
		background: var(--paper);
		border-top: 1px solid var(--rule);
	}
	@media (max-width: 640px) {
		.foot {
			left: 0;
		}
	}
</style>
