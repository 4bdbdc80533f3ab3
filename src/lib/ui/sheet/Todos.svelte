<script lang="ts">
	// What stays to be done after the goods have come or gone: each ticked off by somebody, with what they have to say of it.
	import { Button, Table, TableBody, TableCell, TableRow } from 'carbon-components-svelte';
	import { showWhen } from '$lib/ui/dates';
	import type { Todo } from '$lib/core/sheet/sheet';
	import Text from '../fields/Text.svelte';
	import Question from '../shell/Question.svelte';
	import type { Sheet } from './sheet.svelte';
	let { sheet, may }: { sheet: Sheet; may: boolean } = $props();
	let ticking = $state<Todo | null>(null);
	let adding = $state(false);
	let said = $state('');
	let what = $state('');
	const todos = $derived(sheet.state.todos);
	const left = $derived(todos.filter((t) => !t.done).length);
</script>

<section>
	<h2>
		Still to do {#if todos.length}<span class="soft">{left ? `${left} of ${todos.length}` : 'all done'}</span>{/if}
	</h2>
	<Table size="short">
		<TableBody>
			{#each todos as t (t.id)}
				<TableRow>
					<TableCell data-label="What"
						>{#if t.done}✓{/if}
						{t.what}</TableCell
					>
					<TableCell data-label="Done"
						>{#if t.done}{t.done.said || 'done'}
							<span class="soft">{t.done.by}, {showWhen(t.done.at)}</span>{:else}<span class="soft">open</span
							>{/if}</TableCell
					>
					<TableCell class="num"
						>{#if may}{#if t.done}<Button
									kind="ghost"
									size="small"
									class="link"
									on:click={() => sheet.todo({ id: t.id, done: false, said: '' })}
									>Open it again<span class="visually-hidden">: {t.what}</span></Button
								>{:else}<Button kind="ghost" size="small" class="link" on:click={() => (ticking = t)}
									>Tick off…<span class="visually-hidden"> {t.what}</span></Button
								>{/if}{/if}</TableCell
					>
				</TableRow>
			{:else}<TableRow><TableCell colspan={3} class="soft">Nothing.</TableCell></TableRow>{/each}
		</TableBody>
	</Table>
	{#if may}<Button kind="ghost" size="small" class="link" on:click={() => (adding = true)}>Add something to do…</Button
		>{/if}
</section>
{#if ticking}
	{@const t = ticking}
	<Question
		title="Tick off: {t.what}"
		verb="It is done"
		ondo={async () => {
			// Refused, what was typed stays for the next try.
			if (await sheet.todo({ id: t.id, done: true, said: said.trim() })) said = '';
		}}
		onleave={() => (ticking = null)}
	>
		<Text label="What came of it, such as the number of the credit note" bind:value={said} maxlength="200" />
	</Question>
{:else if adding}
	<Question
		title="Add something to do on {sheet.state.code}"
		verb="Add it"
		disabled={!what.trim()}
		ondo={async () => {
			if (await sheet.todo({ what: what.trim() })) what = '';
		}}
		onleave={() => (adding = false)}
	>
		<Text label="What stays to be done" bind:value={what} maxlength="200" />
	</Question>
{/if}

<style>
	section {
		margin-top: 1.5rem;
	}
	h2 span {
		font-weight: 400;
		font-size: 0.875rem;
		margin-left: 0.5rem;
	}
</style>
