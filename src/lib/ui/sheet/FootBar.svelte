<script lang="ts">
	import Text from '../fields/Text.svelte';
	import Foot from '../shell/Foot.svelte';
	// What is missing, in words that can be clicked, and one button with the verb of the job.
	import { Button } from 'carbon-components-svelte';
	import type { Sheet } from './sheet.svelte';
	interface Props {
		sheet: Sheet;
		/** the verb: "Book in" */
		verb: string;
		may: boolean;
		ongo?: (line: number) => void;
		ondone?: () => void;
	}
	let { sheet, verb, may, ongo, ondone }: Props = $props();
	let reason = $state('');
	const missing = $derived(sheet.state.missing);
	const asks = $derived(missing.filter((m) => m.level === 'reason'));
	const stopped = $derived(missing.some((m) => m.level === 'stop'));
	const part = $derived(missing.some((m) => m.level === 'missing'));
	const ready = $derived(
		sheet.state.ready && (!asks.length || reason.trim() !== '') && !sheet.busy && !sheet.checking && !sheet.waiting
	);

	async function go() {
		// Pressed while a long sheet is checked: it waits for that, and books where nothing stands in the way then.
		await sheet.checkedAll();
		if (!ready || !may) return;
		if (await sheet.book(reason.trim().slice(0, 1000))) {
			reason = '';
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
	function show(line: number) {
		ongo?.(line);
		requestAnimationFrame(() => {
			const el = document.getElementById(`line-${line}`);
			el?.scrollIntoView({ block: 'start', behavior: 'smooth' });
			el?.parentElement?.querySelector<HTMLInputElement>('input')?.focus({ preventScroll: true });
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
	{:else if !missing.length}
		<span class="good">{sheet.state.ready ? 'Nothing is missing.' : 'Nothing is entered yet.'}</span>
	{:else}
		<span class="soft">{stopped ? 'Fix first:' : 'Still missing:'}</span>
		{#each missing.slice(0, 5) as m, i (i)}
			<Button kind="ghost" size="small" class="word {m.level}" on:click={() => show(m.line)}
				>Line {m.line}: {m.message.replace(/\.$/, '')}</Button
			>
		{/each}
		{#if missing.length > 5}<span class="soft">and {missing.length - 5} more</span>{/if}
	{/if}
	{#snippet act()}{#if may}
			{#if asks.length}
				<Text label="Reason, kept in the ledger" hide bind:value={reason} maxlength="1000" placeholder="Reason" />
			{/if}
			<Button size="small" disabled={!ready} onclick={go} title="Ctrl + Enter"
				>{verb}{part && sheet.state.ready ? ', the rest later' : ''}</Button
			>
		{/if}{/snippet}
</Foot>
