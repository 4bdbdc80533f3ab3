<script lang="ts">
	// Counting, at the desk or on a phone: scan, type how much, go on. What is expected is shown only when it was counted.
	import { onMount, tick } from 'svelte';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import type { CountRow } from '$lib/core/count/shown';
	import { showDay, showWhen } from '$lib/ui/dates';
	import { group } from '$lib/core/group/group';
	import { amount, show } from '$lib/core/quantity/quantity';
	import { grouped } from '$lib/core/quantity/sign';
	import { unitWord } from '$lib/core/quantity/units';
	import { Count } from '$lib/ui/count/count.svelte';
	import Total from '$lib/ui/count/Total.svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Seek from '$lib/ui/fields/Seek.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import { takeScans } from '$lib/ui/scan/scanner';
	import Says from '$lib/ui/scan/Says.svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import Foot from '$lib/ui/shell/Foot.svelte';
	import Question from '$lib/ui/shell/Question.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';

	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const count = new Count(data.count);
	onMount(() => count.connect());
	onMount(() => count.follow());
	onMount(() =>
		takeScans((text, into) => {
			// A quantity that is being typed is no number.
			if (shut || into?.closest('[data-field]')) return false;
			enter(text);
			return true;
		})
	);
	const s = $derived(count.state);
	const shut = $derived(!data.may || !!s.closedAt);
	const sheets = $derived(`/orders/${encodeURIComponent(s.code)}/count/sheets`);

	let text = $state('');
	let qty = $state('');
	let item = $state('');
	let field = $state<HTMLInputElement | null>(null);
	let amountField = $state<HTMLInputElement | null>(null);
	let totalling = $state<string | null>(null);
	let resting = $state(false);
	let ending = $state(false);
	let why = $state('');
	let reasons = $state<Record<string, string>>({});

	function enter(scanned: string) {
		count.take(scanned);
		text = '';
		qty = '';
	}
	async function submit(e: SubmitEvent) {
		e.preventDefault();
		if (count.ask) {
			if (!qty.trim()) return;
			count.row(count.ask.mark, qty);
			// The next number: a scan, or typed here.
			await tick();
			field?.focus();
		} else if (count.unknown) {
			if (!item) return;
			count.fresh(item, count.unknown, qty);
		} else count.take(text);
		text = '';
		qty = '';
	}
	// What is asked for is typed without another press.
	$effect(() => {
		if (count.ask) void tick().then(() => amountField?.focus());
	});
	const lots = $derived(
		[
			...group(
				s.rows.filter((r) => r.kind === 'lot' && r.mark),
				(r) => r.item
			)
		].filter(([, list]) => list.length > 1)
	);
	const open = $derived(s.rows.filter((r) => r.counted === null).length);
	const without = $derived(s.differences.filter((d) => !reasons[d.key]));
	const ready = $derived(s.counted > 0 && !s.missing.length && !without.length && !count.busy && !count.queue.length);
	const all = (reason: string) => {
		if (reason) reasons = Object.fromEntries(s.differences.map((d) => [d.key, reason]));
	};
	const book = async () => {
		if (!ready) return;
		await count.book(Object.fromEntries(s.differences.map((d) => [d.key, reasons[d.key]])));
	};
	const sign = (change: string) => (change.startsWith('-') ? `− ${show(change.slice(1))}` : `+ ${show(change)}`);
	const says = $derived(
		count.waiting ||
			count.said ||
			count.last?.said ||
			(s.closedAt ? 'This count is closed.' : `Scan a number at ${s.at}, or the label of another bin.`)
	);
	const tone = $derived(
		count.waiting ? 'bad' : count.last && !count.last.taken && !count.said ? 'bad' : count.last ? 'good' : ''
	);
</script>

<svelte:head><title>{s.code} · Counts · Earmark</title></svelte:head>
<svelte:window
	onkeydown={(e) => {
		if (e.key === 'Enter' && e.ctrlKey && data.mayBook && !shut) {
			e.preventDefault();
			void book();
		}
	}}
/>
{#snippet tag(r: CountRow)}<Tag
		kind={r.kind}
		number={r.number}
		id={r.mark}
		item={r.itemName}
		place={r.place}
		expiresOn={null}
	/>{/snippet}
<div class="head">
	<h1>Count {s.code}</h1>
	<span class="soft"
		>{s.place} · {grouped(s.counted)} of {grouped(s.asked)} counted{s.differences.length
			? `, ${s.differences.length} ${s.differences.length === 1 ? 'differs' : 'differ'}`
			: ''}{s.closedAt ? ` · closed ${showDay(s.closedAt)}` : ''}</span
	>
	{#if !s.closedAt && s.asked}<span class="push acts"
			><a href={sheets}>Print sheets (PDF)</a><a href="{sheets}?expected">with what is expected</a></span
		>{/if}
</div>
{#if s.note}<p class="soft">{s.note}</p>{/if}
<Faults faults={count.faults} onclose={() => (count.faults = [])} />
<Says says={says + (count.queue.length ? ` (${count.queue.length} on the way)` : '')} {tone} />
{#if !shut}
	<form class="panel take" onsubmit={submit}>
		{#if count.ask}
			<span class="what"
				>{count.ask.number}
				<span class="soft"
					>{count.ask.itemName}{count.ask.before ? `, counted ${show(count.ask.before)}; +5 is five more` : ''}</span
				></span
			>
			<Text
				label="How much, {unitWord(count.ask.unit)}"
				num
				ch={10}
				inputmode="decimal"
				data-field="fill"
				bind:value={qty}
				bind:ref={amountField}
				maxlength="40"
			/>
			<Button size="small" type="submit" disabled={!qty.trim()}>Count it</Button>
			<Button kind="ghost" size="small" class="link" on:click={() => (count.ask = null)}>Leave it</Button>
		{:else if count.unknown}
			<span class="what">{count.unknown} <span class="soft">is in no book. It is a number of</span></span>
			<Seek label="Item" words ch={24} options={data.items.map((i) => [i.code, i.name] as const)} bind:value={item} />
			<Text
				label="How much"
				num
				ch={8}
				inputmode="decimal"
				data-field="fill"
				bind:value={qty}
				placeholder="1"
				maxlength="40"
			/>
			<Button size="small" type="submit" disabled={!item}>Count it</Button>
			<Button kind="ghost" size="small" class="link" on:click={() => (count.unknown = '')}>Leave it</Button>
		{:else}
			<Text
				label="Number, item or bin"
				mono
				ch={24}
				bind:value={text}
				bind:ref={field}
				maxlength="200"
				autocomplete="off"
			/>
			<Button kind="ghost" size="small" type="submit">Enter it</Button>
		{/if}
	</form>
{/if}
{#if s.places.length > 1}
	<nav class="places" aria-label="Places">
		{#each s.places as p (p.code)}<Button
				kind="ghost"
				size="small"
				class={p.code === s.at ? 'here' : ''}
				aria-current={p.code === s.at ? 'true' : undefined}
				on:click={() => count.show(p.code)}
				><span class="mono">{p.code}</span>&nbsp;<span class="soft"
					>{p.asked && p.counted >= p.asked ? '✓' : `${grouped(p.counted)} of ${grouped(p.asked)}`}{p.differences
						? `, ${p.differences} ${p.differences === 1 ? 'differs' : 'differ'}`
						: ''}</span
				></Button
			>{/each}
	</nav>
{/if}
<section class="panel" aria-label={s.at}>
	<div class="line">
		<h2 class="mono">{s.at}</h2>
		{#if !shut}
			{#each lots as [code, [first]] (code)}<Button
					kind="ghost"
					size="small"
					class="link"
					on:click={() => (totalling = code)}>Count only the total of {first.itemName}…</Button
				>{/each}
			{#if open}<Button kind="ghost" size="small" class="link" on:click={() => (resting = true)}
					>The other {open} {open === 1 ? 'is' : 'are'} not there…</Button
				>{/if}
		{/if}
	</div>
	{#if totalling}
		{@const [of] = s.rows.filter((r) => r.item === totalling)}
		{#key totalling}<Total
				{count}
				item={{ code: of.item, name: of.itemName, unit: of.unit, decimals: of.decimals }}
				onleave={() => (totalling = null)}
			/>{/key}
	{/if}
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Number</TableHeader><TableHeader>Item</TableHeader><TableHeader class="num">Counted</TableHeader
				><TableHeader class="num">Expected</TableHeader><TableHeader>By</TableHeader><TableHeader>Check</TableHeader
				><TableHeader><span class="visually-hidden">What can be done</span></TableHeader></TableRow
			></TableHead
		>
		<TableBody>
			{#each s.rows as r (r.key)}
				<TableRow class={r.stops.length ? 'bad' : ''}>
					<TableCell>{@render tag(r)}</TableCell>
					<TableCell data-label="Item"
						>{r.itemName}{#if r.lot}<span class="soft"> · lot {r.lot}</span>{/if}</TableCell
					>
					<TableCell class="num" data-label="Counted" data-none={r.counted === null || undefined}
						>{r.counted === null ? '–' : amount(r.counted, r.unit)}</TableCell
					>
					<TableCell class="num" data-label="Expected" data-none={r.expected === null || undefined}
						>{r.expected === null ? '' : amount(r.expected, r.unit)}</TableCell
					>
					<TableCell data-label="By" data-none={!r.by || undefined}
						>{r.by ?? ''}
						{#if r.at}<span class="soft">{showWhen(r.at).split(' ').pop()}</span>{/if}</TableCell
					>
					<TableCell class="check" data-label="Check"
						>{#if r.counted === null}<span class="soft">to count</span>{:else}{r.change === '0'
								? 'as expected'
								: sign(r.change!)}{r.elsewhere ? `, by the ledger at ${r.elsewhere}` : ''}{r.listed
								? ''
								: r.mark
									? ', not expected here'
									: ', in no book'}{#each r.stops as stop (stop)}<span class="stop">{stop}</span>{/each}{/if}</TableCell
					>
					<TableCell class="num"
						>{#if !shut}{#if r.mark}{#if r.kind === 'serial'}{#if r.counted !== '1'}<Button
											kind="ghost"
											size="small"
											class="link"
											on:click={() => count.row(r.mark!, '1')}
											>It is there<span class="visually-hidden">: {r.number}</span></Button
										>{/if}{#if r.counted !== '0'}<Button
											kind="ghost"
											size="small"
											class="link"
											on:click={() => count.row(r.mark!, '0')}
											>Not there<span class="visually-hidden">: {r.number}</span></Button
										>{/if}{:else}<Button kind="ghost" size="small" class="link" on:click={() => count.choose(r)}
										>Count…<span class="visually-hidden"> {r.number}</span></Button
									>{/if}{/if}{#if r.counted !== null}<Button
									kind="ghost"
									size="small"
									class="link"
									on:click={() => count.back(r)}>Take back<span class="visually-hidden"> {r.number}</span></Button
								>{/if}{/if}</TableCell
					>
				</TableRow>
			{:else}<TableRow
					><TableCell colspan={7} class="soft">By the ledger nothing lies here. Scan what does.</TableCell></TableRow
				>{/each}
		</TableBody>
	</Table>
	{#if s.more}<p class="soft more">
			{grouped(s.more)} more are not shown. What is counted gives way to what is not yet.
		</p>{/if}
</section>
{#if s.differences.length}
	<section>
		<div class="line">
			<h2>Differences</h2>
			{#if data.mayBook && !s.closedAt && s.differences.length > 1}<Choose
					label="Why, for all of them"
					hide
					options={[['', 'one reason for all'], ...s.reasons]}
					value=""
					onpick={all}
				/>{/if}
		</div>
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Place</TableHeader><TableHeader>Number</TableHeader><TableHeader>Item</TableHeader><TableHeader
						class="num">Expected</TableHeader
					><TableHeader class="num">Counted</TableHeader><TableHeader class="num">Difference</TableHeader><TableHeader
						>Second count</TableHeader
					>{#if data.mayBook && !s.closedAt}<TableHeader>Why</TableHeader>{/if}</TableRow
				></TableHead
			>
			<TableBody>
				{#each s.differences as d (d.key)}<TableRow
						><TableCell class="mono" data-label="Place">{d.place}</TableCell><TableCell data-label="Number"
							>{@render tag(d)}</TableCell
						><TableCell data-label="Item">{d.itemName}</TableCell><TableCell class="num" data-label="Expected"
							>{amount(d.expected!, d.unit)}</TableCell
						><TableCell class="num" data-label="Counted">{amount(d.counted!, d.unit)}</TableCell><TableCell
							class="num"
							data-label="Difference">{sign(d.change!)}</TableCell
						><TableCell data-label="Second count"
							>{d.second === 'wanted' ? 'wanted' : d.second === 'done' ? 'done' : '–'}</TableCell
						>{#if data.mayBook && !s.closedAt}<TableCell data-label="Why"
								><Choose
									label="Why {d.number} at {d.place} differs"
									hide
									options={[['', 'choose why'], ...s.reasons]}
									value={reasons[d.key] ?? ''}
									onpick={(reason) => (reasons[d.key] = reason)}
								/></TableCell
							>{/if}</TableRow
					>{/each}
			</TableBody>
		</Table>
	</section>
{/if}
{#if s.events.length}<p class="soft">
		{#each s.events as e (e.id)}Booked {showWhen(e.at)} by {e.by}{e.undone ? ', undone' : ''}.
		{/each}<a href="/stock/adjusted?act=counted&find={encodeURIComponent(s.code)}"
			>Its differences among all adjustments</a
		>
	</p>{/if}
{#if data.may && (!s.closedAt || s.closedShort)}
	<p class="soft ends">
		{#if s.closedShort}Closed and not booked: {s.closedShort}{/if}
		<Button kind="ghost" size="small" class="link" on:click={() => (ending = true)}
			>{s.closedShort ? 'Open again…' : 'Close without booking…'}</Button
		>
	</p>
{/if}
{#if !s.closedAt}
	<Foot>
		{#if s.missing.length}<span class="soft">Fix first:</span>{#each s.missing.slice(0, 4) as m (m)}<span class="stop"
					>{m}</span
				>{/each}{#if s.missing.length > 4}<span class="soft">and {s.missing.length - 4} more</span>{/if}
		{:else if !s.counted}<span class="soft">Nothing is counted yet.</span>
		{:else if data.mayBook && without.length}<span class="soft">Choose why:</span><span
				>{without.length} {without.length === 1 ? 'difference has' : 'differences have'} no reason yet</span
			>
		{:else}<span class="good"
				>{s.counted < s.asked
					? `${grouped(s.asked - s.counted)} not counted: they stay as they are.`
					: 'Everything is counted.'}</span
			>{/if}
		{#snippet act()}{#if data.mayBook}<Button size="small" disabled={!ready} on:click={book} title="Ctrl + Enter"
					>Book the count</Button
				>{/if}{/snippet}
	</Foot>
{/if}
{#if ending}
	<Question
		title={s.closedShort ? `Open ${s.code} again` : `Close ${s.code} without booking`}
		verb={s.closedShort ? 'Open it again' : 'Close it'}
		disabled={!why.trim()}
		ondo={async () => {
			if (await count.close(why.trim(), !!s.closedShort)) why = '';
		}}
		onleave={() => (ending = false)}
	>
		<Text label="Why, in one line" bind:value={why} maxlength="1000" />
	</Question>
{/if}
{#if resting}
	<Question
		title="Not there: {open} at {s.at}"
		verb="They are not there"
		ondo={count.rest}
		onleave={() => (resting = false)}
	>
		<p>
			Everything at <span class="mono">{s.at}</span> that was asked for and is not counted yet is entered as not there.
		</p>
	</Question>
{/if}

<style>
	.take {
		display: flex;
		flex-wrap: wrap;
		align-items: flex-end;
		gap: 0.5rem 1rem;
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.what {
		line-height: 32px;
		font-weight: 600;
	}
	.what .soft {
		font-weight: 400;
	}
	.places {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem;
		margin-bottom: 0.5rem;
	}
	.places :global(.here) {
		border-bottom: 3px solid var(--amber);
	}
	.line {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.25rem 1.25rem;
		padding: 0.4rem 0.75rem;
	}
	.line h2 {
		margin: 0;
	}
	section {
		margin-bottom: 0.75rem;
	}
	.more {
		margin: 0.3rem 0.75rem;
	}
	.stop {
		display: block;
		color: var(--red);
	}
	.acts {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1.25rem;
	}
</style>
