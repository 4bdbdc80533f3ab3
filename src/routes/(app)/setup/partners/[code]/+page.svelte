<script lang="ts">
	import { Button, Checkbox } from 'carbon-components-svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	let { data, form } = $props();
	const p = $derived(data.partner);
</script>

<KeptForm {form}>
	<div class="head">
		<h2 class="mono">{p.code}</h2>
		<span class="soft"><a href="/setup/partners">All partners</a></span>
	</div>
	<div class="panel fields">
		<Text label="Name" ch={30} name="name" value={p.name} required maxlength="1000" />
		<Choose label="Kind" name="kind" options={['supplier', 'customer', 'both']} value={p.kind} />
		<Text
			label="Days left at shipment, at least"
			name="minimumDaysLeft"
			value={p.minimumDaysLeft === null ? '' : String(p.minimumDaysLeft)}
			placeholder="as the item asks"
			inputmode="numeric"
			ch={14}
			maxlength="6"
		/>
		<div class="checks">
			<Checkbox
				labelText="Nothing older than what it got last, by expiry"
				name="neverOlder"
				value="yes"
				checked={p.neverOlder}
			/>
			<Choose
				label="What came back from a customer"
				name="newOnly"
				options={[
					['', 'as the firm does'],
					['no', 'goes last'],
					['yes', 'never goes to it']
				]}
				value={p.newOnly === null || p.newOnly === undefined ? '' : p.newOnly ? 'yes' : 'no'}
			/>
			<Checkbox labelText="As few lots as the quantity allows" name="oneLot" value="yes" checked={p.oneLot} />
		</div>
		<Button size="small" type="submit">Save</Button>
	</div>
	<p class="soft">What does not fit is not suggested when something is shipped to it, and the sheet says why.</p>
</KeptForm>
<History changes={data.history} />

<style>
	.fields {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.checks {
		align-self: center;
	}
</style>
