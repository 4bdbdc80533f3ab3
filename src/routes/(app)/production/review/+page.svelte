<script lang="ts">
	import { enhance } from '$app/forms';
	import {
		Button,
		Checkbox,
		ContentSwitcher,
		Switch,
		Table,
		TableBody,
		TableCell,
		TableHead,
		TableHeader,
		TableRow
	} from 'carbon-components-svelte';
	import { goto } from '$app/navigation';
	import { showWhen } from '$lib/ui/dates';
	import { amount } from '$lib/core/quantity/quantity';
	import { grouped } from '$lib/core/quantity/sign';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Question from '$lib/ui/shell/Question.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data, form } = $props();
	const states = [
		['ready', 'All parts in'],
		['open', 'Parts missing'],
		['back', 'Sent back']
	] as const;
	type Unit = (typeof data.units)[number];
	const name = (u: Pick<Unit, 'order' | 'serial'>) => `${u.order} ${u.serial}`;
	let left = $state<Record<string, boolean>>({});
	let sending = $state<Unit | null>(null);
	const url = (more: Record<string, string | null>) => {
		const asked = { ...data.asked, ...more };
		const text = Object.entries(asked).flatMap(([k, v]) => (v ? [`${k}=${encodeURIComponent(v)}`] : []));
		return `/production/review?${text.join('&')}`;
	};
	const mine = $derived(
		data.orders.filter(
			(o) => (!data.asked.order || o.code === data.asked.order) && (!data.asked.item || o.item === data.asked.item)
		)
	);
	/** Units that this press books: those that are ready, but for the ones that are left out here. */
	const out = $derived(data.units.filter((u) => left[name(u)]));
	const bookable = $derived(mine.reduce((n, o) => n + (data.mayReview ? o.ready : o.ready - o.review), 0) - out.length);
	const asksReason = $derived(data.units.some((u) => !left[name(u)] && u.stops.some((s) => s.level === 'reason')));
	const chosen = $derived(
		mine
			.filter((o) => o.ready)
			.map((o) => ({ order: o.code, except: out.filter((u) => u.order === o.code).map((u) => u.serial) }))
	);
	const HOW: Record<string, string> = { scanned: 'scanned', entered: 'entered', accepted: 'as suggested' };
</script>

<svelte:head><title>Review · Production · Earmark</title></svelte:head>
<div class="head">
	<h1>Review of what is put together</h1>
	<span class="soft">{data.asked.order ?? data.asked.item ?? 'all orders'}</span>
	<span class="push"><Button kind="ghost" size="small" class="link" href="/station">To a station</Button></span>
</div>
<Said {form} />
{#if sending}
	{@const u = sending}
	<Question title="Send {u.serial} back" verb="Send back" action="?/back" onleave={() => (sending = null)}>
		<Hidden name="order" value={u.order} />
		<Hidden name="serial" value={u.serial} />
		<Text label="What is to be mended" name="why" required maxlength="1000" />
	</Question>
{/if}
{#if !data.orders.length}
	<p class="panel hint">
		Nothing is being put together. What a station puts together waits here, where its station, order or item asks for a
		review. <a href="/station">Open a station</a>, or print the cards of a <a href="/production">production order</a>.
	</p>
{:else}
	<section class="panel">
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Order</TableHeader><TableHeader>What is made</TableHeader><TableHeader class="num"
						>All parts in</TableHeader
					><TableHeader class="num">Ask a review</TableHeader><TableHeader class="num">Parts missing</TableHeader
					><TableHeader class="num">Sent back</TableHeader></TableRow
				></TableHead
			>
			<TableBody>
				{#each data.orders as o (o.code)}
					<TableRow
						><TableCell
							><a class="mono" href={url({ order: o.code, item: null })} aria-current={data.asked.order === o.code}
								>{o.code}</a
							></TableCell
						><TableCell><a href={url({ item: o.item, order: null })}>{o.itemName}</a></TableCell><TableCell class="num"
							>{o.ready}</TableCell
						><TableCell class="num">{o.review}</TableCell><TableCell class="num">{o.open}</TableCell><TableCell
							class="num">{o.back}</TableCell
						></TableRow
					>
				{/each}
			</TableBody>
		</Table>
	</section>
	<div class="which">
		<div class="switch">
			<ContentSwitcher
				size="sm"
				aria-label="Which units"
				selectedIndex={states.findIndex(([s]) => s === data.asked.state)}
				on:change={(e) => {
					if (states[e.detail][0] !== data.asked.state) void goto(url({ state: states[e.detail][0] }));
				}}
			>
				{#each states as [s, label] (s)}<Switch text={label} />{/each}
			</ContentSwitcher>
		</div>
		{#if data.asked.order || data.asked.item}<a href={url({ order: null, item: null })}>All orders</a>{/if}
		{#if data.may && data.asked.state === 'ready' && bookable > 0}
			<form method="POST" action="?/book" use:enhance class="fields">
				<Hidden name="key" value={data.key} />
				<Hidden name="units" value={JSON.stringify(chosen)} />
				{#if asksReason}<Text label="Reason" name="reason" ch={30} required maxlength="1000" />{/if}
				<Button type="submit" size="small">Book {grouped(bookable)} {bookable === 1 ? 'unit' : 'units'}</Button>
			</form>
		{/if}
	</div>
	{#if data.units.length}
		<section class="panel">
			<Table size="short">
				<TableHead
					><TableRow
						>{#if data.asked.state === 'ready'}<TableHeader><span class="visually-hidden">Book it</span></TableHeader
							>{/if}<TableHeader>Unit</TableHeader><TableHeader>What is in it</TableHeader><TableHeader
							>Who, when, how</TableHeader
						><TableHeader><span class="visually-hidden">What can be done</span></TableHeader></TableRow
					></TableHead
				>
				<TableBody>
					{#each data.units as u (name(u))}
						<TableRow>
							{#if data.asked.state === 'ready'}<TableCell
									><Checkbox
										labelText="Book {u.serial}"
										hideLabel
										checked={!left[name(u)]}
										on:check={(e) => (left[name(u)] = !e.detail)}
									/></TableCell
								>{/if}
							<TableCell
								><Tag kind="serial" number={u.serial} /><br /><span class="soft"
									><a class="mono" href="/production/{encodeURIComponent(u.order)}">{u.order}</a>
									{u.station ? `· ${u.station}` : '· at a desk'}</span
								></TableCell
							>
							<TableCell>
								{#each u.parts as p (p.itemName + p.number + p.place)}<div class="part">
										<span class="of">{p.itemName}</span>
										<Tag
											kind={p.kind}
											number={p.number}
											qty={p.qty === '1' ? null : amount(p.qty, p.unit)}
											place={p.place}
										/>
									</div>{/each}
								{#each u.used as x (x.lineId)}<div class="part soft">
										<span class="of">{x.itemName}</span>{amount(x.qty, x.unit)} from <span class="mono">{x.from}</span>
									</div>{/each}
								{#each u.missing as x (x.itemName)}<div class="part missing">
										<span class="of">{x.itemName}</span>missing: {amount(x.left, x.unit)}
									</div>{/each}
								{#if u.said}<p class="why">{u.said}</p>{/if}
								{#each u.stops as s (s.message)}<p class="why {s.level}">{s.message}</p>{/each}
							</TableCell>
							<TableCell>
								{#each u.parts as p (p.itemName + p.number + p.place)}<div class="part soft">
										{p.by}, {showWhen(p.at)}, {HOW[p.evidence] ?? p.evidence}
									</div>{:else}<span class="soft">{u.by}, {showWhen(u.at)}</span>{/each}
							</TableCell>
							<TableCell class="acts">
								{#if u.state === 'ready' && data.mayReview}<Button
										kind="ghost"
										size="small"
										class="link"
										on:click={() => (sending = u)}>Send back<span class="visually-hidden"> {u.serial}</span></Button
									>{/if}
								{#if u.state === 'back' && data.mayReview}<form method="POST" action="?/take" use:enhance>
										<Hidden name="order" value={u.order} /><Hidden name="serial" value={u.serial} />
										<Button type="submit" kind="ghost" size="small" class="link"
											>Take as it is<span class="visually-hidden"> {u.serial}</span></Button
										>
									</form>{/if}
								{#if data.may && (!u.review || data.mayReview)}<form method="POST" action="?/desk" use:enhance>
										<Hidden name="order" value={u.order} /><Hidden name="serial" value={u.serial} />
										<Button type="submit" kind="ghost" size="small" class="link"
											>To the desk<span class="visually-hidden"> {u.serial}</span></Button
										>
									</form>{/if}
							</TableCell>
						</TableRow>
					{/each}
				</TableBody>
			</Table>
		</section>
		<p class="soft">
			{grouped(data.units.length)} of {grouped(data.total)} shown.
			{#if !data.first}<a href={url({})}>From the first</a>{/if}
			{#if data.more}{@const last = data.units[data.units.length - 1]}<a
					href={url({ afterOrder: last.order, after: last.serial })}>The next ones</a
				>{/if}
		</p>
	{:else}<p class="panel hint soft">
			{{
				ready: 'No unit waits to be booked.',
				open: 'No unit is in the middle of its work.',
				back: 'No unit is sent back.'
			}[data.asked.state]}
		</p>{/if}
{/if}

<style>
	.hint {
		padding: 0.75rem;
		margin: 0;
	}
	.which {
		display: flex;
		align-items: flex-end;
		gap: 1rem;
		margin: 1rem 0 0.5rem;
	}
	.switch {
		width: 24rem;
	}
	.which form {
		margin-left: auto;
	}
	.part {
		display: flex;
		align-items: center;
		gap: 0.5rem;
		min-height: 28px;
	}
	.of {
		min-width: 9rem;
	}
	.missing {
		color: var(--amber-ink);
	}
	.why {
		margin: 0.15rem 0;
		color: var(--amber-ink);
	}
	.why.stop {
		color: var(--red);
	}
</style>
