<script lang="ts">
	// One of many: found by a part of its code or its words, or typed or scanned as it is. Carbon's combo box; Enter takes
	// what is pointed at and sends nothing, and what is typed stays, whether it is in the list or not.
	import { ComboBox } from 'carbon-components-svelte';
	import Hidden from './Hidden.svelte';
	interface Props {
		label: string;
		/** codes with their words */
		options: readonly (readonly [code: string, words: string])[];
		/** the code; or what was typed, where it is none */
		value?: string | null;
		name?: string;
		hide?: boolean;
		/** the field shows the words of what was chosen instead of its code */
		words?: boolean;
		ch?: number;
		placeholder?: string;
	}
	let {
		label,
		options,
		value = $bindable(''),
		name,
		hide = false,
		words = false,
		ch = 16,
		placeholder = ''
	}: Props = $props();
	interface Item {
		id: string;
		text: string;
	}
	const items = $derived(options.map(([id, text]): Item => ({ id, text: words ? text : id })));
	const says = $derived(new Map(options));
	const shows = (item: Item) => item.text;
	const code = (typed: string) => {
		const t = typed.trim().toLowerCase();
		const of = options.find(([c, w]) => c.toLowerCase() === t || (words && w.toLowerCase() === t));
		return of ? of[0] : typed.trim();
	};
	const textOf = (v: string) => (words ? (says.get(v) ?? v) : v);
	// svelte-ignore state_referenced_locally
	let text = $state(textOf(value ?? ''));
	let selected = $state<string | undefined>();
	$effect(() => {
		value = code(text);
	});
	/** Its whole text is what stands there already: everything is offered, not only itself. */
	const fits = (item: Item, typed: string) => {
		const t = typed.trim().toLowerCase();
		return (
			!t ||
			t === item.text.toLowerCase() ||
			item.id.toLowerCase().includes(t) ||
			says.get(item.id)!.toLowerCase().includes(t)
		);
	};
</script>

<div class="seek" class:mono={!words} style="--ch:{ch}">
	<ComboBox
		size="sm"
		labelText={label}
		hideLabel={hide}
		{items}
		itemToString={shows}
		shouldFilterItem={fits}
		allowCustomValue
		portalMenu
		maxlength={200}
		spellcheck="false"
		{placeholder}
		bind:value={text}
		bind:selectedId={selected}
		on:select={(e) => {
			// What was chosen is text from then on, so that it can be typed over.
			text = shows(e.detail.selectedItem);
			selected = undefined;
		}}
		let:item
	>
		{#if words}{item.text}{:else}<span class="mono">{item.id}</span> <span class="soft">{says.get(item.id)}</span>{/if}
	</ComboBox>
</div>
{#if name}<Hidden {name} {value} />{/if}

<style>
	.seek {
		width: calc(var(--ch) * 1ch + 4rem);
		max-width: 100%;
	}
</style>
