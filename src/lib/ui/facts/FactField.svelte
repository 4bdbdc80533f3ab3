<script lang="ts">
	import GridField from '../fields/GridField.svelte';
	import DayField from '../fields/DayField.svelte';
	import Quantity from '../fields/Quantity.svelte';
	import Text from '../fields/Text.svelte';
	// One fact of a lot or serial, entered as its kind wants it.
	import { showWhen } from '$lib/ui/dates';
	import { fileOf, limitsOf, type Fact } from '$lib/core/facts/fact';
	import Choose from '../fields/Choose.svelte';
	import FilePick from '../files/FilePick.svelte';
	import { keepPicked } from '../files/picked';
	interface Props {
		fact: Fact;
		value: string;
		/** what a screen reader says, where the fact's name alone says too little */
		says?: string;
		/** stands in a row of a sheet */
		grid?: boolean;
		/** names the field for the keys that go from one to the next */
		field?: string;
		onchange: (value: string) => unknown;
		onkeydown?: (e: KeyboardEvent) => void;
	}
	let { fact, value, says = fact.name, grid = false, field, onchange, onkeydown }: Props = $props();
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
	const attributes = $derived({
		ch: { number: 6, date: 11, text: 14, choice: 14, file: 14 }[fact.kind],
		'data-field': field,
		maxlength: '200',
		title: limitsOf(fact) || undefined,
		placeholder: fact.kind === 'date' ? '31 Mar 2027' : '',
		onkeydown
	});
	const file = $derived(fact.kind === 'file' ? fileOf(value) : null);
</script>

{#if fact.kind === 'choice'}
	<Choose
		label={says}
		hide
		data-field={field}
		{value}
		{onkeydown}
		options={[['', '–'], ...fact.choices]}
		onpick={onchange}
	/>
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
{:else if grid}
	<GridField
		label={says}
		value={fact.kind === 'date' ? showWhen(value) : value}
		decimals={fact.kind === 'number' ? fact.decimals : undefined}
		{onchange}
		{...attributes}
	/>
{:else if fact.kind === 'date'}
	<DayField label={says} hide loose {value} onday={onchange} {...attributes} />
{:else if fact.kind === 'number'}
	<Quantity label={says} hide {value} decimals={fact.decimals} onquantity={onchange} {...attributes} />
{:else}
	<Text label={says} hide shown={value} onchange={(e) => onchange(e.currentTarget.value)} {...attributes} />
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
