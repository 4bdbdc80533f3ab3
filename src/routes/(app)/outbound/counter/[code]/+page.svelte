<script lang="ts">
	// A sale over the counter: every scan adds what it names, and one press hands all of it over.
	import { endedOn } from '$lib/core/sheet/ended';
	import { Button } from 'carbon-components-svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Seek from '$lib/ui/fields/Seek.svelte';
	import LinePicks from '$lib/ui/sheet/LinePicks.svelte';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data, { picks: true, online: true });
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
	// svelte-ignore state_referenced_locally
	let customer = $state(data.sheet.state.sale?.customer ?? '');
	$effect(() => {
		const known = !customer || data.customers.some((c) => c.code === customer);
		if (known && customer !== (s.sale?.customer ?? '')) void sheet.agree({ partner: customer });
	});
	const papers = $derived(`/orders/${encodeURIComponent(s.code)}/packing-list`);
	const handed = $derived(s.events.find((e) => e.kind === 'shipment' && !e.undone));
</script>

<svelte:head><title>{s.code} · Over the counter · Earmark</title></svelte:head>
<div class="head">
	<h1>Sale {s.code}</h1>
	<span class="soft"
		>counter at {s.place}{s.partnerName ? ` · ${s.partnerName}` : ''}{s.closedAt
			? ` · ${endedOn(s, 'handed over')}`
			: ''}</span
	>
	{#if data.may}<form class="push" method="POST" action="/outbound/counter?/next">
			<Hidden name="place" value={s.place ?? ''} />
			<Button type="submit" kind={s.closedAt ? 'primary' : 'ghost'} size="small">Next sale</Button>
		</form>{/if}
</div>
{#if s.note}<p class="soft">{s.note}</p>{/if}
{#if handed && s.closedAt}<p class="done">
		Handed over. <a href="{papers}?event={handed.id}&paper=delivery+note">Print the delivery note (PDF)</a>
	</p>{/if}
<SheetBody
	{sheet}
	{data}
	verb="Hand over"
	word={(line) => (line.open !== '0' ? 'here' : 'handed over')}
	foldsComplete
	{papers}
>
	{#snippet asks()}{#if s.lines.every((l) => l.done === '0')}
			<Seek
				label="Customer, where it is known"
				words
				ch={26}
				options={data.customers.map((c) => [c.code, c.name] as const)}
				bind:value={customer}
				placeholder="no customer"
			/>
		{/if}{/snippet}
	{#snippet body(line)}
		<LinePicks {sheet} {line} readonly={shut} promises={false} suggests={false} called="Scanned" />
	{/snippet}
</SheetBody>

<style>
	.done {
		margin: 0 0 0.75rem;
		font-weight: 600;
	}
</style>
