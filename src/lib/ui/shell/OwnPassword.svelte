<script lang="ts">
	// A new password of one's own: the one of now, and the new one twice.
	import { Button, PasswordInput } from 'carbon-components-svelte';
	interface Props {
		/** how the password of now is called here */
		label: string;
		verb: string;
	}
	let { label, verb }: Props = $props();
	let [now, next, again] = $state(['', '', '']);
	const short = $derived(next.length > 0 && next.length < 10);
	const differs = $derived(again.length >= next.length && next.length > 0 && again !== next);
</script>

<PasswordInput
	tooltipAlignment="end"
	size="sm"
	labelText={label}
	name="now"
	bind:value={now}
	required
	maxlength={1000}
	autocomplete="current-password"
/>
<PasswordInput
	tooltipAlignment="end"
	size="sm"
	labelText="New password, 10 characters or more"
	name="next"
	bind:value={next}
	invalid={short && again.length > 0}
	invalidText="A password has at least 10 characters."
	required
	minlength={10}
	maxlength={200}
	autocomplete="new-password"
/>
<PasswordInput
	tooltipAlignment="end"
	size="sm"
	labelText="New password once more"
	name="again"
	bind:value={again}
	invalid={differs}
	invalidText="The two are not the same."
	required
	maxlength={200}
	autocomplete="new-password"
/>
<Button type="submit" size="small">{verb}</Button>
