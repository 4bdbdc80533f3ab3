<script lang="ts">
	import { untrack } from 'svelte';
	import { page } from '$app/state';
	import Edit from 'carbon-icons-svelte/lib/Edit.svelte';
	import { documentPath } from '$lib/core/document/kinds';
	import { eventPath } from '$lib/core/ledger/events';
	import { placeName } from '$lib/core/ledger/places';
	import { grouped } from '$lib/core/quantity/sign';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import {
		Button,
		Checkbox,
		Table,
		TableBody,
		TableCell,
		TableHead,
		TableHeader,
		TableRow
	} from 'carbon-components-svelte';
	import { enhance } from '$app/forms';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import { resolutions, SIZES, symbols } from '$lib/core/labels/label';
	import { daysBetween } from '$lib/core/dates/dates';
	import { showWhen, showDay } from '$lib/ui/dates';
	import { sayStatus } from '$lib/core/ledger/status';
	import { amount } from '$lib/core/quantity/quantity';
	import { dayIn } from '$lib/core/time/clock';
	import Said from '$lib/ui/shell/Said.svelte';
	import Attachments from '$lib/ui/register/Attachments.svelte';
	import LifeLine from '$lib/ui/register/LifeLine.svelte';
	import Links from '$lib/ui/register/Links.svelte';
	import RecordFact from '$lib/ui/register/RecordFact.svelte';
	import Question from '$lib/ui/shell/Question.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';

	let { data, form } = $props();
	const m = $derived(data.mark);
	const today = $derived(dayIn(m.zone, new Date()));
	const left = $derived(m.expiresOn ? daysBetween(today, m.expiresOn) : 0);
	const gone: Record<string, string> = {
		'@customer': 'with customers',
		'@process': 'used in production',
		'@scrap': 'scrapped',
		'@adjust': 'adjusted away',
		'@supplier': 'sent back',
		'@job': 'issued to jobs'
	};
	const hand = $derived(m.where.filter((w) => !w.virtual));
	// A trace leads here to stop all that contains it.
	let containing = $state(page.url.searchParams.get('ask') === 'hold');
	let asking = $state<string | null>(untrack(() => (containing && data.mayHold ? 'hold' : null)));
	let undoing = $state<(typeof m.life)[0] | null>(null);
	const leave = () => (asking = null);
	const acts = $derived(
		m.ownStatus === 'released'
			? [
					['hold', 'Put on hold'],
					['reject', 'Reject']
				]
			: [
					['release', 'Release'],
					...(m.ownStatus === 'rejected' ? [] : [['reject', 'Reject']]),
					['hold', 'Put on hold what contains it']
				]
	);
	const moved = (e: (typeof m.life)[0]) =>
		e.change ?? (e.from && e.to ? `${placeName(e.from)} → ${placeName(e.to)}` : '');
</script>

<svelte:head><title>{m.number} · Register · Earmark</title></svelte:head>
<div class="head">
	<h1><Tag kind={m.kind} number={m.number} status={m.status} expiresOn={m.expiresOn} /> {m.itemName}</h1>
	<span class="soft">{m.kind} of {m.item}{m.status === m.ownStatus ? '' : `, ${sayStatus(m.status)} with its lot`}</span
	>
	<span class="push acts">
		<a href="/trace?mark={m.id}&direction=back">Trace back</a>
		<a href="/trace?mark={m.id}&direction=forward">Trace forward</a>
		{#if data.isUnit}<a href="/register/{m.id}/parts">Parts</a>{/if}
		{#if data.mayTakeBack && m.where.some((w) => w.place === '@customer')}<a href="/inbound/returns/new?mark={m.id}"
				>Take back…</a
			>{/if}
		{#if data.maySendBack && hand.length}<a href="/outbound/returns/new?mark={m.id}">Send back…</a>{/if}
		{#if data.mayAdjust && hand.length}<a href="/stock/adjust-out/new?mark={m.id}">New adjustment out</a>{/if}
		{#if data.repackable}<a href="/stock/repacking/new?from={encodeURIComponent(m.item)}">Repack…</a>{/if}
		{#if data.mayNote && data.defined.length}<Button
				kind="ghost"
				size="small"
				class="link"
				on:click={() => (asking = 'fact')}>Add a detail…</Button
			>{/if}
		{#if data.mayCorrect}<a href="/register/{m.id}/correct">Correct…</a>{/if}
		{#if data.mayPrint}<Button kind="ghost" size="small" class="link" on:click={() => (asking = 'label')}
				>Print label…</Button
			>{/if}
		{#if data.mayHold}{#each acts as [kind, label] (kind)}<Button
					kind="ghost"
					size="small"
					class="link"
					on:click={() => (asking = kind)}>{label}…</Button
				>{/each}{/if}
	</span>
</div>
<Said
	form={form ??
		(page.url.searchParams.get('said') === 'corrected'
			? { said: 'Corrected. The old value stands in its history.' }
			: null)}
/>
{#if undoing}
	{@const e = undoing}
	<Question title="Undo: {e.did}, {showWhen(e.at)}" verb="Undo" action="?/undo" onleave={() => (undoing = null)}>
		<Hidden name="undo" value={e.id} />
		<Text label="Why, in one line; it is kept in the ledger" name="reason" required maxlength="1000" />
	</Question>
{/if}
{#if asking === 'label'}
	<Question title="Print a label of {m.number}" verb="Print" action="?/label" onleave={leave}>
		<Choose label="Code" name="symbol" options={symbols} value={symbols[0]} />
		<Choose label="Label, mm" name="size" options={Object.keys(SIZES)} value="70 × 35" />
		<Choose label="Printer, dpi" name="dpi" options={resolutions.map(String)} value={String(resolutions[0])} />
		<Text label="Copies" num ch={4} name="copies" value="1" inputmode="numeric" required />
	</Question>
{:else if asking === 'fact'}
	<RecordFact number={m.number} facts={data.defined} recorded={m.facts} onleave={leave} />
{:else if asking}
	{@const verb = acts.find(([k]) => k === asking)?.[1] ?? 'Put on hold'}
	<Question title="{verb}: {m.number}" {verb} action="?/status" onleave={leave}>
		<Hidden name="kind" value={asking} />
		<Text label="Why, in one line; it is kept in the ledger" name="reason" required maxlength="1000" />
		{#if asking === 'hold' && m.ownStatus !== 'released'}<Hidden name="contained" value="yes" />{:else}
			<Checkbox
				name="contained"
				value="yes"
				checked={containing}
				labelText={asking === 'release'
					? 'Release all that contains it and was stopped with it'
					: 'With all that contains it, as far as it is here'}
			/>
		{/if}
	</Question>
{/if}
{#snippet pencil(field: string, what: string)}
	{#if data.mayCorrect}<a class="pencil" href="/register/{m.id}/correct?field={field}" aria-label="Correct {what}"
			><Edit size={16} /></a
		>{/if}
{/snippet}
<div class="two">
	<section class="panel">
		<h2>Details</h2>
		<dl class="details">
			<dt>Number</dt>
			<dd class="mono">{m.number}{@render pencil('number', 'the number')}</dd>
			{#if m.lot}<dt>Lot</dt>
				<dd><Tag kind="lot" number={m.lot.number} id={m.lot.id} />{@render pencil('lot', 'the lot')}</dd>{/if}
			{#if m.serials}<dt>Serials</dt>
				<dd>
					<a href="/register?show=all&kind=serial&item={encodeURIComponent(m.item)}&lot={encodeURIComponent(m.number)}"
						>{grouped(m.serials)} belong to it</a
					>
				</dd>{/if}
			{#if m.ownerName}<dt>Belongs to</dt>
				<dd>{m.ownerName}{@render pencil('owner', 'whose it is')}</dd>{/if}
			<dt>Status</dt>
			<dd>{m.status === 'held' ? 'on hold' : m.status}</dd>
			<dt>Expires</dt>
			<dd>
				{#if m.expiresOn}{showDay(m.expiresOn)}
					<span class="soft">{left < 0 ? `${-left} days ago` : left === 0 ? 'today' : `in ${left} days`}</span
					>{:else}<span class="soft">no date</span>{/if}{#if m.expiresOn && !m.ownExpiresOn}<span class="soft"
						>, of its lot</span
					>{/if}{#if m.noticeOn}<span class="soft"
						>, notice {m.noticeOn <= today ? 'since' : 'from'} {showDay(m.noticeOn)}</span
					>{/if}{@render pencil('expiresOn', 'the expiry')}
			</dd>
			{#if data.says}<dt>Number says</dt>
				<dd>{data.says}</dd>{/if}
			{#if data.prints.count}<dt>Labels</dt>
				<dd>
					printed {data.prints.count === 1 ? 'once' : `${data.prints.count} times`}, last {data.prints.last &&
						showWhen(data.prints.last)}
				</dd>{/if}
			{#if m.madeOn}<dt>Made</dt>
				<dd>{showDay(m.madeOn)}{@render pencil('madeOn', 'the production date')}</dd>{/if}
			{#if m.supplierLot}<dt>Supplier’s lot</dt>
				<dd class="mono">{m.supplierLot}{@render pencil('supplierLot', 'the supplier’s lot')}</dd>{/if}
			{#if m.supplierSerial}<dt>Supplier’s serial</dt>
				<dd class="mono">{m.supplierSerial}{@render pencil('supplierSerial', 'the supplier’s serial')}</dd>{/if}
			{#if m.supplierWarrantyUntil}<dt>Supplier’s warranty</dt>
				<dd>
					until {showDay(m.supplierWarrantyUntil)}{@render pencil('supplierWarrantyUntil', 'the supplier’s warranty')}
				</dd>{/if}
			{#if m.sold}<dt>Sold</dt>
				<dd>
					on <a class="mono" href={documentPath(m.sold.kind, m.sold.order)}>{m.sold.order}</a>:
					<a href="/orders/{encodeURIComponent(m.sold.order)}/packing-list?event={m.sold.event}&paper=delivery+note"
						>delivery note (PDF)</a
					>
				</dd>{/if}
			{#if m.warranty}<dt>Warranty</dt>
				<dd>{m.warranty}</dd>{/if}
			{#each m.facts as f (f.code)}<dt>{f.name}</dt>
				<dd>
					{#if f.file}<a href="/files/{f.file}" target="_blank" rel="noopener">{f.value}</a>{:else if f.outside}<b
							class="stop">{f.value}</b
						>
						<span class="stop">{f.outside}</span>{:else}{f.value}{/if}
					<span class="soft">{f.by}, {showWhen(f.at)}</span>{@render pencil(f.code, f.name)}
				</dd>{/each}
			{#if m.aliases.length}<dt>Formerly</dt>
				<dd class="mono">{m.aliases.join(', ')}</dd>{/if}
		</dl>
	</section>
	<section class="panel">
		<h2>Where it is</h2>
		{#if hand.length || m.where.length}
			<Table size="short">
				<TableBody>
					{#each m.where as w (w.place)}
						<TableRow
							><TableCell
								>{#if w.virtual}{gone[w.place]}{w.partner ? `: ${w.partner}` : ''}{:else}<a
										class="mono"
										href="/register?place={encodeURIComponent(w.place)}">{w.place}</a
									>{/if}</TableCell
							><TableCell class="num">{amount(w.qty, m.unit)}</TableCell></TableRow
						>
					{/each}
				</TableBody>
			</Table>
		{:else}<p class="soft none">
				{m.madeFrom.links.length ? 'Its parts are recorded; it is not finished yet.' : 'Nothing of it is in stock yet.'}
			</p>{/if}
		{#each data.promises as p (p.id)}<div class="none">
				{#if p.what === 'lot'}{amount(p.qty, p.unit)}{:else if m.kind === 'lot'}<span class="mono">{p.number}</span
					>{/if}
				{p.what === 'lot' || m.kind === 'lot' ? 'promised' : 'Promised'} to
				{#if p.path}<a class="mono" href={p.path}>{p.to}</a>{:else}{p.to}{/if}{p.until
					? ` until ${showWhen(p.until)}`
					: ''}
				{#if data.mayRelease}<form class="inline" method="POST" action="?/release" use:enhance>
						<Hidden name="promise" value={p.id} />
						<Button kind="ghost" size="small" class="link" type="submit"
							>Release<span class="visually-hidden"> what is promised to {p.to}</span></Button
						>
					</form>{/if}
			</div>{/each}
		{#if data.way}<p class="none">On the floor: {data.way.now}</p>{/if}
	</section>
</div>
<LifeLine life={m.life} number={m.number} />
<Attachments notes={data.notes} files={data.files} may={data.mayNote} />
<div class="two">
	<Links
		title="Made from"
		of={m.madeFrom}
		none="Nothing recorded: it came in as it is."
		more={{ href: `/trace/parts?mark=${m.id}`, label: 'Compare with parts list' }}
	/>
	<Links
		title="Went into"
		of={m.wentInto}
		none="Nothing yet."
		more={m.wentInto.more
			? { href: `/trace?mark=${m.id}&direction=forward&tab=numbers`, label: 'All of it' }
			: undefined}
	/>
</div>
{#if data.way}
	<h2>Its way over the floor</h2>
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>When</TableHeader><TableHeader>What</TableHeader><TableHeader>Where it was then</TableHeader
				><TableHeader>Station</TableHeader><TableHeader>By</TableHeader></TableRow
			></TableHead
		>
		<TableBody>
			{#each [...data.way.steps].reverse() as s, i (i)}
				<TableRow
					><TableCell data-label="When">{showWhen(s.at)}</TableCell><TableCell data-label="What">{s.act}</TableCell
					><TableCell data-label="Where it was then"
						>{s.name}, {s.state}{#if s.reason}<span class="soft"> · {s.reason}</span>{/if}</TableCell
					><TableCell data-label="Station">{s.station ?? '–'}</TableCell><TableCell data-label="By"
						>{s.by} <span class="soft">{s.evidence}</span></TableCell
					></TableRow
				>
			{/each}
		</TableBody>
	</Table>
{/if}
<h2>Events</h2>
<Table size="short">
	<TableHead
		><TableRow
			><TableHeader>When</TableHeader><TableHeader>What</TableHeader>{#if m.serials}<TableHeader>Pieces</TableHeader
				>{/if}<TableHeader class="num">Quantity</TableHeader><TableHeader>Details</TableHeader><TableHeader
				>Document</TableHeader
			><TableHeader>By</TableHeader>{#if data.mayUndo}<TableHeader
					><span class="visually-hidden">Undo</span></TableHeader
				>{/if}</TableRow
		></TableHead
	>
	<TableBody>
		{#each [...m.life].reverse() as e, i (i)}
			<TableRow class={e.undone || e.undoes ? 'undone' : ''}>
				<TableCell data-label="When" title="recorded {showWhen(e.recordedAt)}"
					><a class="when" href={eventPath(e.id)}>{showWhen(e.at)}</a></TableCell
				>
				<TableCell data-label="What">{e.did}{e.undone ? ', undone' : ''}</TableCell>
				{#if m.serials}<TableCell class="mono small" data-label="Pieces">{e.pieces ?? ''}</TableCell>{/if}
				<TableCell class="num" data-label="Quantity">{e.qty ? `${amount(e.qty, m.unit)}` : ''}</TableCell>
				<TableCell class="mono small" data-label="Details"
					>{moved(e)}{#if e.mends}<span class="soft">
							· mends <a href={eventPath(e.mends)}>event {e.mends}</a></span
						>{/if}{#if e.reason}<span class="soft"> · {e.reason}</span>{/if}</TableCell
				>
				<TableCell data-label="Document"
					>{#if e.path}<a class="mono" href={e.path}>{e.document ?? ''}</a>{:else}<span class="mono"
							>{e.document ?? ''}</span
						>{/if}</TableCell
				>
				<TableCell data-label="By">{e.by}</TableCell>
				{#if data.mayUndo}<TableCell
						>{#if !e.undone && !e.undoes}<Button kind="ghost" size="small" class="link" on:click={() => (undoing = e)}
								>Undo…<span class="visually-hidden"> {e.did}, {showWhen(e.at)}</span></Button
							>{/if}</TableCell
					>{/if}
			</TableRow>
		{/each}
	</TableBody>
</Table>
{#if m.moreLife}
	<p class="soft">
		These are the last {grouped(m.life.length)} lines.
		<a href="/events/moved?find={encodeURIComponent(m.number)}">Everything moved</a> has all.
	</p>
{/if}

<style>
	.when {
		white-space: nowrap;
	}
	h1 {
		display: flex;
		align-items: center;
		gap: 0.6rem;
	}
	.acts {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.25rem 1.25rem;
	}
	.two {
		display: grid;
		grid-template-columns: 1fr 1fr;
		gap: 0.75rem;
		margin-bottom: 0.75rem;
	}
	.two > section {
		padding: 0.6rem 0.75rem;
	}
	.pencil {
		display: inline-block;
		height: 16px;
		margin-left: 0.4rem;
		vertical-align: -3px;
		line-height: 1;
		text-decoration: none;
		color: var(--ink-soft);
	}
	.pencil:hover {
		color: var(--ink);
	}
	.none {
		margin: 0;
	}
	@media (max-width: 640px) {
		.two {
			grid-template-columns: 1fr;
		}
	}
	.inline {
		display: inline;
		margin-left: 0.5rem;
	}
	.stop {
		color: var(--red);
	}
</style>
