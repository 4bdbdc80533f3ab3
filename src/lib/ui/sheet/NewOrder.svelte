<script lang="ts">
	import Choose from '../fields/Choose.svelte';
	import DayField from '../fields/DayField.svelte';
	import Hidden from '../fields/Hidden.svelte';
	import Quantity from '../fields/Quantity.svelte';
	import Seek from '../fields/Seek.svelte';
	import Text from '../fields/Text.svelte';
	// An order by hand: a delivery without one, something to make, something to ship.
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import Faults from '../shell/Faults.svelte';
	import { documentKind, type Kind } from '$lib/core/document/kinds';
	import type { Fault } from '$lib/core/problem/problem';
	interface Props {
		kind: Kind;
		items: {
			code: string;
			name: string;
			unit: string;
			decimals: number;
			/** the unit of what it holds */
			content: string | null;
			tracking: string;
			/** it has a parts list */
			made: boolean;
		}[];
		/** the item that goes in, as a link said */
		from?: string;
		/** where this person made the last one */
		/** the place that is proposed; empty where it is asked */
		proposed?: string;
		partners: { code: string; name: string }[];
		/** whom a line may be bought for */
		customers?: { code: string; name: string }[];
		jobs: { code: string; name: string; partnerName: string | null }[];
		places: string[];
		/** where it may go to */
		targets?: string[];
		/** why, of the firm's list, with what each is for */
		reasons?: { name: string; act: string }[];
		/** what it is begun with, as a link said: one number, or what an event moved */
		first?: {
			partner: string;
			lines: { item: string; qty: string }[];
			mark: string | null;
			event: string | null;
		} | null;
		/** ways of delivery */
		ways?: { code: string; name: string }[];
		today: string;
		faults: Fault[];
		typed: object | null;
	}
	let {
		kind,
		items,
		partners,
		customers = [],
		jobs,
		places,
		targets = [],
		ways = [],
		reasons = [],
		first = null,
		today,
		from = '',
		proposed = '',
		faults,
		typed
	}: Props = $props();
	const row = $derived(documentKind(kind));
	const title = $derived(row.words.add);
	const before = $derived<Record<string, unknown>>({ ...typed });
	const was = (name: string) => String(before[name] ?? '');
	const empty = { item: '', qty: '', for: '' };
	// What was sent says only what was said: the fields want all three.
	// svelte-ignore state_referenced_locally
	let lines = $state<(typeof empty)[]>(
		before.lines && before.lines !== '[]'
			? JSON.parse(String(before.lines)).map((sentLine: object) => ({ ...empty, ...sentLine }))
			: (first?.lines ?? [{}]).map((line) => ({ ...empty, ...line }))
	);
	/** What is sent: lines that say something, and whom they are bought for where that is said. */
	const sent = $derived(
		lines.flatMap(({ for: customer, ...l }) => (l.item || l.qty ? [customer ? { ...l, for: customer } : l] : []))
	);
	// svelte-ignore state_referenced_locally
	let input = $state(was('from') || from);
	// svelte-ignore state_referenced_locally
	let rework = $state(was('from') ? 'yes' : 'no');
	/** What may be a line: what is made or reworked, or what the same content can be packed into. */
	const fitting = $derived(
		row.line.inputs === 'content'
			? items.filter((i) => i.code !== input && i.content === itemOf(input)?.content && !i.tracking.includes('serial'))
			: row.line.inputs === 'parts list'
				? items.filter((i) => (rework === 'yes' ? i.tracking === 'lot' : i.made))
				: items
	);
	/** What stands there before a place is chosen: none is ever guessed by its name. */
	const noPlace = $derived<[string, string][]>(
		!row.place.needed ? [['', 'anywhere']] : proposed ? [] : [['', 'choose a place']]
	);
	const itemOf = (code: string) => items.find((i) => i.code === code);
</script>

<svelte:head><title>{title} · Earmark</title></svelte:head>
<div class="head"><h1>{title}</h1></div>
<Faults {faults} />
<form method="POST" class="panel">
	<Hidden name="lines" value={JSON.stringify(sent)} />
	{#if first?.mark}<Hidden name="mark" value={first.mark} />{/if}
	{#if first?.event}<Hidden name="event" value={first.event} />{/if}
	<div class="fields">
		<Text
			label={row.partner ? 'Order or delivery note no.' : 'Order no.'}
			mono
			ch={20}
			name="code"
			value={was('code')}
			placeholder="given by Earmark"
			maxlength="200"
		/>
		{#if row.partner}
			<Seek
				label={row.partner.label}
				name="partner"
				words
				ch={24}
				options={partners.map((p) => [p.code, p.name] as const)}
				value={was('partner') || (first?.partner ?? '')}
			/>
		{/if}
		{#if row.job}
			<Seek
				label="Job"
				name="job"
				words
				ch={30}
				options={jobs.map((j) => [j.code, j.name + (j.partnerName ? `, for ${j.partnerName}` : '')] as const)}
				value={was('job')}
			/>
		{/if}
		{#if row.line.inputs === 'content'}
			<Seek
				label="What is repacked"
				name="from"
				words
				ch={18}
				options={items.map((i) => [i.code, i.name] as const)}
				bind:value={input}
			/>
		{:else if row.line.inputs === 'parts list'}
			<Choose
				label="It is"
				options={[
					['no', 'made from its parts'],
					['yes', 'reworked: the same item goes in']
				]}
				bind:value={rework}
			/>
			<Hidden name="from" value={rework === 'yes' ? (lines[0]?.item ?? '') : ''} />
		{/if}
		<Choose label={row.place.label} name="place" options={[...noPlace, ...places]} value={was('place') || proposed} />
		{#if row.reasons}<Choose
				label="Reason"
				name="reason"
				options={[
					['', 'choose a reason'],
					...reasons.map((r) => [r.name, r.act === 'scrap' ? `${r.name}, scrapped` : r.name] as const)
				]}
				value={was('reason')}
			/>{/if}
		{#if row.to}<Choose
				label={row.to.label}
				name="to"
				options={[['', 'choose a place'], ...targets]}
				value={was('to')}
			/>{/if}
		{#if row.fromSupplier}<Choose
				label="What comes"
				name="theirs"
				options={[
					['no', 'is ours'],
					['yes', 'stays theirs']
				]}
				value={was('theirs') || 'no'}
			/>{/if}
		<DayField label={row.due} name="dueOn" value={was('dueOn') || today} />
		{#if ways.length}<Choose
				label="Sent by"
				name="way"
				options={[['', 'not said'], ...ways.map((w) => [w.code, w.name] as const)]}
				value={was('way')}
			/>{/if}
		<Text label="Note" name="note" value={was('note')} maxlength="20000" />
		{#if row.line.inputs === 'parts list'}<Choose
				label="Put together at a station"
				name="review"
				options={[
					['no', 'as station and item say'],
					['yes', 'waits for a review']
				]}
				value={was('review') || 'no'}
			/>{/if}
	</div>
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Line</TableHeader><TableHeader>Item</TableHeader><TableHeader class="num">Quantity</TableHeader
				><TableHeader>Unit</TableHeader>{#if customers.length}<TableHeader>Bought for</TableHeader>{/if}<TableHeader
					><span class="visually-hidden">What can be done</span></TableHeader
				></TableRow
			></TableHead
		>
		<TableBody>
			{#each lines as line, i (line)}
				<TableRow>
					<TableCell class="soft">{i + 1}</TableCell>
					<TableCell
						><Seek
							label="Item of line {i + 1}"
							hide
							ch={18}
							options={fitting.map((x) => [x.code, x.name] as const)}
							bind:value={line.item}
							placeholder="code or name"
						/> <span class="soft">{itemOf(line.item)?.name ?? ''}</span></TableCell
					>
					<TableCell class="num"
						><Quantity
							label="Quantity of line {i + 1}"
							hide
							ch={10}
							bind:value={line.qty}
							decimals={itemOf(line.item)?.decimals}
						/></TableCell
					>
					<TableCell class="soft">{itemOf(line.item)?.unit ?? ''}</TableCell>
					{#if customers.length}<TableCell
							><Seek
								label="Customer that line {i + 1} is bought for"
								hide
								words
								ch={18}
								options={customers.map((c) => [c.code, c.name] as const)}
								bind:value={line.for}
								placeholder="nobody yet"
							/></TableCell
						>{/if}
					<TableCell class="num"
						>{#if lines.length > 1}<Button kind="ghost" size="small" class="link" on:click={() => lines.splice(i, 1)}
								>Remove</Button
							>{/if}</TableCell
					>
				</TableRow>
			{/each}
		</TableBody>
	</Table>
	<div class="below">
		{#if row.lines === 'scanned'}<span class="soft"
				>Lines may be left empty: whatever is scanned on the next page adds its own.</span
			>{/if}
		{#if row.line.several}<Button kind="ghost" size="small" class="link" on:click={() => lines.push({ ...empty })}
				>Add a line</Button
			>{/if}
		<Button type="submit" size="small">{row.words.make}</Button>
	</div>
</form>

<style>
	form {
		padding-top: 0.75rem;
	}
	.fields {
		padding: 0 0.75rem 0.75rem;
	}
	form :global(td.num .text) {
		margin-left: auto;
	}
	.below {
		display: flex;
		flex-wrap: wrap;
		gap: 0.5rem 1.5rem;
		justify-content: space-between;
		align-items: center;
		padding: 0.75rem;
	}
	.below :global(.bx--btn:last-child) {
		margin-left: auto;
	}
</style>
