<script lang="ts">
	// A correction of what is recorded of a lot or serial: what is wrong, what is right, why; and all that it touches.
	import { untrack } from 'svelte';
	import { Button, Checkbox } from 'carbon-components-svelte';
	import { grouped } from '$lib/core/quantity/sign';
	import FactField from '$lib/ui/facts/FactField.svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import DayField from '$lib/ui/fields/DayField.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Seek from '$lib/ui/fields/Seek.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';

	let { data, form } = $props();
	const m = $derived(data.mark);
	let field = $state(untrack(() => data.field));
	let value = $state('');
	let also = $state<string[]>([]);
	let expiryToo = $state(true);
	let touches = $state(untrack(() => data.touches!));
	const key = crypto.randomUUID();
	const what = $derived(data.fields.find((f) => f.name === field)!);
	const fact = $derived(data.defined.find((f) => f.code === field));

	let asked = 0;
	let waiting: ReturnType<typeof setTimeout> | undefined;
	/** Asks what it touches, shortly after the last key; an answer that is overtaken is not shown. */
	function look(soon = 250) {
		clearTimeout(waiting);
		const mine = ++asked;
		waiting = setTimeout(async () => {
			const answer = await fetch(`/register/${m.id}/correct/touches?${new URLSearchParams({ field, value })}`).catch(
				() => null
			);
			if (!answer?.ok || mine !== asked) return;
			touches = await answer.json();
			also = also.filter((id) => touches.along.some((a) => a.id === id));
		}, soon);
	}
	function choose(name: string) {
		field = name;
		value = '';
		also = [];
		look(0);
	}
	function set(typed: string) {
		value = typed;
		look();
	}
	const alone = $derived(
		!touches.where.length &&
			!touches.promised.length &&
			!touches.shipped.length &&
			!touches.labels &&
			!touches.papers.length
	);
</script>

<svelte:head><title>Correct {m.number} · Register · Earmark</title></svelte:head>
<div class="head">
	<h1>Correct <Tag kind={m.kind} number={m.number} id={m.id} status={m.status} expiresOn={m.expiresOn} /></h1>
	<span class="soft">{m.itemName}</span>
</div>
<div class="two">
	<section class="panel">
		<KeptForm {form}>
			<Hidden name="key" value={key} />
			<Hidden name="field" value={field} />
			<Hidden name="value" {value} />
			<Hidden name="into" value={touches.into ?? ''} />
			<Hidden name="also" value={JSON.stringify(also)} />
			<div class="rows">
				<Choose
					label="What is wrong"
					value={field}
					options={data.fields.map((f) => [f.name, f.label] as const)}
					onpick={choose}
				/>
				<p>
					<span class="soft">Recorded now</span><br /><b class:mono={what.reads === 'number' || what.reads === 'text'}
						>{what.shown ?? 'nothing'}</b
					>
				</p>
				{#key field}
					{#if fact}
						<div class="field">
							<span aria-hidden="true">As it should be{fact.unit ? `, ${fact.unit}` : ''}</span>
							<FactField {fact} {value} says="{fact.name}, as it should be" onchange={set} />
						</div>
					{:else if what.reads === 'partner'}
						<Seek
							label="As it should be; empty where it is ours"
							words
							first
							ch={28}
							options={data.partners}
							bind:value={() => value, (v) => set(v ?? '')}
						/>
					{:else if what.reads === 'day'}
						<DayField label="As it should be" bind:value loose onday={set} data-first />
					{:else}
						<Text
							label="As it should be"
							mono
							ch={28}
							{value}
							maxlength="200"
							data-first
							oninput={(e) => set(e.currentTarget.value)}
						/>
					{/if}
				{/key}
				{#each touches.faults as fault (fault)}<p class="fault" role="status">{fault}</p>{/each}
				{#if touches.expiry}
					<Checkbox
						name="expiryToo"
						bind:checked={expiryToo}
						labelText="Its expiry was worked out from this date: {touches.expiry.from} becomes {touches.expiry.to}"
					/>
				{/if}
				{#if touches.along.length}
					<fieldset>
						<legend
							>{grouped(touches.along.length)}
							{touches.along.length === 1 ? 'number has its' : 'numbers have their'} date from it. Correct too:</legend
						>
						<Checkbox
							labelText="All of them"
							checked={also.length === touches.along.length}
							indeterminate={also.length > 0 && also.length < touches.along.length}
							on:check={(e) => (also = e.detail ? touches.along.map((a) => a.id) : [])}
						/>
						<div class="along">
							{#each touches.along.slice(0, 50) as a (a.id)}
								<Checkbox
									labelText="{a.number}, {a.itemName}, {a.belongs ? 'belongs to it' : 'made from it'}"
									checked={also.includes(a.id)}
									on:check={(e) => (also = e.detail ? [...new Set([...also, a.id])] : also.filter((x) => x !== a.id))}
								/>
							{/each}
						</div>
						{#if touches.along.length > 50}<span class="soft"
								>and {grouped(touches.along.length - 50)} more, with “All of them”</span
							>{/if}
					</fieldset>
				{/if}
				<Text label="Why, in one line; it is kept in the ledger" name="reason" required maxlength="1000" />
				<div class="verbs">
					<Button size="small" type="submit">Correct</Button>
					<a href="/register/{m.id}">Leave it as it is</a>
				</div>
			</div>
		</KeptForm>
	</section>
	<section class="panel" aria-label="What it touches" aria-live="polite">
		<h2>What it touches</h2>
		<dl class="details" style="--term:7rem">
			{#if touches.where.length}<dt>Where it is</dt>
				<dd>
					{#each touches.where as w (w)}<div>{w}</div>{/each}
				</dd>{/if}
			{#if touches.promised.length}<dt>Promised</dt>
				<dd>
					{#each touches.promised as p (p.code)}<div>
							{#if p.path}<a class="mono" href={p.path}>{p.code}</a>{:else}{p.code}{/if}
							{p.what}
						</div>{/each}
				</dd>{/if}
			{#if touches.shipped.length}<dt>Went out</dt>
				<dd>
					{#each touches.shipped as s, i (i)}<div>
							{#if s.path}<a class="mono" href={s.path}>{s.document}</a>{:else}<span class="mono">{s.document}</span
								>{/if}
							{s.what}
						</div>{/each}
				</dd>{/if}
			{#if touches.labels}<dt>Labels</dt>
				<dd>{touches.labels}</dd>{/if}
			{#if touches.papers.length}<dt>Papers</dt>
				<dd>
					{#each touches.papers as p (p.id)}<div>
							<a href="/papers/{p.id}" target="_blank" rel="noopener">{p.what}</a>
						</div>{/each}
				</dd>{/if}
			{#if touches.follows.length}<dt>Follows</dt>
				<dd>
					{#each touches.follows as f (f)}<div>{f}</div>{/each}
				</dd>{/if}
		</dl>
		{#if alone}<p class="soft none">It lies nowhere, is promised to nobody, and nothing printed carries it.</p>{/if}
	</section>
</div>

<style>
	h1 {
		display: flex;
		align-items: center;
		gap: 0.6rem;
	}
	.two {
		display: grid;
		grid-template-columns: minmax(22rem, 1fr) 1fr;
		gap: 0.75rem;
		align-items: start;
	}
	.two > section {
		padding: 0.75rem;
	}
	.rows {
		display: grid;
		gap: 0.75rem;
		justify-items: start;
	}
	.rows > :global(.text.wide) {
		width: 100%;
	}
	.rows p {
		margin: 0;
	}
	fieldset {
		border: 0;
		padding: 0;
		margin: 0;
	}
	.along {
		padding-left: 1.25rem;
		max-height: 14rem;
		overflow-y: auto;
	}
	.fault {
		color: var(--red);
	}
	.verbs {
		display: flex;
		align-items: center;
		gap: 1rem;
	}
	.none {
		margin: 0.5rem 0 0;
	}
	@media (max-width: 640px) {
		.two {
			grid-template-columns: 1fr;
		}
	}
</style>
