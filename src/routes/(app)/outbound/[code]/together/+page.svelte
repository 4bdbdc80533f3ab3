<script lang="ts">
	// Several orders of one customer that go as one shipment: what goes of each, what is missing, and one press for all.
	import { goto } from '$app/navigation';
	import { enhance } from '$app/forms';
	import { Button, Checkbox } from 'carbon-components-svelte';
	import { amount, show } from '$lib/core/quantity/quantity';
	import { unitWord } from '$lib/core/quantity/units';
	import { notLookedAt } from '$lib/core/sheet/entered';
	import { walkOf } from '$lib/core/sheet/walk';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Foot from '$lib/ui/shell/Foot.svelte';
	import Question from '$lib/ui/shell/Question.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data, form } = $props();
	let reason = $state('');
	// A key for each press that is answered: sent twice, it is booked once.
	const key = $derived((void form, crypto.randomUUID()));
	const path = $derived(`/outbound/${encodeURIComponent(data.code)}`);
	const missing = $derived(data.sheets.flatMap((s) => s.missing.map((m) => ({ ...m, code: s.code }))));
	const asks = $derived(missing.some((m) => m.level === 'reason'));
	const stuck = $derived(data.sheets.filter((s) => !s.ready).map((s) => s.code));
	/** what nobody has looked at, by its order */
	const suggested = $derived(
		data.sheets.flatMap((s) => notLookedAt(s.kind, s.lines).map((n) => ({ ...n, code: s.code })))
	);
	let asking = $state(false);
	let sending = $state<HTMLFormElement>();
	const ready = $derived(data.chosen.length > 0 && !stuck.length && (!asks || reason.trim() !== ''));
	function choose(code: string, on: boolean) {
		const now = data.others.filter((o) => (o === code ? on : data.chosen.includes(o)));
		const query = ['chosen', ...now.map((o) => `and=${encodeURIComponent(o)}`)].join('&');
		return goto(`${path}/together?${query}`, { replaceState: true, keepFocus: true, noScroll: true });
	}
</script>

<svelte:head><title>{data.code} and others · Outbound · Earmark</title></svelte:head>
<div class="head">
	<h1>Ship together</h1>
	<span class="soft">{data.partnerName}{data.place ? ` · from ${data.place}` : ''}</span>
	<a class="push" href={path}>Only {data.code}</a>
</div>
<Said {form} />
{#if data.others.length}<fieldset>
		<legend>With {data.code}</legend>
		{#each data.others as code (code)}<Checkbox
				labelText={code}
				checked={data.chosen.includes(code)}
				disabled={data.chosen.length >= data.most && !data.chosen.includes(code)}
				on:check={(e) => {
					if (e.detail !== data.chosen.includes(code)) void choose(code, e.detail);
				}}
			/>{/each}
		{#if data.others.length > data.most}<p class="soft">At most {data.most + 1} orders go together.</p>{/if}
	</fieldset>{:else}<p class="soft">No other order of this customer is open here.</p>{/if}
{#each data.sheets as s (s.code)}
	<section class="panel" aria-label={s.code}>
		<h2>
			<a class="mono" href="/outbound/{encodeURIComponent(s.code)}">{s.code}</a>
			{#if !s.ready}<span class="stop">nothing of it can go</span>{/if}
		</h2>
		{#each s.lines as l (l.id)}
			<div class="line">
				<span>{l.no} <b>{l.itemName}</b> <span class="soft">{show(l.entered)} of {amount(l.open, l.unit)}</span></span>
				<span class="tags">
					{#each walkOf([l]) as x (x.place + x.first + x.state)}<span
							>{#if x.kind === 'unmarked'}<span class="soft">no number</span>{:else}<Tag
									kind={x.kind}
									number={x.first}
									last={x.last}
									count={x.kind === 'serial' ? x.count : 1}
									item={l.itemName}
									place={x.place}
								/>{/if}
							<span class="soft"
								>{x.kind === 'serial' ? '' : `${show(x.qty)} `}from <span class="mono">{x.place}</span></span
							></span
						>{:else}<span class="soft">{l.open === '0' ? 'all of it has gone' : 'nothing of it is here'}</span>{/each}
				</span>
			</div>
		{/each}
	</section>
{/each}
<form
	method="POST"
	bind:this={sending}
	use:enhance={() =>
		({ update }) =>
			update({ reset: false })}
>
	<Hidden name="key" value={key} />
	<Hidden name="orders" value={JSON.stringify(data.sheets.map(({ code, stamp }) => ({ code, stamp })))} />
	<Foot>
		{#if stuck.length}<span class="stop"
				>Nothing of {stuck.join(', ')} can go. Take it out, or look at its sheet for what is missing.</span
			>
		{:else if !missing.length}<span class="good">Nothing is missing.</span>{/if}
		{#each missing.slice(0, 6) as m, i (i)}<a class="word {m.level}" href="/outbound/{encodeURIComponent(m.code)}"
				>{m.code}, line {m.line}: {m.message.replace(/\.$/, '')}</a
			>{/each}
		{#if missing.length > 6}<span class="soft">and {missing.length - 6} more</span>{/if}
		{#snippet act()}{#if data.may}
				{#if asks}<Text
						label="Reason, kept in the ledger"
						hide
						name="reason"
						bind:value={reason}
						maxlength="1000"
						placeholder="Reason"
					/>{/if}
				<Button
					type={suggested.length ? 'button' : 'submit'}
					size="small"
					disabled={!ready}
					on:click={() => (asking = suggested.length > 0)}
					>Ship {data.sheets.length > 1 ? `${data.sheets.length} orders` : 'together'}{suggested.length
						? ' as suggested…'
						: ''}</Button
				>
			{/if}{/snippet}
	</Foot>
</form>
{#if asking}
	<Question
		title="Ship together as suggested"
		verb="Ship all of it"
		ondo={async () => sending?.requestSubmit()}
		onleave={() => (asking = false)}
	>
		<p>Nobody has looked at these. They go as they are suggested:</p>
		<ul>
			{#each suggested as { line, qty, code } (line.id)}
				<li>{code}, line {line.no}, {line.itemName}: <b>{show(qty)} of {show(line.open)} {unitWord(line.unit)}</b></li>
			{/each}
		</ul>
	</Question>
{/if}

<style>
	fieldset {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 2rem;
		align-items: center;
		margin: 0 0 0.75rem;
		padding: 0;
		border: 0;
	}
	legend {
		float: left;
		margin-right: 1rem;
	}
	section {
		margin-bottom: 0.75rem;
		padding: 0.5rem 0.75rem;
	}
	h2 {
		margin: 0 0 0.25rem;
	}
	.line {
		display: grid;
		grid-template-columns: minmax(14rem, 1fr) 2fr;
		gap: 0.25rem 1rem;
		padding: 0.35rem 0;
		border-top: 1px solid var(--rule);
	}
	.tags {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1rem;
	}
	.stop {
		color: var(--red);
	}
	@media (max-width: 640px) {
		.line {
			grid-template-columns: 1fr;
		}
	}
</style>
