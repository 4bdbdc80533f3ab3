<script lang="ts">
	// A number as people type it, by the firm's decimal sign; what it holds and sends is written as it is kept.
	import { isPlain, typedNumber, unreadable, written } from '$lib/core/quantity/sign';
	import Hidden from './Hidden.svelte';
	import Text from './Text.svelte';
	interface Props {
		label: string;
		/** as it is kept, or what was typed and cannot be read */
		value?: string | null;
		name?: string;
		/** how many decimals it may have, where that is known */
		decimals?: number;
		/** when the field is left */
		onquantity?: (value: string) => unknown;
		[attribute: string]: unknown;
	}
	let { label, value = $bindable(''), name, decimals, onquantity, ...rest }: Props = $props();
	/** what is wrong with it, said when it is left */
	let fault = $state('');
	function leave(typed: string) {
		const read = typedNumber(typed, decimals);
		fault = read && !isPlain(read) ? unreadable(read, 'a number') : '';
		onquantity?.(read);
	}
</script>

<Text
	{label}
	num
	inputmode="decimal"
	maxlength="40"
	shown={written(value ?? '')}
	echoes
	{fault}
	oninput={(e) => {
		fault = '';
		value = typedNumber(e.currentTarget.value, decimals);
	}}
	onchange={(e) => leave(e.currentTarget.value)}
	{...rest}
/>
{#if name}<Hidden {name} {value} />{/if}
