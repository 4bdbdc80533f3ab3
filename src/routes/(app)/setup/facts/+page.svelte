<script lang="ts">
	import List from '$lib/ui/list/List.svelte';
	import FactForm from '$lib/ui/setup/FactForm.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const f = $derived(data.fact);
</script>

<Said {form} />
<!-- A field that was saved leaves an empty form behind; one that was not keeps what was typed. -->
{#key `${f?.code} ${form && 'said' in form ? form.said : ''}`}
	<FactForm fact={f} typed={form && 'typed' in form ? (form.typed as Record<string, string>) : null} />
{/key}
<List list={data.list} cells={['code', 'asked']} chosen={(x) => x.code === f?.code}>
	{#snippet cell(x, c)}
		{#if c.key === 'code'}<a href="/setup/facts?fact={encodeURIComponent(x.code ?? '')}">{x.code}</a>
		{:else}{x.asked === '0' ? 'no rule yet' : `${x.asked} ${x.asked === '1' ? 'rule' : 'rules'}`}{/if}
	{/snippet}
</List>
<History changes={data.history} />
