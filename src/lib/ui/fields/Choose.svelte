<script lang="ts">
	// One of several: Carbon's select, with what there is to choose from as a list.
	import { Select } from 'carbon-components-svelte';
	interface Props {
		label: string;
		/** values, or values with their words */
		options: readonly (string | readonly [value: string, words: string])[];
		value?: string | null;
		hide?: boolean;
		/** as wide as its longest word unless it is given */
		ch?: number;
		onpick?: (value: string) => unknown;
		[attribute: string]: unknown;
	}
	let { label, options, value = $bindable(''), hide = false, ch, onpick, ...rest }: Props = $props();
	const list = $derived(options.map((o) => (typeof o === 'string' ? ([o, o] as const) : o)));
	const chosen = $derived(value ?? list[0]?.[0] ?? '');
	function pick(e: Event) {
		value = (e.target as HTMLSelectElement).value;
		onpick?.(value);
	}
</script>

<div class="choose" style={ch ? `width:${ch + 5}ch` : undefined}>
	<Select size="sm" labelText={label} hideLabel={hide} selected={chosen} on:change={pick} {...rest}>
		<!-- Plain options: Carbon's own copy all others as each is made, and there may be hundreds. -->
		{#each list as [v, words] (v)}<option class="bx--select-option" value={v} selected={v === chosen}>{words}</option
			>{/each}
	</Select>
</div>

<style>
	.choose {
		max-width: 100%;
	}
</style>
