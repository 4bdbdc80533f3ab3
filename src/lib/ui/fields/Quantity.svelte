<script lang="ts">
	// A number as people type it, by the firm's decimal sign; what it holds and sends is written as it is kept.
	import { typedNumber, written } from '$lib/core/quantity/sign';
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
</script>

<Text
	{label}
	num
	inputmode="decimal"
	maxlength="40"
	shown={written(value ?? '')}
	echoes
	oninput={(e) => (value = typedNumber(e.currentTarget.value, decimals))}
	onchange={(e) => onquantity?.(typedNumber(e.currentTarget.value, decimals))}
	{...rest}
/>
{#if name}<Hidden {name} {value} />{/if}
