<script lang="ts">
	import { Button, TextArea } from 'carbon-components-svelte';
	import History from '$lib/ui/setup/History.svelte';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	let { data, form } = $props();
</script>

<KeptForm {form}>
	<p class="soft">
		What a customer signs at the sale, before a number is chosen or anything goes. It stands on the paper with the lines
		of the order, and is kept as it was signed.
	</p>
	<TextArea labelText="Terms of sale" name="terms" rows={12} maxlength={20000} value={data.terms} />
	<p class="save"><Button size="small" type="submit">Save the terms</Button></p>
</KeptForm>
<History changes={data.history} />

<style>
	.save {
		margin-top: 0.75rem;
	}
</style>
