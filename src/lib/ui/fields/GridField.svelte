<script lang="ts">
	// A field in a grid: ours, for a sheet holds hundreds of them. It shows what is given when that changes, and only
	// then, so that whatever is being typed there meanwhile stays.
	import { shown } from './shown';
	interface Props {
		/** its column and its row */
		label: string;
		value: string;
		/** how many signs it is wide */
		ch: number;
		mono?: boolean;
		num?: boolean;
		onchange: (value: string) => unknown;
		onkeydown?: (e: KeyboardEvent) => unknown;
		[attribute: string]: unknown;
	}
	let { label, value, ch, mono = false, num = false, onchange, ...rest }: Props = $props();
</script>

<input
	class="cell"
	class:mono
	class:num
	aria-label={label}
	use:shown={value}
	size={ch}
	maxlength="200"
	autocomplete="off"
	spellcheck="false"
	onchange={(e) => onchange(e.currentTarget.value)}
	{...rest}
/>
