<script lang="ts">
	// How long: a number and its unit, kept as an ISO 8601 duration.
	import Choose from './Choose.svelte';
	import Hidden from './Hidden.svelte';
	import Text from './Text.svelte';
	let { label, name, value = '' }: { label: string; name: string; value?: string | null } = $props();
	const UNITS = [
		['D', 'days'],
		['W', 'weeks'],
		['M', 'months'],
		['Y', 'years']
	] as const;
	/** One number and one unit; years with months are months. */
	function parts(duration: string): [number: string, unit: string] {
		const one = /^P(\d+)([DWMY])$/.exec(duration);
		if (one) return [one[1], one[2]];
		const both = /^P(\d+)Y(\d+)M$/.exec(duration);
		return both ? [String(Number(both[1]) * 12 + Number(both[2])), 'M'] : [duration, 'M'];
	}
	// svelte-ignore state_referenced_locally
	const [n, u] = parts(value ?? '');
	let number = $state(n);
	let unit = $state(u);
	const typed = $derived(number.trim());
</script>

<div class="duration" role="group" aria-label={label}>
	<span class="bx--label" aria-hidden="true">{label}</span>
	<Text {label} hide ch={4} num bind:value={number} inputmode="numeric" maxlength="20" />
	<Choose label="{label}: unit" hide options={UNITS} bind:value={unit} />
	<Hidden {name} value={typed && /^\d+$/.test(typed) ? `P${typed}${unit}` : typed} />
</div>

<style>
	.bx--label {
		grid-column: 1 / -1;
	}
	.duration {
		display: grid;
		grid-template-columns: auto auto;
		justify-content: start;
	}
</style>
