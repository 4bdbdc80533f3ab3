<script lang="ts">
	// The answer of a trace: what adds up, the picture, and its parts by pages. The trace is worked out once; another part, page,
	// range or bar is another look at it.
	import { untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { Button, Table, TableBody, TableCell, TableRow } from 'carbon-components-svelte';
	import { showWhen } from '$lib/ui/dates';
	import { show } from '$lib/core/quantity/quantity';
	import { grouped } from '$lib/core/quantity/sign';
	import { unitWord } from '$lib/core/quantity/units';
	import { sayKnown } from '$lib/core/ledger/evidence';
	import { barsText, seenIn } from '$lib/core/trace/seen';
	import { MOST_LINES, type Line, type Looked, type Part } from '$lib/core/trace/shown';
	import { MOST_BARS, type Bar } from '$lib/core/trace/stages';
	import DayField from '../fields/DayField.svelte';
	import Text from '../fields/Text.svelte';
	import Faults from '../shell/Faults.svelte';
	import Findings from '../sheet/Findings.svelte';
	import LongFile from '../files/LongFile.svelte';
	import Waiting from '../files/Waiting.svelte';
	import Tag from '../tag/Tag.svelte';
	import Lines from './Lines.svelte';
	import Stages from './Stages.svelte';

	interface Props {
		/** the look, and what it is of */
		of: {
			look: string;
			mark: string;
			direction: 'forward' | 'back';
			since: string | null;
			asOf: string | null;
			ledgerSize: number;
		};
		first: Looked;
		/** days as typed */
		asked: { since: string; asOf: string };
		said: string;
		/** when the last entry that it reads was sealed, and how many came after */
		when: { at: string | null; newer: number };
		mayHold: boolean;
	}
	let { of, first, asked, said, when, mayHold }: Props = $props();
	const head = untrack(() => first.head!);
	const { root } = head;
	const forward = head.direction === 'forward';
	let stages = $state.raw(untrack(() => first.stages));
	let lines = $state.raw(untrack(() => first.page!));
	let opened = $state.raw<string[]>([]);
	let closed = $state.raw<string[]>([]);
	let waits = $state(false);
	let faults = $state<{ message: string }[]>([]);

	const seen = $derived(seenIn(page.url.searchParams, head.direction));
	const link = (changes: Record<string, string | number | null>) => {
		const p = new URLSearchParams(page.url.searchParams);
		for (const [k, v] of Object.entries(changes)) {
			if (v) p.set(k, String(v));
			else p.delete(k);
		}
		return `/trace?${p}`;
	};
	const part = (tab: Part) => link({ tab, row: null, find: null });
	/** A folded bar shows twenty more of its column; any other leads to its numbers. */
	const barLink = (b: Bar) =>
		b.folds
			? link({
					bars: barsText([
						...seen.bars.filter(([c]) => c !== b.col),
						[b.col, (new Map(seen.bars).get(b.col) ?? MOST_BARS) + 20]
					])
				})
			: link({ tab: b.col === 0 || b.tone === 'ink' ? 'numbers' : 'where', find: b.find, row: null });

	let looks = 0;
	async function look(want: 'lines' | 'picture') {
		const mine = want === 'lines' ? ++looks : looks;
		const soon = setTimeout(() => (waits = true), 400);
		faults = [];
		try {
			const answer = await fetch('/trace/look', {
				method: 'POST',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ ...of, ...seen, opened, closed, want })
			});
			const got = await answer.json();
			if (!answer.ok) faults = got.errors ?? [{ message: got.title }];
			else if (want === 'picture') stages = got.stages;
			else if (mine === looks) lines = got.page;
		} catch {
			faults = [{ message: 'The server does not answer. Try again.' }];
		} finally {
			clearTimeout(soon);
			waits = false;
		}
	}
	// What came with the page is not asked again.
	let shown = untrack(() => JSON.stringify([seen.part, seen.find, seen.from, opened, closed]));
	let drawn = untrack(() => barsText(seen.bars));
	let before = untrack(() => seen.part);
	$effect(() => {
		if (seen.part !== before) {
			before = seen.part;
			opened = [];
			closed = [];
		}
		const now = JSON.stringify([seen.part, seen.find, seen.from, opened, closed]);
		const bars = barsText(seen.bars);
		untrack(() => {
			if (now !== shown) {
				shown = now;
				void look('lines');
			}
			if (bars !== drawn) {
				drawn = bars;
				void look('picture');
			}
		});
	});
	function fold(l: Line) {
		const without = (list: string[]) => list.filter((k) => k !== l.key);
		opened = l.open ? without(opened) : [...without(opened), l.key].slice(-500);
		closed = l.open ? [...without(closed), l.key].slice(-500) : without(closed);
	}
	let typing: ReturnType<typeof setTimeout> | undefined;
	function find(text: string) {
		clearTimeout(typing);
		typing = setTimeout(
			() =>
				void goto(link({ find: text.trim() || null, row: null }), {
					replaceState: true,
					keepFocus: true,
					noScroll: true
				}),
			250
		);
	}
	const STATES: Record<string, string> = {
		'on hand': 'On hand',
		shipped: 'With customers',
		scrapped: 'Scrapped',
		adjusted: 'Adjusted away',
		'sent back': 'Sent back to suppliers',
		'in process': 'In process',
		unmarked: 'In stock without numbers'
	};
	const known = sayKnown(head.known);
	const proof =
		head.pooled === 0
			? 'proven piece by piece: everything on the way was made one by one'
			: head.exact === 0
				? `proven by batch: ${grouped(head.pooled)} ${head.pooled === 1 ? 'batch' : 'batches'} made many pieces at once`
				: `proven piece by piece in ${grouped(head.exact)} runs, by batch in ${grouped(head.pooled)}`;
	const parts = (
		[
			['where', 'Where it is now'],
			['numbers', 'By generation'],
			['customers', 'By customer'],
			['suppliers', 'Suppliers'],
			['gaps', 'Gaps'],
			['formerly', 'Formerly inside']
		] as const
	).filter(([p]) =>
		p === 'where' || p === 'customers'
			? forward
			: p === 'suppliers'
				? !forward
				: p !== 'formerly' || head.counts.formerly > 0
	);
	const file = (what: string) => `${what}?mark=${root.id}&direction=${head.direction}`;
	const days = $derived(`&since=${asked.since}&asOf=${asked.asOf}&ledgerSize=${of.ledgerSize}`);
	const last = $derived(Math.min(lines.total, seen.from + lines.lines.length));
</script>

<div class="head">
	<h1>Trace {head.direction}</h1>
	<Tag
		kind={root.kind}
		number={root.number}
		id={root.id}
		qty={head.rootQty ? `${show(head.rootQty)} ${unitWord(head.unit)}` : null}
		status={root.status}
		expiresOn={root.expiresOn}
	/>
	<span class="soft"
		>{root.itemName}{head.roots > 1 ? ` and the ${grouped(head.roots - 1)} serials of this lot` : ''}</span
	>
</div>
<Faults faults={[...(said ? [{ message: said }] : []), ...faults]} />
<div class="bar">
	<span class="pair"
		><a
			href={link({ direction: 'back', tab: null, since: null, find: null, row: null, bars: null })}
			aria-current={!forward}>Back</a
		><a href={link({ direction: 'forward', tab: null, find: null, row: null, bars: null })} aria-current={forward}
			>Forward</a
		></span
	>
	{#if forward}
		<DayField
			label="from"
			value={asked.since}
			placeholder="its first day"
			onday={(day) => goto(link({ since: day || null, row: null, bars: null }))}
		/>
	{/if}
	<DayField
		label="as of"
		value={asked.asOf}
		placeholder="now"
		onday={(day) => goto(link({ asOf: day || null, row: null, bars: null }))}
	/>
	<span class="soft"
		>Ledger of {grouped(of.ledgerSize)} entries{when.at ? `, ${showWhen(when.at)}` : ''}{#if when.newer}. {grouped(
				when.newer
			)}
			{when.newer === 1 ? 'entry was' : 'entries were'} added since:
			<a href={link({ ledgerSize: null, row: null })}>trace it as it is now</a>{/if}</span
	>
	<span class="soft"
		>{head.levels}
		{head.levels === 1 ? 'level' : 'levels'} · {grouped(head.reached)}
		{head.reached === 1 ? 'number' : 'numbers'} · {proof}</span
	>
	{#if known}<span class:soft={!head.known.accepted}>{known}</span>{/if}
	<span class="push"
		>{#if forward && mayHold}<a href="/register/{root.id}?ask=hold">Put on hold, with all that contains it…</a
			>{/if}{#if !forward}<a href="/trace/parts?mark={root.id}">Compare with parts list</a>{/if}<LongFile
			href="{file('/trace/report')}{days}">Report (PDF)</LongFile
		><LongFile href="{file('/trace/csv')}&part=numbers{days}">Numbers as CSV</LongFile>
		{#if forward}<LongFile href="{file('/trace/csv')}&part=where{days}">Where it is now as CSV</LongFile>{/if}</span
	>
</div>
{#if forward && stages}
	<div class="proof panel">
		<Stages drawn={stages} number={root.number} link={barLink} />
		<aside>
			<span class="soft">Accounted for</span>
			<b class="big" class:broken={head.accounted === false}
				>{head.accounted === null ? '–' : head.accounted ? '100 %' : 'not all'}</b
			>
			<Table size="short">
				<TableBody>
					<TableRow
						><TableCell>Start</TableCell><TableCell class="num"
							><b>{head.rootQty ? show(head.rootQty) : ''} {unitWord(head.unit)}</b></TableCell
						></TableRow
					>
					{#each head.balance as b (b.state)}<TableRow
							><TableCell>{STATES[b.state] ?? b.state}</TableCell><TableCell class="num">{show(b.content)}</TableCell
							></TableRow
						>{/each}
				</TableBody>
			</Table>
			{#if head.shares}<p class="soft">Shares of what was made at once, rounded so that they add up.</p>{/if}
			{#if head.accounted === false}<p>
					<Findings
						findings={[
							{ code: 'content', level: 'stop', message: 'The quantities do not add up. Tell your administrator.' }
						]}
					/>
				</p>{/if}
		</aside>
	</div>
{/if}
<div class="over">
	<nav class="tabs" aria-label="Parts of the answer">
		{#each parts as [p, label] (p)}<a
				href={part(p)}
				aria-current={seen.part === p}
				data-sveltekit-noscroll
				data-sveltekit-keepfocus>{label} · {grouped(head.counts[p])}</a
			>{/each}
	</nav>
	<Text
		label="Find in it"
		hide
		ch={30}
		shown={seen.find}
		echoes
		placeholder="Find a number, item or place"
		maxlength="100"
		oninput={(e) => find(e.currentTarget.value)}
	/>
</div>
{#if waits}<Waiting work={of.look} />{/if}
<Lines part={seen.part} {head} lines={lines.lines} onfold={fold} />
{#if lines.total > MOST_LINES}<div class="pages">
		<span class="soft">{grouped(Math.min(seen.from + 1, last))}–{grouped(last)} of {grouped(lines.total)} lines</span>
		<Button
			kind="ghost"
			size="small"
			href={link({ row: Math.max(0, seen.from - MOST_LINES) || null })}
			disabled={!seen.from}
			data-sveltekit-noscroll
			data-sveltekit-keepfocus>Previous</Button
		>
		<Button
			kind="ghost"
			size="small"
			href={link({ row: seen.from + MOST_LINES })}
			disabled={last >= lines.total}
			data-sveltekit-noscroll
			data-sveltekit-keepfocus>Next</Button
		>
	</div>{/if}
{#if seen.part === 'numbers' && head.openCount}<p class="soft">
		{#each head.open as run, i (run)}{i ? ', ' : ''}<span class="mono">{run}</span>{/each}{head.openCount >
		head.open.length
			? ` and ${grouped(head.openCount - head.open.length)} more`
			: ''}
		{head.openCount === 1 ? 'has' : 'have'} taken some and put nothing out yet.
	</p>{/if}

<style>
	.bar {
		display: flex;
		flex-wrap: wrap;
		gap: 0.5rem 1rem;
		align-items: center;
		margin-bottom: 0.75rem;
	}
	.push {
		margin-left: auto;
		display: flex;
		gap: 1rem;
	}
	.pair {
		display: flex;
		border: 1px solid var(--tag-rule);
	}
	.pair a {
		padding: 0.3rem 0.9rem;
		text-decoration: none;
		color: var(--ink);
		background: var(--paper);
	}
	.pair a[aria-current='true'] {
		background: var(--ink);
		color: var(--paper);
	}
	.proof {
		display: grid;
		grid-template-columns: 1fr 15.5rem;
		margin-bottom: 0.75rem;
	}
	aside {
		padding: 0.6rem 0.75rem;
		border-left: 1px solid var(--rule);
	}
	.big {
		display: block;
		font-size: 1.75rem;
		font-weight: 600;
		line-height: 1.2;
		color: var(--green);
	}
	.big.broken {
		color: var(--red);
	}
	.over {
		display: flex;
		flex-wrap: wrap;
		align-items: end;
		justify-content: space-between;
		gap: 0.5rem 1rem;
	}
	.pages {
		display: flex;
		align-items: center;
		gap: 0.5rem;
		margin-top: 0.5rem;
	}
	@media (max-width: 640px) {
		.proof {
			grid-template-columns: 1fr;
		}
		.push {
			margin-left: 0;
			flex-wrap: wrap;
		}
	}
</style>
