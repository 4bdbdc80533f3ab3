<script lang="ts">
	// One of many: found by a part of its code or its words, or typed or scanned as it is. Carbon's combo box; Enter takes
	// what is pointed at and sends nothing, and what is typed stays, whether it is in the list or not.
	import { tick } from 'svelte';
	import { ComboBox } from 'carbon-components-svelte';
	import Hidden from './Hidden.svelte';
	interface Props {
		label: string;
		/** codes with their words */
		options: readonly (readonly [code: string, words: string])[];
		/** the code; or what was typed, where it is none. What it is at first is shown; from then on it is told, not asked. */
		value?: string | null;
		name?: string;
		hide?: boolean;
		/** the field shows the words of what was chosen instead of its code */
		words?: boolean;
		ch?: number;
		placeholder?: string;
		/** the cursor stands here when the page opens */
		first?: boolean;
	}
	let {
		label,
		options,
		value = $bindable(''),
		name,
		hide = false,
		words = false,
		ch = 16,
		placeholder = '',
		first = false
	}: Props = $props();
	interface Item {
		id: string;
		text: string;
	}
	const items = $derived(options.map(([id, text]): Item => ({ id, text: words ? text : id })));
	const says = $derived(new Map(options));
	const shows = (item: Item) => item.text;
	// svelte-ignore state_referenced_locally
	let text = $state((words && says.get(value ?? '')) || (value ?? ''));
	// svelte-ignore state_referenced_locally
	let picked: Item | null = value ? { id: value, text } : null;
	let selected = $state<string | undefined>();
	/** The code of what stands there; two that are called the same are told apart by choosing, not by typing. */
	function code(typed: string): string {
		if (picked?.text === typed) return picked.id;
		const t = typed.trim().toLowerCase();
		const of = options.filter(([c, w]) => c.toLowerCase() === t || (words && w.toLowerCase() === t));
		return of.length === 1 ? of[0][0] : typed.trim();
	}
	function take(typed: string) {
		text = typed;
		value = code(typed);
	}
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
		data-first={first || undefined}
		{placeholder}
		bind:value={() => text, take}
		bind:selectedId={selected}
		on:select={(e) => {
			picked = e.detail.selectedItem;
			take(shows(e.detail.selectedItem));
			// What was chosen is text from then on: a choice that the box kept for itself would come back over what is typed
			// later. The box takes that as a change of its own, after this one.
			void tick().then(() => (selected = undefined));
		}}
		let:item
	>
		{#if words}{item.text} <span class="soft">{item.id}</span>{:else}<span class="mono">{item.id}</span>
			<span class="soft">{says.get(item.id)}</span>{/if}
	</ComboBox>
</div>
{#if name}<Hidden {name} {value} />{/if}

<style>
	.seek {
		width: calc(var(--ch) * 1ch + 4rem);
		max-width: 100%;
	}
</style>
