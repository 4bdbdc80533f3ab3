<script lang="ts">
	import { showWhen } from '$lib/ui/dates';
	import { grouped } from '$lib/core/quantity/sign';
	import { unitWord } from '$lib/core/quantity/units';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import type { Snippet } from 'svelte';
	import { placeName, virtualPlace } from '$lib/core/ledger/places';
	import Choose from '../fields/Choose.svelte';
	import GridField from '../fields/GridField.svelte';
	// Stock that goes: suggested or chosen, with what else is there and why some of it is left out.
	import { inRanges } from '$lib/core/ranges/ranges';
	import { group } from '$lib/core/group/group';
	import { isPicked } from '$lib/core/document/kinds';
	import { isSome, least, rest, show, total } from '$lib/core/quantity/quantity';
	import {
		pickState,
		PICK_WORDS,
		type Cell,
		type PickRow,
		type PickState,
		type SheetLine
	} from '$lib/core/sheet/sheet';
	import Tag from '../tag/Tag.svelte';
	import Findings from './Findings.svelte';
	import Candidates, { type Candidate } from './Candidates.svelte';
	import Promises from './Promises.svelte';
	import FactField from '../facts/FactField.svelte';
	import { pickData, unpromised, type Sheet } from './sheet.svelte';

	let {
		sheet,
		line,
		cell,
		readonly = false,
		promises = true,
		called = 'Lot or serial',
		words = PICK_WORDS,
		confirm = 'Picked',
		targets = [],
		suggests = true,
		offers = 'is there',
		heads = [],
		more
	}: {
		sheet: Sheet;
		line: SheetLine;
		cell: Cell;
		readonly?: boolean;
		/** what is suggested may be promised to it */
		promises?: boolean;
		/** the head of their column */
		called?: string;
		/** what each state is called */
		words?: Readonly<Record<PickState, string>>;
		/** what somebody says who has it in hand, without a scan */
		confirm?: string;
		/** where it may go to, where that may be said; the first unless somebody does */
		targets?: readonly string[];
		/** something is suggested where nothing was chosen */
		suggests?: boolean;
		/** what there is to choose from: "is there" */
		offers?: string;
		/** what else is asked of what goes: the heads of its columns, and their cells for some that are alike */
		heads?: readonly string[];
		more?: Snippet<[PickRow[], (what: Partial<PickRow>) => unknown]>;
	} = $props();
	let choosing = $state(false);
	let promising = $state(false);
	/** the number that another is to go in place of */
	let swapping = $state<PickRow | null>(null);
	const swaps = $derived(!readonly && !!sheet.state.sale);
	const open = $derived(promises && cell.unit === null ? unpromised(line, cell) : []);
	let opened = $state<Record<string, boolean>>({});
	const byHand = $derived(cell.picks.some((p) => p.id && isSome(p.qty)));
	/** it is fetched: each says how far it has come */
	const fetched = $derived(suggests && isPicked(sheet.state.kind));
	/** what somebody wants none of */
	const out = $derived(suggests ? cell.picks.filter((p) => p.id && p.qty === '0') : []);
	const picks = $derived(out.length ? cell.picks.filter((p) => !(p.id && p.qty === '0')) : cell.picks);
	const toConfirm = $derived(
		fetched && !readonly ? picks.filter((p) => pickState(p) !== 'picked' && isSome(p.qty)) : []
	);
	const isTaken = (p: PickRow) => pickState(p) === 'picked' || (fetched && words.chosen === words.picked && !!p.id);

	/** So many rows stand there at first. */
	const SHOWN = 100;
	interface Group {
		key: string;
		picks: PickRow[];
		first: PickRow;
		last: PickRow;
	}
	/** Consecutive serials at one place, of which the same is said, as one range. */
	const groups = $derived.by((): Group[] => {
		const out = picks
			.filter((p) => p.kind !== 'serial')
			.map((p): Group => ({ key: p.mark + p.place, picks: [p], first: p, last: p }));
		const said = (p: PickRow) => p.findings.map((f) => f.message);
		const alike = group(
			picks.filter((p) => p.kind === 'serial'),
			(p) =>
				JSON.stringify([
					p.place,
					pickState(p),
					p.cameBack,
					p.evidence,
					p.expiresOn,
					p.expiryTyped,
					p.facts,
					p.to,
					p.goes,
					p.found,
					said(p)
				])
		);
		for (const list of alike.values()) {
			for (const picks of inRanges(list, (p) => p.number)) {
				const [first] = picks;
				out.push({ key: first.number + first.place, picks, first, last: picks[picks.length - 1] });
			}
		}
		return out;
	});

	const isBad = (g: Group) => g.picks.some((x) => x.findings.some((f) => f.level === 'stop' && !f.open));
	// Of many what is to be mended stands first.
	let most = $state(SHOWN);
	const shown = $derived(
		groups.length <= most ? groups : [...groups.filter(isBad), ...groups.filter((g) => !isBad(g))].slice(0, most)
	);
	/** How many numbers of a range that is open are shown. */
	let inside = $state<Record<string, number>>({});

	/** Enters something of some of what goes; a suggestion becomes a choice by it. */
	function enter(picks: readonly PickRow[], what: Partial<PickRow>) {
		const at = (p: PickRow) => `${p.mark} ${p.place}`;
		const mine = new Set(picks.map(at));
		// One after the other, each on what the one before made of it: a second field is filled before the first is saved.
		entering = entering.then(async () => {
			await sheet.settled();
			await sheet.put(
				cell.picks.flatMap((p) =>
					mine.has(at(p))
						? [
								{
									...(p.id ? { id: p.id, version: p.version } : {}),
									lineId: line.id,
									data: pickData({ ...p, ...what }, cell.unit)
								}
							]
						: []
				)
			);
		});
		return entering;
	}
	let entering: Promise<unknown> = Promise.resolve();
	function setFact(picks: PickRow[], code: string, value: string) {
		const { [code]: _was, ...others } = picks[0].facts;
		return enter(picks, { facts: value.trim() ? { ...others, [code]: value.trim() } : others });
	}
	const dated = $derived(line.expiry !== 'not asked');
	// Who changes it has looked at it.
	const changeQty = (pick: PickRow, typed: string) => {
		const qty = typed.trim().slice(0, 40) || '0';
		return qty === pick.qty ? undefined : enter([pick], { qty, evidence: 'entered' });
	};
	/** How far something has come that nobody has in hand: "suggested, expires first". */
	const saysOf = (p: PickRow) => {
		const word = fetched ? words[pickState(p)] : p.id ? 'chosen' : 'suggested';
		return !suggests && !p.id ? '' : p.why ? `${word}, ${p.why}` : word;
	};
	/** Says that somebody has them in hand. */
	const confirmAll = (list: readonly PickRow[]) => sheet.confirm(line.id, list, cell.unit);
	/** Takes a choice back; leaves a suggestion out. */
	async function takeOut(list: readonly PickRow[]) {
		const [chosen, open] = [list.filter((p) => p.id), list.filter((p) => !p.id)];
		// With no row left it would be suggested again: a choice of none stands in its place.
		const none = open.length || !suggests ? open : chosen.slice(0, 1);
		await enter(none, { qty: '0', evidence: 'entered' });
		const gone = chosen.filter((p) => !none.includes(p));
		if (gone.length) await sheet.remove(gone.map((p) => p.id!));
	}
	/** Chooses one: what is suggested fills what is left. */
	async function take(c: Candidate) {
		const old = cell.picks.find((p) => p.id && p.mark === c.mark && p.place === c.place);
		const chosen = total(cell.picks.flatMap((p) => (p.id && p !== old && isSome(p.qty) ? [p.qty] : [])));
		const left = rest(cell.need, chosen);
		// What others hold whole may still be taken over: then what stands there counts.
		const most = c.free === '0' ? c.qty : c.free;
		const qty = c.kind === 'serial' ? '1' : least(left === '0' ? cell.need : left, most);
		await sheet.put([
			{
				...(old ? { id: old.id!, version: old.version } : {}),
				lineId: line.id,
				data: { mark: c.mark, place: c.place, qty, ...(cell.unit ? { unit: cell.unit } : {}) }
			}
		]);
	}
</script>

{#if picks.length}
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>{called}</TableHeader><TableHeader>Place</TableHeader><TableHeader>Expires</TableHeader
				><TableHeader class="num">Quantity, {unitWord(line.unit)}</TableHeader
				>{#each line.facts as f (f.code)}<TableHeader
						>{f.name}{#if f.unit}, {f.unit}{/if}</TableHeader
					>{/each}{#if targets.length > 1}<TableHeader>To</TableHeader>{/if}{#each heads as head (head)}<TableHeader
						>{head}</TableHeader
					>{/each}<TableHeader>Check</TableHeader><TableHeader><span class="visually-hidden">Remove</span></TableHeader
				></TableRow
			></TableHead
		>
		<TableBody>
			{#each shown as g (g.key)}
				{@const p = g.first}
				<TableRow class={isBad(g) ? 'bad' : ''}>
					<TableCell>
						<Tag
							kind={p.kind}
							number={p.number}
							last={g.last.number}
							count={g.picks.length}
							id={g.picks.length === 1 ? p.mark : null}
							item={line.itemName}
							place={p.place}
						/>
						{#if p.evidence === 'scanned'}<span class="soft small">scanned</span>{/if}
						{#if p.cameBack}<span class="small back">came back</span>{/if}
						{#if g.picks.length > 1}<Button
								kind="ghost"
								size="small"
								class="link"
								on:click={() => (opened[g.key] = !opened[g.key])}>{opened[g.key] ? 'Fold' : 'Open'}</Button
							>{/if}
					</TableCell>
					<TableCell class={virtualPlace(p.place) ? '' : 'mono'} data-label="Place">{placeName(p.place)}</TableCell>
					<TableCell data-label="Expires"
						>{#if dated && !p.expiresOn && p.kind !== 'unmarked' && !readonly}<GridField
								label="Expires, {p.number}"
								value={p.expiryTyped}
								ch={11}
								placeholder="31 Mar 2027"
								onchange={(value) => enter(g.picks, { expiryTyped: value.trim().slice(0, 40) })}
							/>{:else}{p.expiresOn ? showWhen(p.expiresOn) : '–'}{/if}</TableCell
					>
					<TableCell class="num" data-label="Quantity, {unitWord(line.unit)}">
						{#if p.kind === 'serial' || readonly}{g.picks.length > 1 ? grouped(g.picks.length) : show(p.qty)}
						{:else}<GridField
								label="Quantity of {p.number}"
								data-pick={p.id}
								value={p.qty}
								decimals={line.decimals}
								ch={9}
								onchange={(value) => changeQty(p, value)}
							/>{/if}
					</TableCell>
					{#each line.facts as f (f.code)}<TableCell data-label="{f.name}{f.unit ? `, ${f.unit}` : ''}"
							>{#if p.kind !== 'unmarked' && !readonly}<FactField
									grid
									fact={f}
									says="{f.name} of {p.number}"
									value={p.facts[f.code] ?? ''}
									onchange={(value) => setFact(g.picks, f.code, value)}
								/>{/if}</TableCell
						>{/each}
					{#if targets.length > 1}<TableCell data-label="To"
							>{#if readonly}{p.to ?? targets[0]}{:else}<Choose
									label="Where {p.number} goes"
									hide
									options={targets}
									value={p.to ?? targets[0]}
									onpick={(to) => enter(g.picks, { to })}
								/>{/if}</TableCell
						>{/if}
					{@render more?.(g.picks, (what) => enter(g.picks, what))}
					<TableCell class="check"
						><Findings
							findings={p.findings}
							good={isTaken(p) ? words.picked : ''}
							says={sheet.checking ? '' : saysOf(p)}
						/></TableCell
					>
					<TableCell class="num"
						>{#if swaps && g.picks.length === 1 && p.kind !== 'unmarked'}{@render swap(p)}{/if}
						{#if fetched && !readonly && !isTaken(p)}<Button
								kind="ghost"
								size="small"
								class="link"
								on:click={() => confirmAll(g.picks)}>{confirm}<span class="visually-hidden">: {p.number}</span></Button
							>{/if}
						{#if !readonly}<Button kind="ghost" size="small" class="link" on:click={() => takeOut(g.picks)}
								>Remove<span class="visually-hidden"> {p.number}</span></Button
							>{/if}</TableCell
					>
				</TableRow>
				{#if opened[g.key]}
					{#each g.picks.slice(0, inside[g.key] ?? SHOWN) as x (x.mark)}
						<TableRow class="inner"
							><TableCell><Tag kind={x.kind} number={x.number} id={x.mark} item={line.itemName} /></TableCell><TableCell
								class="mono"
								data-label="Place">{placeName(x.place)}</TableCell
							><TableCell data-label="Expires">{x.expiresOn ? showWhen(x.expiresOn) : '–'}</TableCell><TableCell
								class="num">1</TableCell
							>{#each line.facts as f (f.code)}<TableCell></TableCell>{/each}{#if targets.length > 1}<TableCell
								></TableCell>{/if}{#each heads as head (head)}<TableCell></TableCell>{/each}<TableCell></TableCell>
							<TableCell class="num"
								>{#if swaps}{@render swap(x)}{/if}
								{#if !readonly}<Button kind="ghost" size="small" class="link" on:click={() => takeOut([x])}
										>Remove<span class="visually-hidden"> {x.number}</span></Button
									>{/if}</TableCell
							></TableRow
						>
					{/each}
					{#if g.picks.length > (inside[g.key] ?? SHOWN)}<TableRow class="inner"
							><TableCell colspan={6 + line.facts.length + heads.length + (targets.length > 1 ? 1 : 0)}
								>{grouped(inside[g.key] ?? SHOWN)} of {grouped(g.picks.length)} shown.
								<Button
									kind="ghost"
									size="small"
									class="link"
									on:click={() => (inside[g.key] = (inside[g.key] ?? SHOWN) + 500)}>Show more</Button
								></TableCell
							></TableRow
						>{/if}
				{/if}
			{/each}
		</TableBody>
	</Table>
	{#if groups.length > most}<p class="more">
			{grouped(most)} of {grouped(groups.length)} rows shown, those to correct first.
			<Button kind="ghost" size="small" class="link" on:click={() => (most += 500)}>Show more</Button>
		</p>{/if}
{/if}
{#if !readonly}
	<div class="below">
		<Button kind="ghost" size="small" class="link" aria-expanded={choosing} on:click={() => (choosing = !choosing)}
			>{choosing ? 'Close the list' : `Choose from what ${offers}`}</Button
		>
		{#if toConfirm.length > 1}<Button kind="ghost" size="small" class="link" on:click={() => confirmAll(toConfirm)}
				>All {grouped(toConfirm.length)} {words.picked}</Button
			>{/if}
		{#if out.length}<Button
				kind="ghost"
				size="small"
				class="link"
				on:click={() => sheet.remove(out.flatMap((p) => p.id ?? []))}>Suggest again</Button
			>{/if}
		{#if byHand}<Button
				kind="ghost"
				size="small"
				class="link"
				on:click={() => sheet.remove(cell.picks.flatMap((p) => p.id ?? []))}>Remove all</Button
			>{/if}
		{#if open.length}<Button kind="ghost" size="small" class="link" on:click={() => (promising = true)}
				>{byHand ? 'Promise what is chosen…' : 'Promise as suggested…'}</Button
			>{/if}
		{#if out.length}<span class="soft"
				>Not wanted: {#each out.slice(0, 6) as p, i (p.id)}{i ? ', ' : ''}<span class="mono">{p.number}</span
					>{/each}{out.length > 6 ? ` and ${grouped(out.length - 6)} more` : ''}</span
			>{/if}
		{#if line.leftOut.length}
			<span class="soft"
				>Skipped:
				{#each line.leftOut.slice(0, 4) as l, i (l.number + l.place)}{i ? ', ' : ''}<span class="mono">{l.number}</span>
					{l.message}{/each}{line.leftOut.length > 4 ? ` and ${line.leftOut.length - 4} more` : ''}</span
			>
		{/if}
	</div>
{/if}
{#if promises && cell.unit === null}<Promises {sheet} {line} {cell} {readonly} bind:asking={promising} />{/if}
{#snippet swap(p: PickRow)}<Button kind="ghost" size="small" class="link" on:click={() => (swapping = p)}
		>Swap…<span class="visually-hidden"> {p.number}</span></Button
	>{/snippet}
{#if swapping}
	{@const out = swapping}
	<p class="swap">
		<b>What goes in place of {out.number}? Scan it, or take it from the list.</b>
		<Button kind="ghost" size="small" class="link" on:click={() => (swapping = null)}>Leave it</Button>
	</p>
	<Candidates
		code={sheet.state.code}
		mode={sheet.mode}
		{line}
		taken={picks}
		except={out.mark}
		stamp={sheet.state.stamp}
		ontake={async (c) => {
			if (await sheet.swap(line.id, out, c)) swapping = null;
		}}
		scans
	/>
{:else if choosing}<Candidates
		code={sheet.state.code}
		mode={sheet.mode}
		{line}
		taken={picks}
		stamp={sheet.state.stamp}
		ontake={take}
	/>{/if}

<style>
	.more {
		margin: 0.4rem 0.75rem;
		font-size: 0.8125rem;
	}
	.small {
		font-size: 0.75rem;
		margin-left: 0.25rem;
	}
	.back {
		color: var(--amber-ink);
	}
	.swap {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1rem;
		align-items: center;
		margin: 0.4rem 0.75rem 0 2rem;
	}
	.below {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1.25rem;
		padding: 0.4rem 0.75rem;
		font-size: 0.8125rem;
	}
</style>
