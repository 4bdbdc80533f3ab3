<script lang="ts">
	// A field for text, a date or a quantity: Carbon's, as wide as what belongs in it.
	import { TextInput } from 'carbon-components-svelte';
	interface Props {
		label: string;
		value?: string | null;
		/** what it shows from outside: set when that changes, so that whatever is being typed meanwhile stays */
		shown?: string;
		/** what it shows comes back from what is typed here: it stays while the cursor is in it */
		echoes?: boolean;
		/** how many signs it is wide */
		ch?: number;
		/** the label is heard, not seen */
		hide?: boolean;
		mono?: boolean;
		num?: boolean;
		/** what is wrong with it */
		fault?: string;
		ref?: HTMLInputElement | null;
		class?: string;
		oninput?: (e: Event & { currentTarget: HTMLInputElement }) => unknown;
		onchange?: (e: Event & { currentTarget: HTMLInputElement }) => unknown;
		onkeydown?: (e: KeyboardEvent) => unknown;
		onpaste?: (e: ClipboardEvent) => unknown;
		[attribute: string]: unknown;
	}
	let {
		label,
		value = $bindable(''),
		shown,
		echoes = false,
		ch,
		hide = false,
		mono = false,
		num = false,
		fault = '',
		ref = $bindable(null),
		class: more = '',
		...rest
	}: Props = $props();
	$effect(() => {
		if (shown !== undefined && !(echoes && ref === document.activeElement)) value = shown;
	});
	// svelte-ignore state_referenced_locally
	if (shown !== undefined) value = shown;
	/** Wide enough for its label too: that is set smaller. */
	const wide = $derived(ch && (hide ? ch : Math.max(ch, Math.ceil((label.length * 6.3 - 32) / 8))));
	const looks = $derived([mono && 'mono', num && 'num', more].filter(Boolean).join(' '));
</script>

<div class="text" style={wide ? `--ch:${wide}` : undefined} class:wide={!ch}>
	<TextInput
		size="sm"
		labelText={label}
		hideLabel={hide}
		bind:value
		bind:ref
		invalid={fault !== ''}
		invalidText={fault}
		class={looks}
		autocomplete="off"
		spellcheck="false"
		{...rest}
	/>
</div>

<style>
	.text {
		width: calc(var(--ch) * 1ch + 2rem);
		max-width: 100%;
	}
	.text.wide {
		width: auto;
		flex: 1;
		min-width: 8rem;
	}
</style>
