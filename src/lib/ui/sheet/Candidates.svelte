<script lang="ts" module>
	export interface Candidate {
		mark: string;
		kind: 'lot' | 'serial' | 'unmarked';
		number: string;
		place: string;
		qty: string;
		free: string;
		/** who holds what is not free */
		promisedTo?: string | null;
		expiresOn: string | null;
		status: string;
		/** why it may not be taken, in words */
		stopped: string | null;
		/** it came back from a customer: it is no new one */
		cameBack?: boolean;
		/** whose it is, where it is not ours */
		owner?: string | null;
	}
</script>

<script lang="ts">
	import { onMount } from 'svelte';
	import { belongsTo } from '$lib/core/allocation/allocate';
	import { readScan } from '$lib/core/codes/scan';
	import { showWhen } from '$lib/ui/dates';
	import { grouped } from '$lib/core/quantity/sign';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { placeName, virtualPlace } from '$lib/core/ledger/places';
	import Text from '../fields/Text.svelte';
	// What there is of an item, wherever it lies.
	import { show } from '$lib/core/quantity/quantity';
	import type { Mode, PickRow, SheetLine } from '$lib/core/sheet/sheet';
	import { sound, takeScans } from '../scan/scanner';
	import Tag from '../tag/Tag.svelte';

	interface Props {
		code: string;
		/** what is recorded now */
		mode: Mode;
		line: SheetLine;
		taken: PickRow[];
		/** the mark that another is to go in place of: it is not offered */
		except?: string;
		/** changes when the sheet does */
		stamp: string;
		ontake: (c: Candidate) => void;
		/** a scan takes what it names, as a press would */
		scans?: boolean;
	}
	let { code, mode, line, taken, except, stamp, ontake, scans = false }: Props = $props();
	let all = $state<Candidate[]>([]);
	let total = $state(0);
	let q = $state('');
	let said = $state('');

	async function read(search: string): Promise<{ stock: Candidate[]; total: number } | null> {
		const answer = await fetch(
			`/orders/${encodeURIComponent(code)}/stock?line=${line.id}&mode=${mode}&q=${encodeURIComponent(search)}`,
			{ headers: { accept: 'application/json' } }
		).catch(() => null);
		said = answer?.ok ? '' : 'The list could not be read. Try again.';
		return answer?.ok ? answer.json() : null;
	}
	$effect(() => {
		void stamp;
		const search = q.trim();
		const timer = setTimeout(async () => {
			const found = await read(search);
			if (found) ({ stock: all, total } = found);
		}, 120);
		return () => clearTimeout(timer);
	});
	async function takeScanned(text: string) {
		const scan = readScan(text, new Date().getFullYear());
		const number = 'problem' in scan ? text : (scan.serial ?? scan.lot ?? text.trim());
		const of = ((await read(number))?.stock ?? []).filter((c) => c.number === number);
		const free = of.find((c) => !c.stopped);
		sound(free ? 'good' : 'bad');
		if (free) return ontake(free);
		q = number.slice(0, 60);
		said = of.length
			? `${number} is ${of[0].stopped}. Take another.`
			: `${number} is no ${line.itemName} that lies here.`;
	}
	onMount(() =>
		scans
			? takeScans((text) => {
					void takeScanned(text);
					return true;
				})
			: undefined
	);
	const isTaken = (c: Candidate) => taken.some((p) => p.id && p.mark === c.mark && p.place === c.place);
</script>

<div class="list">
	<Text label="Find in {line.itemName}" mono ch={20} bind:value={q} placeholder="number or place" maxlength="60" />
	{#if said && all.length}<p role="alert">{said}</p>{/if}
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>There is</TableHeader><TableHeader>Place</TableHeader><TableHeader>Expires</TableHeader
				><TableHeader class="num">On hand</TableHeader><TableHeader class="num">Free</TableHeader><TableHeader
					><span class="visually-hidden">What can be done</span></TableHeader
				></TableRow
			></TableHead
		>
		<TableBody>
			{#each all.filter((c) => c.mark !== except) as c (c.mark + c.place)}
				<TableRow>
					<TableCell
						><Tag
							kind={c.kind}
							number={c.number}
							id={c.mark}
							item={line.itemName}
							status={c.status}
							expiresOn={c.expiresOn}
						/></TableCell
					>
					<TableCell class={virtualPlace(c.place) ? '' : 'mono'} data-label="Place">{placeName(c.place)}</TableCell>
					<TableCell data-label="Expires" data-none={!c.expiresOn || undefined}
						>{c.expiresOn ? showWhen(c.expiresOn) : '–'}</TableCell
					>
					<TableCell class="num" data-label="On hand">{show(c.qty)}</TableCell>
					<TableCell class="num" data-label="Free">{show(c.free)}</TableCell>
					<TableCell class="num">
						{#if c.owner}<span class="soft">{belongsTo(c.owner)}</span>{/if}
						{#if c.cameBack}<span class="soft">came back</span>{/if}
						{#if c.promisedTo}<span class="soft">{c.promisedTo}</span>{/if}
						{#if isTaken(c)}<span class="soft">taken</span>
						{:else if c.stopped}<span class="soft">{c.stopped}</span>
						{:else}<Button kind="ghost" size="small" class="link" on:click={() => ontake(c)}
								>Take<span class="visually-hidden"> {c.number}</span></Button
							>{/if}
					</TableCell>
				</TableRow>
			{:else}<TableRow
					><TableCell colspan={6} class="soft">{said || 'Nothing of it is on hand here.'}</TableCell></TableRow
				>{/each}
		</TableBody>
	</Table>
	{#if total > all.length}<p class="soft">
			{all.length} of {grouped(total)} shown. Type to narrow it down.
		</p>{/if}
</div>

<style>
	.list {
		margin: 0.25rem 0.75rem 0.75rem 2rem;
		border-left: 3px solid var(--amber);
		padding-left: 0.75rem;
	}
	p {
		margin: 0.3rem 0.75rem;
	}
</style>
