<script lang="ts">
	import { showWhen } from '$lib/ui/dates';
	import { eventNoun } from '$lib/core/ledger/events';
	import { documentKind, DOCUMENT_NAMES } from '$lib/core/document/kinds';
	import { grouped } from '$lib/core/quantity/sign';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import Text from '../fields/Text.svelte';
	import Question from '../shell/Question.svelte';
	import Sign from './Sign.svelte';
	// What was booked on this order, with undo for whoever may.
	import type { Sheet } from './sheet.svelte';
	let {
		sheet,
		may = false,
		mayUndo,
		papers = '',
		paper = 'Packing list (PDF)',
		labels = false
	}: { sheet: Sheet; may?: boolean; mayUndo: boolean; papers?: string; paper?: string; labels?: boolean } = $props();
	const sold = $derived(documentKind(sheet.state.kind).sells);
	/** the event that is signed for just now */
	let signing = $state<string | null>(null);
	const signedFor = (e: string) => sheet.state.sale?.signed.find((x) => x.event === e);
	let asking = $state<Sheet['state']['events'][number] | null>(null);
	let reason = $state('');
	const did = (e: Sheet['state']['events'][number]) => {
		if (e.kind === 'use' && e.brings) return 'given back';
		if (e.kind === 'transfer') return e.arrives ? 'arrived' : 'left';
		if (e.kind === 'shipment' && e.brings) return 'swapped';
		if (e.kind === 'move') return e.waits ? 'picked' : 'put back';
		return e.kind;
	};
</script>

{#if sheet.state.events.length}
	<section>
		<h2>Booked on {sheet.state.code}</h2>
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>When</TableHeader><TableHeader>What</TableHeader><TableHeader>By</TableHeader><TableHeader
						class="num">Movements</TableHeader
					><TableHeader><span class="visually-hidden">What can be done</span></TableHeader></TableRow
				></TableHead
			>
			<TableBody>
				{#each sheet.state.events as e (e.id)}
					<TableRow class={e.undone || e.kind === 'undo' ? 'undone' : ''}>
						<TableCell data-label="When">{showWhen(e.at)}</TableCell>
						<TableCell data-label="What">{did(e)}{e.undone ? ', undone' : ''}</TableCell>
						<TableCell data-label="By">{e.by}</TableCell>
						<TableCell class="num" data-label="Movements">{grouped(e.movements)}</TableCell>
						<TableCell class="num"
							><div class="acts">
								{#if papers && !['undo', 'move'].includes(e.kind) && !e.undone && !e.arrives}<a
										href="{papers}?event={e.id}">{paper}</a
									>{#if sold}<a href="{papers}?event={e.id}&paper=delivery+note">Delivery note (PDF)</a
										>{#if signedFor(e.id)}<span class="soft">signed by {signedFor(e.id)!.signer}</span
											>{:else if may}<Button kind="ghost" size="small" class="link" on:click={() => (signing = e.id)}
												>Sign for it…<span class="visually-hidden"> what was booked {showWhen(e.at)}</span></Button
											>{/if}{/if}{#each e.papers.slice(0, -1) as p (p.id)}<a href="/papers/{p.id}"
											>As printed {showWhen(p.at)}</a
										>{/each}{/if}
								{#if labels && !e.undone && e.brings}<form method="POST" action="/devices?/print">
										<Button kind="ghost" size="small" class="link" type="submit" name="event" value={e.id}
											>Print labels<span class="visually-hidden"> of what was booked {showWhen(e.at)}</span></Button
										>
									</form>{/if}
								{#each DOCUMENT_NAMES.map(documentKind).filter((k) => k.after?.event === e.kind && !e.undone) as k (k.path)}<a
										href="{k.path}/new?event={e.id}"
										>{k.after!.act}<span class="visually-hidden"> what was booked {showWhen(e.at)}</span></a
									>{/each}
								{#if mayUndo && !e.undone && e.kind !== 'undo'}
									<Button kind="ghost" size="small" class="link" on:click={() => (asking = e)}
										>Undo<span class="visually-hidden"> {eventNoun(e.kind)}, {showWhen(e.at)}</span></Button
									>
								{/if}
							</div></TableCell
						>
					</TableRow>
				{/each}
			</TableBody>
		</Table>
	</section>
{/if}
{#if signing}<Sign {sheet} event={signing} onleave={() => (signing = null)} />{/if}
{#if asking}
	{@const { id, kind, at } = asking}
	<Question
		title="Undo: {eventNoun(kind)}, {showWhen(at)}"
		verb="Undo it"
		disabled={!reason.trim()}
		ondo={async () => {
			// Refused, the reason stays for the next try.
			if (await sheet.undo(id, reason.trim())) reason = '';
		}}
		onleave={() => (asking = null)}
	>
		<Text label="Why it is undone" bind:value={reason} maxlength="1000" />
	</Question>
{/if}

<style>
	.acts {
		display: flex;
		flex-wrap: wrap;
		justify-content: flex-end;
		align-items: center;
		gap: 0.5rem 1.25rem;
	}
	.acts a {
		line-height: 24px;
	}
	section {
		margin-top: 1.5rem;
	}
</style>
