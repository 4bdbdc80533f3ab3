<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	import { CopyButton, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { showDay, showWhen } from '$lib/ui/dates';
	import { grouped } from '$lib/core/quantity/sign';
	let { data, form } = $props();
	const { head, days, qr } = $derived(data);
	const short = (root: string) => root.slice(0, 16);
</script>

<Said {form} />
<p class="soft lead">
	Everything that is booked or set up is one entry of a list that only grows. Its head stands for all of it: whoever
	keeps one outside the firm can prove later that nothing before it was changed or taken away.
</p>
<section class="panel head" aria-labelledby="now">
	<img src={qr} alt="QR code of the head: {head.size}:{head.root}" width="148" height="148" />
	<div>
		<h2 id="now">Head of the ledger</h2>
		<dl class="details" style="--term:5rem; margin:0.5rem 0">
			<dt>Entries</dt>
			<dd class="mono">{grouped(String(head.size))}</dd>
			<dt>Root</dt>
			<dd class="mono root">{head.root}</dd>
			<dt>Sealed</dt>
			<dd>{head.at ? showWhen(head.at) : 'nothing yet'}</dd>
		</dl>
		<p class="soft copy">
			To check it later: <code>./earmark verify --head {head.size}:{short(head.root)}</code>
			<CopyButton text="{head.size}:{head.root}" iconDescription="Copy the head" />
		</p>
	</div>
</section>
<h2>Witness</h2>
<p class="soft lead">
	An address outside the firm that is sent the head once a day, with the proof that nothing before the last one was
	changed: an auditor, a notary, a customer. What was sent stands under Devices.
</p>
{#if data.may}
	<div class="fields witness">
		<form
			class="fields"
			method="POST"
			action="?/witness"
			use:enhance={() =>
				({ update }) =>
					update({ reset: false })}
		>
			<Text label="Mail address of the witness" name="witness" ch={34} value={data.witness ?? ''} maxlength="254" />
			<Button kind="tertiary" size="small" type="submit">Save</Button>
		</form>
		{#if data.witness}<form method="POST" action="?/send" use:enhance>
				<Button kind="ghost" size="small" type="submit">Send the head now</Button>
			</form>{/if}
	</div>
{:else}<p>{data.witness ? `Sent to ${data.witness}.` : 'Nobody is named.'}</p>{/if}
<h2>At the end of each day</h2>
{#if days.length}
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Day</TableHeader><TableHeader>Last sealed</TableHeader><TableHeader>Entries</TableHeader
				><TableHeader>Root, its first 16 characters</TableHeader></TableRow
			></TableHead
		>
		<TableBody>
			{#each days as d (d.day)}<TableRow
					><TableCell data-label="Day">{showDay(d.day)}</TableCell><TableCell data-label="Last sealed">{d.at}</TableCell
					><TableCell data-label="Entries" class="mono">{grouped(String(d.size))}</TableCell><TableCell
						data-label="Root"
						class="mono">{short(d.root)}</TableCell
					></TableRow
				>{/each}
		</TableBody>
	</Table>
{:else}
	<p class="soft">Nothing was sealed in the last thirty days.</p>
{/if}

<style>
	.witness {
		align-items: flex-end;
		margin-bottom: 1.5rem;
	}
	.lead {
		max-width: 46rem;
		margin-bottom: 1rem;
	}
	.head {
		display: flex;
		flex-wrap: wrap;
		gap: 1.25rem;
		align-items: flex-start;
		margin-bottom: 1.5rem;
		padding: 0.875rem 1rem;
		border-left: 3px solid var(--amber);
	}
	.head > div {
		flex: 1 1 20rem;
		min-width: 0;
	}
	img {
		background: #fff;
		image-rendering: pixelated;
	}
	.root {
		overflow-wrap: anywhere;
	}
	.copy {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.25rem 0.75rem;
		margin: 0;
	}
	h2 {
		font-size: 1rem;
		margin: 0 0 0.5rem;
	}
</style>
