<script lang="ts">
	// One fact of a lot or serial, entered as its kind wants it.
	import { shown } from '$lib/ui/shown';
	import { fileOf, limitsOf, type Fact } from '$lib/core/facts/fact';
	import FilePick from '../files/FilePick.svelte';
	import { keepPicked } from '../files/picked';
	interface Props {
		fact: Fact;
		value: string;
		/** what a screen reader says, where the fact's name alone says too little */
		says?: string;
		/** names the field for the keys that go from one to the next */
		field?: string;
		onchange: (value: string) => unknown;
		onkeydown?: (e: KeyboardEvent) => void;
	}
	let { fact, value, says = fact.name, field, onchange, onkeydown }: Props = $props();
	let said = $state('');
	async function keep(file: File) {
		said = 'Keeping…';
		try {
			const kept = await keepPicked(file);
			said = '';
			onchange(kept);
		} catch (e) {
			said = (e as Error).message;
		}
	}
	const file = $derived(fact.kind === 'file' ? fileOf(value) : null);
</script>

{#if fact.kind === 'choice'}
	<select
		class="plain"
		aria-label={says}
		data-field={field}
		{value}
		{onkeydown}
		onchange={(e) => onchange(e.currentTarget.value)}
		><option value="">–</option>{#each fact.choices as c (c)}<option>{c}</option>{/each}</select
	>
{:else if fact.kind === 'file'}
	<span class="kept">
		{#if file}<a href="/files/{file.sha256}" target="_blank" rel="noopener" title={file.name}>{file.name}</a>{/if}
		<FilePick
			label={file ? 'Another' : 'Choose'}
			says="{says}: {file ? 'another file' : 'choose a file'}"
			accept=".pdf,.png,.jpg,.jpeg"
			onpick={keep}
		/>
		{#if said}<span class="soft" role="status">{said}</span>{/if}
	</span>
{:else}
	<input
		class="plain"
		class:num={fact.kind === 'number'}
		aria-label={says}
		data-field={field}
		use:shown={value}
		size={fact.kind === 'number' ? 6 : fact.kind === 'date' ? 11 : 14}
		maxlength="200"
		inputmode={fact.kind === 'number' ? 'decimal' : undefined}
		title={limitsOf(fact) || undefined}
		placeholder={fact.kind === 'date' ? '2027-03-31' : ''}
		autocomplete="off"
		{onkeydown}
		onchange={(e) => onchange(e.currentTarget.value)}
	/>
{/if}

<style>
	.kept {
		display: inline-flex;
		gap: 0.5rem;
		align-items: center;
		min-height: 32px;
	}
	.kept a {
		max-width: 9rem;
		overflow: hidden;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
</style>
