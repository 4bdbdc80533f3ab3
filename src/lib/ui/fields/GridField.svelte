<script lang="ts">
	// A field in a grid: ours, for a sheet holds hundreds of them. It shows what is given when that changes, and only
	// then, so that whatever is being typed there meanwhile stays.
	import { typedNumber, written } from '$lib/core/quantity/sign';
	import { shown } from './shown';
	interface Props {
		/** its column and its row */
		label: string;
		value: string;
		/** how many signs it is wide */
		ch: number;
		mono?: boolean;
		num?: boolean;
		/** it is a number with so many decimals: shown by the firm’s sign, given as it is kept */
		decimals?: number;
		onchange: (value: string) => unknown;
		onkeydown?: (e: KeyboardEvent) => unknown;
		[attribute: string]: unknown;
	}
	let { label, value, ch, mono = false, num = false, decimals, onchange, ...rest }: Props = $props();
</script>

<input
	class="cell"
	class:mono
	class:num={num || decimals !== undefined}
	inputmode={decimals === undefined ? undefined : 'decimal'}
	aria-label={label}
	use:shown={decimals === undefined ? value : written(value)}
	size={ch}
	maxlength="200"
	autocomplete="off"
	spellcheck="false"
	onchange={(e) =>
		onchange(decimals === undefined ? e.currentTarget.value : typedNumber(e.currentTarget.value, decimals))}
	{...rest}
/>
