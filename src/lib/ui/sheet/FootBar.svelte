<script lang="ts">
	import Text from '../fields/Text.svelte';
	import Foot from '../shell/Foot.svelte';
	// What is missing, in words that can be clicked, and one button with the verb of the job.
	import { Button } from 'carbon-components-svelte';
	import { group } from '$lib/core/group/group';
	import { show } from '$lib/core/quantity/quantity';
	import { unitWord } from '$lib/core/quantity/units';
	import { isNamed, notLookedAt, statesIn } from '$lib/core/sheet/entered';
	import { PICK_WORDS, type PickState } from '$lib/core/sheet/sheet';
	import Question from '../shell/Question.svelte';
	import type { Sheet } from './sheet.svelte';
	interface Props {
		sheet: Sheet;
		/** the verb: "Book in" */
		verb: string;
		/** what the states of what is fetched are called */
		states?: Readonly<Record<PickState, string>>;
		may: boolean;
		ongo?: (line: number) => void;
		ondone?: () => void;
	}
	let { sheet, verb, states = PICK_WORDS, may, ongo, ondone }: Props = $props();
	let reason = $state('');
	/** why, for each of several findings that ask it */
	let whys = $state<Record<string, string>>({});
	const missing = $derived(sheet.state.missing);
	const asks = $derived(missing.filter((m) => m.level === 'reason'));
	const stopped = $derived(missing.some((m) => m.level === 'stop'));
	const part = $derived(missing.some((m) => m.level === 'missing'));
	/** what was found, by what it is: each has its own reason, since one sentence for all of them says nothing of any */
	const found = $derived([...group(asks, (a) => a.code)]);
	const several = $derived(found.length > 1);
	const isSaid = $derived(several ? found.every(([code]) => whys[code]?.trim()) : !asks.length || reason.trim() !== '');
	const whole = $derived(
		several
			? found
					.map(([code, list]) => `${list[0].message.replace(/\.$/, '').slice(0, 120)}: ${whys[code]?.trim()}`)
					.join('; ')
			: reason.trim()
	);
	const ready = $derived(sheet.state.ready && (several || isSaid) && !sheet.busy && !sheet.checking && !sheet.waiting);

	/** what nobody has looked at */
	const suggested = $derived(notLookedAt(sheet.state.kind, sheet.state.lines));
	const named = $derived(isNamed(sheet.state.lines));
	/** some of it is named and not in hand yet */
	const toFetch = $derived(
		states.chosen !== states.picked && sheet.state.lines.some((l) => statesIn(l.cells).chosen !== '0')
	);
	/** a site that picks in an act of its own takes what was picked, and nothing else */
	const picksOnly = $derived(suggested.length > 0 && sheet.state.staging?.side === 'picks');
	const asksFirst = $derived((suggested.length > 0 && !picksOnly) || several);
	const can = $derived(ready && !(picksOnly && !named));
	let asking = $state(false);

	async function go() {
		// Pressed while a long sheet is checked: it waits for that, and books where nothing stands in the way then.
		await sheet.checkedAll();
		if (!can || !may) return;
		if (asksFirst) asking = true;
		else await book(picksOnly);
	}
	/** @param only what is chosen or picked, nothing that is only suggested */
	async function book(only: boolean) {
		asking = false;
		if (await sheet.book(whole.slice(0, 1000), only)) {
			reason = '';
			whys = {};
			ondone?.();
		}
	}
	function keys(e: KeyboardEvent) {
		if (e.key === 'Enter' && e.ctrlKey) {
			e.preventDefault();
			go();
		}
		const el = document.activeElement as HTMLInputElement | null;
		const again = e.ctrlKey && (e.key === 'y' || (e.key.toLowerCase() === 'z' && e.shiftKey));
		if ((again || (e.key === 'z' && e.ctrlKey)) && !(el && /^(INPUT|TEXTAREA)$/.test(el.tagName) && el.value)) {
			e.preventDefault();
			if (again) sheet.doAgain();
			else sheet.takeBack();
		}
	}
	/** Leads to what is missing: the field that the finding names, else the first of its row that is empty, else of its line. */
	function goTo({ line, message }: { line: number; message: string }) {
		ongo?.(line);
		requestAnimationFrame(() => {
			const el = document.getElementById(`line-${line}`);
			el?.scrollIntoView({ block: 'start', behavior: 'smooth' });
			const panel = el?.parentElement;
			if (!panel) return;
			const says = message.toLowerCase().replace(/\.$/, '');
			// What is wrong with several numbers is said of all of them here, and of each in its row.
			const what = says.slice(says.indexOf(': ') + 1).trim();
			const row = [...panel.querySelectorAll('.finding')]
				.find((f) => f.textContent!.toLowerCase().includes(what))
				?.closest('tr, li, [data-line]');
			const fields = (from: Element) => [
				...from.querySelectorAll<HTMLInputElement>('input, select, button[data-field]')
			];
			const isNamed = (f: HTMLInputElement) => {
				const label = (f.getAttribute('aria-label') ?? f.labels?.[0]?.textContent ?? '').trim().toLowerCase();
				const name = label.split(/,| of /)[0];
				return name.length > 2 && what.includes(name);
			};
			// A long finding stands in a row of its own under the number's.
			const within = [row, row?.previousElementSibling].map((r) => (r ? fields(r) : [])).find((f) => f.length) ?? [];
			const to =
				within.find(isNamed) ??
				within.find((f) => !f.value) ??
				within[0] ??
				fields(panel).find(isNamed) ??
				fields(panel)[0];
			to?.focus({ preventScroll: true });
		});
	}
</script>

<svelte:window onkeydown={keys} />
<Foot>
	{#if sheet.waiting}
		<span class="stop"
			>{sheet.waiting}{#if sheet.signedOut}
				<a href="/sign-in" target="_blank" rel="noopener">Sign in</a>{/if}</span
		>
	{:else if sheet.checking}
		<span class="soft">Checking all of it …</span>
	{:else if !missing.length && suggested.length && sheet.state.ready}
		<span class="soft"
			>Nobody has looked at what is {states.suggested} in {suggested.length === 1
				? `line ${suggested[0].line.no}`
				: `${suggested.length} lines`}.</span
		>
	{:else if !missing.length}
		<span class="good">{sheet.state.ready ? 'Nothing is missing.' : 'Nothing is entered yet.'}</span>
	{:else}
		<span class="soft">{stopped ? 'Fix first:' : 'Still missing:'}</span>
		{#each missing.slice(0, 5) as m, i (i)}
			<Button kind="ghost" size="small" class="word {m.level}" on:click={() => goTo(m)}
				>Line {m.line}: {m.message.replace(/\.$/, '')}</Button
			>
		{/each}
		{#if missing.length > 5}<span class="soft">and {missing.length - 5} more</span>{/if}
	{/if}
	{#snippet act()}{#if may}
			{#if asks.length && !several}
				<Text label="Reason, kept in the ledger" hide bind:value={reason} maxlength="1000" placeholder="Reason" />
			{/if}
			<Button size="small" disabled={!can} onclick={go} title="Ctrl + Enter"
				>{verb}{asksFirst
					? suggested.length && !picksOnly
						? ` as ${states.suggested}…`
						: '…'
					: (part || picksOnly) && sheet.state.ready
						? ', the rest later'
						: ''}</Button
			>
		{/if}{/snippet}
</Foot>
{#if asking}
	{@const unseen = picksOnly ? [] : suggested}
	<Question
		title={unseen.length ? `${verb} as ${states.suggested}: ${sheet.state.code}` : `${verb}: ${sheet.state.code}`}
		verb={unseen.length ? `${verb} all of it` : verb}
		disabled={!isSaid}
		ondo={() => book(picksOnly)}
		second={unseen.length && named
			? { verb: `${verb} only what is ${toFetch ? 'named' : states.picked}`, ondo: () => book(true) }
			: undefined}
		onleave={() => (asking = false)}
	>
		{#if several}
			{#each found as [code, list] (code)}
				<Text
					label="{list[0].message.replace(/\.$/, '')}{list.length > 1 ? `, and ${list.length - 1} more like it` : ''}"
					maxlength="200"
					placeholder="Why, kept in the ledger"
					value={whys[code] ?? ''}
					oninput={(e) => (whys[code] = e.currentTarget.value)}
				/>
			{/each}
		{/if}
		{#if unseen.length}
			<p>Nobody has looked at these. They go as they are {states.suggested}:</p>
			<ul>
				{#each unseen as { line, qty } (line.id)}
					<li>Line {line.no}, {line.itemName}: <b>{show(qty)} of {show(line.open)} {unitWord(line.unit)}</b></li>
				{/each}
			</ul>
		{/if}
	</Question>
{/if}

<style>
	ul {
		margin: 0.5rem 0 0;
		padding-left: 1.25rem;
		max-height: 40vh;
		overflow: auto;
	}
</style>
