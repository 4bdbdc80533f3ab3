<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	// Every list: found, narrowed, sorted and paged by its address, exported as it is shown, its columns as one likes them.
	import type { Snippet } from 'svelte';
	import { goto, invalidateAll } from '$app/navigation';
	import { page as app } from '$app/state';
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
	import {
		bySpan,
		filterWords,
		isPast,
		narrows,
		PAGE_SIZES,
		shownColumns,
		sorts,
		viewParams,
		type Column,
		type Filter,
		type ListPage,
		type ListRow,
		type ListView
	} from '$lib/core/list/list';
	import { Making } from '../files/making.svelte';
	import MakingState from '../files/MakingState.svelte';
	import Choose from '../fields/Choose.svelte';
	import DayField from '../fields/DayField.svelte';
	import Quantity from '../fields/Quantity.svelte';
	import Text from '../fields/Text.svelte';
	import { show } from '$lib/core/quantity/quantity';
	import { showWhen } from '$lib/ui/dates';

	interface Props {
		list: ListPage;
		/** a cell, where its text alone is not enough */
		cell?: Snippet<[ListRow, Column]>;
		/** keys of the columns that `cell` draws; all others show their text */
		cells?: readonly string[];
		/** what can be done with a row, in a column of its own */
		acts?: Snippet<[ListRow]>;
		/** beside the field to find in */
		tools?: Snippet;
		/** instead of the list's own words when nothing is in it at all */
		none?: Snippet;
		/** marks a row */
		chosen?: (row: ListRow) => boolean;
		/** filters that stand open: those that people reach for all the time */
		open?: readonly string[];
	}
	let { list, cell, cells = [], acts, tools, none, chosen, open = [] }: Props = $props();
	const { shape } = $derived(list);
	const view = $derived(list.view);
	const columns = $derived(shownColumns(shape.columns, list.chosen));
	const narrowed = $derived(
		shape.columns.filter(narrows).flatMap((c) => {
			const words = filterWords(c, view.filters[c.key]);
			return words ? [{ key: c.key, words }] : [];
		})
	);
	const files = new Making();
	let filtering = $state(false);
	let choosing = $state(false);
	const fields = $derived(shape.columns.filter((c) => narrows(c) && (filtering || open.includes(c.key))));
	const of = (c: Column): Filter => view.filters[c.key] ?? list.standing[c.key] ?? {};

	/** Goes to another view of the list, from its first page. */
	function to(change: Partial<ListView>, replace = false) {
		const params = viewParams(shape, { ...view, ...change });
		for (const [k, v] of app.url.searchParams) if (kept(k)) params.set(k, v);
		void goto(`?${params}`, { keepFocus: true, noScroll: true, replaceState: replace });
	}
	/** What else stands in the page's address stays there. */
	const own = $derived(
		new Set([
			'find',
			'sort',
			'size',
			'after',
			'before',
			...shape.columns.flatMap((c) => [c.key, `${c.key}.from`, `${c.key}.to`])
		])
	);
	const kept = (key: string) => !own.has(key);
	function narrow(key: string, change: Filter, replace = false) {
		const next = { ...view.filters[key], ...change };
		const { [key]: _was, ...others } = view.filters;
		to({ filters: next.is || next.from || next.to ? { ...others, [key]: next } : others }, replace);
	}
	const sort = (c: Column) =>
		to({ sort: { key: c.key, down: view.sort.key === c.key ? !view.sort.down : c.kind === 'moment' } });
	const address = (cursor: 'after' | 'before', at: string | null) => {
		const params = viewParams(shape, view);
		for (const [k, v] of app.url.searchParams) if (kept(k)) params.set(k, v);
		if (at) params.set(cursor, at);
		return `?${params}`;
	};
	const exported = $derived(viewParams(shape, view));
	let timer: ReturnType<typeof setTimeout>;
	function typed(work: () => void) {
		clearTimeout(timer);
		timer = setTimeout(work, 180);
	}
	async function choose(key: string, on: boolean) {
		const keys = columns.map((c) => c.key);
		const next = on ? [...keys, key] : keys.filter((k) => k !== key);
		await fetch(`/lists/${shape.key}/columns`, {
			method: 'PUT',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ columns: next })
		});
		await invalidateAll();
	}
	const text = (row: ListRow, c: Column) => {
		const value = row[c.key];
		if (value === null || value === undefined || value === '') return '–';
		if (c.kind === 'choice') return c.choices?.find((x) => x.value === value)?.label ?? value;
		return c.kind === 'number' ? show(value, 9) : c.kind === 'text' ? value : showWhen(value);
	};
	const ordered = (c: Column) => (view.sort.key !== c.key ? 'none' : view.sort.down ? 'descending' : 'ascending');
	const last = $derived(list.first + list.rows.length);
	/** How many there are, once somebody has asked to count beyond what is counted unasked: of the view that was asked about. */
	let counted = $state<{ of: string; rows: number | null } | null>(null);
	const asked = $derived(counted?.of === exported.toString() ? counted : null);
	async function countAll() {
		const of = exported.toString();
		counted = { of, rows: null };
		const answer = await fetch(`/lists/${shape.key}/count?${of}`).catch(() => null);
		if (counted?.of !== of) return;
		counted = answer?.ok ? { of, rows: ((await answer.json()) as { count: number }).count } : null;
	}
	const all = $derived(
		asked?.rows != null ? grouped(asked.rows) : list.more ? `more than ${grouped(list.count)}` : grouped(list.count)
	);
</script>

<div class="bar">
	<form
		class="fields"
		role="search"
		aria-label="Find and narrow: {shape.title}"
		onsubmit={(e) => {
			e.preventDefault();
			clearTimeout(timer);
			to({ find: String(new FormData(e.currentTarget).get('find') ?? '').trim() });
		}}
	>
		{#if shape.find}
			<Text
				label={shape.find}
				name="find"
				ch={Math.max(22, shape.find.length - 4)}
				shown={view.find}
				echoes
				maxlength="100"
				data-find
				oninput={(e) => {
					const find = e.currentTarget.value.trim();
					typed(() => to({ find }, true));
				}}
			/>
		{/if}
		{#each fields as c (c.key)}
			{#if c.kind === 'choice'}
				{@const all = c.choices?.some((x) => x.value === 'all')}
				<Choose
					label={c.label}
					value={of(c).is ?? ''}
					options={[
						...(all ? [] : [['', 'any'] as const]),
						...(c.choices ?? []).map((x) => [x.value, x.label] as const)
					]}
					onpick={(is) => narrow(c.key, { is })}
				/>
			{:else if c.kind === 'past'}
				{@const is = of(c).is ?? ''}
				<DayField label={c.label} value={is.slice(0, 10)} onday={(day) => narrow(c.key, { is: day })} />
				{#if is}<Text
						label="at"
						ch={6}
						mono
						shown={is.slice(11)}
						echoes
						placeholder="its end"
						maxlength="5"
						onchange={(e) => {
							const time = e.currentTarget.value.trim();
							const at = time ? `${is.slice(0, 10)} ${time.padStart(5, '0')}` : is.slice(0, 10);
							if (isPast(at)) narrow(c.key, { is: at });
						}}
					/>{/if}
			{:else if !bySpan(c)}
				<Text
					label={c.label}
					ch={12}
					mono={c.mono}
					shown={of(c).is ?? ''}
					echoes
					maxlength="100"
					oninput={(e) => {
						const is = e.currentTarget.value.trim();
						typed(() => narrow(c.key, { is }, true));
					}}
				/>
			{:else}
				{#each ['from', 'to'] as const as end (end)}
					{#if c.kind === 'number'}
						<Quantity
							label="{c.label}, {end === 'from' ? 'from' : 'up to'}"
							ch={7}
							value={of(c)[end] ?? ''}
							onquantity={(value) => narrow(c.key, { [end]: value })}
						/>
					{:else}
						<DayField
							label="{c.label}, {end === 'from' ? 'from' : 'up to'}"
							value={of(c)[end] ?? ''}
							onday={(day) => narrow(c.key, { [end]: day })}
						/>
					{/if}
				{/each}
			{/if}
		{/each}
	</form>
	<div class="tools">
		{@render tools?.()}
		<Button kind="ghost" size="small" aria-expanded={filtering} on:click={() => (filtering = !filtering)}
			>{filtering ? 'Fewer filters' : 'Filters'}</Button
		>
		<Button kind="ghost" size="small" aria-expanded={choosing} on:click={() => (choosing = !choosing)}>Columns</Button>
		<Button kind="ghost" size="small" href="/lists/{shape.key}/csv?{exported}" download>CSV</Button>
		{#each ['xlsx', 'pdf'] as format (format)}
			<Button
				kind="ghost"
				size="small"
				href="/lists/{shape.key}/{format}?{exported}"
				on:click={(event) => files.follow(event)}>{format.toUpperCase()}</Button
			>
		{/each}
	</div>
</div>
<MakingState making={files} />
{#if choosing}
	<fieldset class="columns">
		<legend>Columns of this list, for you</legend>
		{#each shape.columns.filter((c) => !c.filterOnly) as c (c.key)}
			<Checkbox
				labelText={c.label}
				checked={columns.includes(c)}
				disabled={columns.length === 1 && columns.includes(c)}
				on:check={(e) => e.detail !== columns.includes(c) && choose(c.key, e.detail)}
			/>
		{/each}
	</fieldset>
{/if}
{#if narrowed.length || view.find}
	<p class="narrowed">
		{#if view.find}<Button kind="ghost" size="small" class="word" on:click={() => to({ find: '' })}
				>“{view.find}” <span class="visually-hidden">no longer looked for</span><span aria-hidden="true">×</span
				></Button
			>{/if}
		{#each narrowed as n (n.key)}<Button
				kind="ghost"
				size="small"
				class="word"
				on:click={() => narrow(n.key, { is: '', from: '', to: '' })}
				>{n.words} <span class="visually-hidden">removed from the filters</span><span aria-hidden="true">×</span
				></Button
			>{/each}
		<Button kind="ghost" size="small" class="link" on:click={() => to({ find: '', filters: {} })}>Clear all</Button>
	</p>
{/if}
{#if list.rows.length}
	<div class="scroll">
		<Table size="short" aria-label={shape.title} aria-rowcount={list.more ? -1 : list.count}>
			<TableHead>
				<TableRow>
					{#each columns as c (c.key)}
						<TableHeader
							id="{shape.key}-{c.key}"
							class={c.kind === 'number' ? 'num' : ''}
							sortable={sorts(c)}
							active={view.sort.key === c.key}
							sortDirection={ordered(c)}
							translateWithId={() => ''}
							on:click={() => sorts(c) && sort(c)}>{c.label}</TableHeader
						>
					{/each}
					{#if acts}<TableHeader><span class="visually-hidden">What can be done</span></TableHeader>{/if}
				</TableRow>
			</TableHead>
			<TableBody>
				{#each list.rows as row (row.id)}
					<TableRow class={chosen?.(row) ? 'chosen' : ''}>
						{#each columns as c (c.key)}
							<TableCell
								class="{c.kind === 'number' ? 'num' : ''} {c.mono ? 'mono' : ''}"
								data-label={c.label}
								data-none={row[c.key] || cells.includes(c.key) ? undefined : true}
								title={(row[c.key]?.length ?? 0) > 40 ? row[c.key] : undefined}
								>{#if cell && cells.includes(c.key)}{@render cell(row, c)}{:else}{text(row, c)}{/if}</TableCell
							>
						{/each}
						{#if acts}<TableCell class="acts">{@render acts(row)}</TableCell>{/if}
					</TableRow>
				{/each}
			</TableBody>
		</Table>
	</div>
{:else}
	<p class="empty">
		{#if narrowed.length || view.find}Nothing fits. <Button
				kind="ghost"
				size="small"
				class="link"
				on:click={() => to({ find: '', filters: {} })}>Clear all filters</Button
			>{:else if none}{@render none()}{:else}{shape.empty}{/if}
	</p>
{/if}
<div class="pages">
	<span role="status" class="soft"
		>{list.count
			? list.rows.length < list.count
				? `${grouped(list.first + 1)} to ${grouped(last)} of ${all}`
				: `${grouped(list.count)} ${list.count === 1 ? 'row' : 'rows'}`
			: 'No rows'}</span
	>
	{#if list.more && asked?.rows == null}
		<Button kind="ghost" size="small" disabled={asked !== null} on:click={countAll}
			>{asked ? 'Counting …' : 'Count them all'}</Button
		>
	{/if}
	{#if list.previous || list.next || view.size !== 50}
		<span class="push"></span>
		<Choose
			label="Rows a page"
			hide
			value={String(view.size)}
			options={PAGE_SIZES.map((n) => [String(n), `${n} a page`] as const)}
			onpick={(size) => to({ size: Number(size) })}
		/>
		<Button kind="ghost" size="small" href={address('before', list.previous)} disabled={!list.previous}>Previous</Button
		>
		<Button kind="ghost" size="small" href={address('after', list.next)} disabled={!list.next}>Next</Button>
	{/if}
</div>

<style>
	.bar {
		display: flex;
		flex-wrap: wrap;
		align-items: flex-end;
		gap: 0.5rem 1rem;
		margin-bottom: 0.5rem;
	}
	.bar form {
		flex: 1 1 24rem;
	}
	.tools {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
	}
	.columns {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1.5rem;
		margin: 0 0 0.5rem;
		padding: 0.4rem 0.75rem 0.6rem;
		border: 1px solid var(--rule);
		background: var(--paper);
	}
	.columns :global(.bx--form-item) {
		flex: none;
	}
	legend {
		font-size: 0.75rem;
		color: var(--ink-soft);
	}
	.narrowed {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1rem;
		margin: 0 0 0.4rem;
	}
	.scroll {
		position: relative;
		overflow-x: auto;
	}
	.pages {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.25rem 0.75rem;
		min-height: 40px;
	}
	.push {
		margin-left: auto;
	}
</style>
