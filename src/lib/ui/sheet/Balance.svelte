<script lang="ts">
	// What becomes of each lot that is repacked: what goes in, the packs that hold it, what is lost, what is in nothing yet.
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { add, isZero, mul, show, total } from '$lib/core/quantity/quantity';
	import type { RepackLot, RepackPart, SheetLine } from '$lib/core/sheet/sheet';
	import Choose from '../fields/Choose.svelte';
	import Quantity from '../fields/Quantity.svelte';
	import Text from '../fields/Text.svelte';
	import Tag from '../tag/Tag.svelte';
	import type { Sheet } from './sheet.svelte';
	interface Props {
		sheet: Sheet;
		repack: RepackPart;
		/** the line of what goes in */
		input: SheetLine;
		readonly: boolean;
	}
	let { sheet, repack, input, readonly }: Props = $props();
	const lineOf = (no: number) => sheet.state.lines.find((l) => l.no === no)!;
	const out = (list: RepackLot['packs']) => list.map((p) => `${show(p.qty)} × ${lineOf(p.line).itemName}`);
	const sum = (read: (l: RepackLot) => string) => show(total(repack.lots.map(read)));
	const inPacks = (l: RepackLot) =>
		total(l.packs.map((p) => mul(p.qty, repack.each.find((e) => e.line === p.line)!.holds)));
	function lose(l: RepackLot, qty: string) {
		const typed = qty.slice(0, 40);
		if (!typed || /^0+$/.test(typed)) return l.loss ? sheet.remove([l.loss.id]) : undefined;
		const { id, version } = l.loss ?? {};
		return sheet.put([{ lineId: input.id, data: { lossOf: l.mark, loss: typed }, ...(id ? { id, version } : {}) }]);
	}
	function mix(kind: string) {
		const { id, version } = repack.mixing;
		if (kind === repack.mixing.kind) return;
		return sheet.put([{ lineId: input.id, data: { mixing: kind }, ...(id ? { id, version } : {}) }]);
	}
	function name(m: RepackPart['mixed'][number], lot: string) {
		const lineId = lineOf(m.line).id;
		if (!lot.trim()) return m.id ? sheet.remove([m.id]) : undefined;
		return sheet.put([{ lineId, data: { lot: lot.trim() }, ...(m.id ? { id: m.id, version: m.version } : {}) }]);
	}
</script>

<section class="panel" aria-labelledby="balance">
	<div class="top">
		<h2 id="balance">Balance, in {repack.unit}</h2>
		{#if repack.lots.length > 1}
			<Choose
				label="Packs that no single lot can fill"
				options={[
					['apart', 'stop: lots stay apart'],
					['rest', 'mix, under a new number'],
					['all', 'all packs mix, under a new number']
				]}
				value={repack.mixing.kind}
				disabled={readonly}
				onpick={mix}
			/>
		{/if}
	</div>
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Lot</TableHeader><TableHeader class="num">Goes in</TableHeader><TableHeader>Comes out</TableHeader
				><TableHeader class="num">in packs</TableHeader><TableHeader class="num">Lost</TableHeader><TableHeader
					class="num">Still to place</TableHeader
				></TableRow
			></TableHead
		>
		<TableBody>
			{#each repack.lots as l (l.mark)}
				<TableRow>
					<TableCell
						><Tag
							kind={l.kind}
							number={l.kind === 'unmarked' ? '' : l.number}
							id={l.mark}
							expiresOn={l.expiresOn}
						/></TableCell
					>
					<TableCell class="num">{show(l.in)}</TableCell>
					<TableCell
						>{out(l.packs).join(', ')}{#if !isZero(l.mixed)}<span class="soft"
								>{l.packs.length ? ', and ' : ''}{show(l.mixed)} {repack.unit} with other lots</span
							>{/if}</TableCell
					>
					<TableCell class="num">{show(add(inPacks(l), l.mixed))}</TableCell>
					<TableCell class="num lost"
						>{#if readonly}{show(l.lost)}{:else}<Quantity
								label="Lost of {l.number}"
								hide
								ch={7}
								value={l.loss?.qty ?? ''}
								placeholder="0"
								onquantity={(q: string) => lose(l, q)}
							/>{/if}</TableCell
					>
					<TableCell class="num"
						><span class:open={!isZero(l.left)}>{show(l.left)}</span>{#if !isZero(l.left) && !readonly}
							<Button kind="ghost" size="small" class="link" on:click={() => lose(l, add(l.lost, l.left))}
								>Write as lost<span class="visually-hidden">: what is left of {l.number}</span></Button
							>{/if}</TableCell
					>
				</TableRow>
			{:else}
				<TableRow><TableCell colspan={6} class="soft">Nothing goes in yet. Scan or choose a lot.</TableCell></TableRow>
			{/each}
			{#if repack.lots.length > 1}
				<TableRow class="sum"
					><TableCell>Together</TableCell><TableCell class="num">{sum((l) => l.in)}</TableCell><TableCell /><TableCell
						class="num">{sum((l) => add(inPacks(l), l.mixed))}</TableCell
					><TableCell class="num">{sum((l) => l.lost)}</TableCell><TableCell class="num">{sum((l) => l.left)}</TableCell
					></TableRow
				>
			{/if}
		</TableBody>
	</Table>
	{#each repack.mixed as m (m.line)}
		{@const line = lineOf(m.line)}
		<div class="mixed">
			<span>{show(m.qty)} × {line.itemName} hold more than one lot:</span>
			<Text
				label="New lot number of {line.itemName}"
				hide
				mono
				ch={18}
				value={m.lot}
				placeholder="new lot number"
				disabled={readonly}
				maxlength="60"
				onchange={(e: Event & { currentTarget: HTMLInputElement }) => name(m, e.currentTarget.value)}
			/>
			{#if line.lotPattern && !m.lot && !readonly}<Button
					kind="ghost"
					size="small"
					class="link"
					on:click={() => sheet.draw(line.id, 1)}>Draw it</Button
				>{/if}
		</div>
	{/each}
</section>

<style>
	.top {
		display: flex;
		justify-content: space-between;
		align-items: center;
		gap: 0.5rem 2rem;
		flex-wrap: wrap;
		padding: 0.5rem 0.75rem;
	}
	h2 {
		margin: 0;
		font-size: 1rem;
	}
	section :global(td.lost > *) {
		margin-left: auto;
	}
	.open {
		margin-right: 0.5rem;
		color: var(--red);
		font-weight: 600;
	}
	.mixed {
		display: flex;
		gap: 0.5rem;
		align-items: center;
		padding: 0.5rem 0.75rem;
	}
	section :global(tr.sum td) {
		font-weight: 600;
	}
</style>
