<script lang="ts">
	// Where new numbers of a line are entered, and the rows entered so far.
	import { tick } from 'svelte';
	import { parseFill, next as nextNumber } from '$lib/core/ranges/ranges';
	import { readScan } from '$lib/core/codes/scan';
	import { guess, mapRows, readCells, type TableRow } from '$lib/core/tables/table';
	import { readColumn } from '$lib/core/ranges/column';
	import { amount, rest } from '$lib/core/quantity/quantity';
	import type { SheetLine } from '$lib/core/sheet/sheet';
	import NumberTable from './NumberTable.svelte';
	import TablePreview from './TablePreview.svelte';
	import { Remembered, type Sheet } from './sheet.svelte';

	interface Props {
		sheet: Sheet;
		line: SheetLine;
		/** at output the shelf life gives the expiry, and there is no supplier */
		output?: boolean;
		first?: boolean;
		readonly?: boolean;
		/** takes a GS1 code */
		onscan?: (text: string, line: string) => unknown;
	}
	let { sheet, line, output = false, first = false, readonly = false, onscan }: Props = $props();
	const serials = $derived(line.tracking.includes('serial'));
	const lots = $derived(line.tracking.includes('lot'));
	const dated = $derived(line.expiry !== 'not asked');
	// svelte-ignore state_referenced_locally
	const name = `${sheet.state.code} ${line.id}`;
	const lot = new Remembered(name + ' lot');
	const fill = new Remembered(name + ' fill');
	const qty = new Remembered(name + ' qty');
	const expiry = new Remembered(name + ' expiry');
	const theirs = new Remembered(name + ' theirs');
	let group = $state<HTMLElement>()!;
	let said = $state('');

	const left = $derived(rest(line.open, line.entered));
	const hint = $derived.by(() => {
		if (!serials || !fill.text.trim()) return '';
		const f = parseFill(fill.text);
		if ('problem' in f) return f.problem;
		return f.count === 1
			? `Enter adds ${f.first}`
			: `Enter fills ${f.count.toLocaleString('en')}: ${f.first} … ${nextNumber(f.first, f.count - 1)}`;
	});

	const isCoded = (text: string) => {
		const read = text.trim().length > 15 ? readScan(text, new Date().getFullYear()) : null;
		return !!read && ('problem' in read || read.coded);
	};
	async function add() {
		const extra = {
			...(lots && lot.text.trim() ? { lot: lot.text.trim().slice(0, 200) } : {}),
			...(dated && expiry.text.trim() ? { expiresOn: expiry.text.trim().slice(0, 200) } : {}),
			...(theirs.text.trim() ? { supplierLot: theirs.text.trim().slice(0, 60) } : {})
		};
		// A GS1 code that came in as typing, or by paste, is still one.
		const code = serials ? fill : lot;
		if (isCoded(code.text)) {
			const text = code.text.trim();
			code.set('');
			return void (await onscan?.(text, line.id));
		}
		if (serials) {
			const f = parseFill(fill.text);
			if ('problem' in f) return void (said = f.problem);
			if (lots && !lot.text.trim()) return focus('lot', 'Type the lot first.');
			said = '';
			await sheet.put([{ lineId: line.id, data: { ...extra, serial: f.first, count: f.count } }]);
			fill.set('');
			focus('fill');
		} else {
			if (lots && !lot.text.trim()) return focus('lot', 'Type the lot number first.');
			said = '';
			await sheet.put([{ lineId: line.id, data: { ...extra, qty: (qty.text.trim() || left).slice(0, 200) } }]);
			lot.set('');
			qty.set('');
			expiry.set('');
			theirs.set('');
			focus(lots ? 'lot' : 'qty');
		}
	}
	/** The pattern that this line's numbers can be drawn from. */
	const pattern = $derived(serials ? line.serialPattern : line.lotPattern);
	const drawn = $derived(serials ? Math.min(Number(left), 10_000) : 1);
	async function draw() {
		if (serials && lots && !lot.text.trim() && !line.lotPattern) return focus('lot', 'Type the lot first.');
		said = '';
		const more = {
			...(lots && serials && lot.text.trim() ? { lot: lot.text.trim() } : {}),
			...(serials ? {} : { qty: qty.text.trim(), expiresOn: expiry.text.trim() })
		};
		// A bare count in the number field asks for so many.
		const asked = serials && /^\d{1,5}$/.test(fill.text.trim()) ? Number(fill.text.trim()) : 0;
		const count = asked || Math.max(drawn, 1);
		if (!(await sheet.draw(line.id, count, more))) return;
		fill.set('');
		qty.set('');
		expiry.set('');
		await focus(serials ? 'fill' : 'qty', `${count.toLocaleString('en')} drawn from ${pattern}.`);
	}
	/** Pieces whose serials are asked for and cannot be had: booked with the reason in the foot bar. */
	async function addBare() {
		const count = /^\d+$/.test(fill.text.trim()) ? fill.text.trim() : left;
		fill.set('');
		await sheet.put([
			{ lineId: line.id, data: { ...(lots && lot.text.trim() ? { lot: lot.text.trim() } : {}), qty: count } }
		]);
	}
	export function holdLot(number: string, expiresOn?: string) {
		lot.set(number);
		if (expiresOn) expiry.set(expiresOn);
	}
	async function focus(field: string, sentence = '') {
		said = sentence;
		await tick();
		// Whoever has gone on to another field in the meantime stays there.
		const at = document.activeElement;
		if (at && at !== document.body && !group?.contains(at)) return;
		group?.querySelector<HTMLInputElement>(`[data-field=${field}]`)?.focus();
	}
	function enter(e: KeyboardEvent) {
		if (e.key !== 'Enter' || e.ctrlKey) return;
		e.preventDefault();
		const fields = [...group?.querySelectorAll<HTMLInputElement>('input[data-field]')];
		const at = fields.indexOf(e.target as HTMLInputElement);
		const following = fields.slice(at + 1).find((f) => f.dataset.field !== 'theirs');
		if ((e.target as HTMLElement).dataset.field === 'theirs' || !following) add();
		else {
			following.focus();
			following.select();
		}
	}
	async function paste(e: ClipboardEvent) {
		const text = e.clipboardData?.getData('text') ?? '';
		if (!/[\n\t]/.test(text.trim())) return;
		e.preventDefault();
		const cells = readCells(text);
		const read = guess(cells[0] ?? [], line.tracking);
		if (read.headings || (cells[0]?.length ?? 0) > (lots && serials ? 2 : 1)) {
			const made = mapRows(cells, read.mapping, read.headings ? 1 : 0, line, lot.text.trim());
			// A table whose headings are all known and whose rows are all sound needs no look.
			if (made.faults.length || !read.headings || read.mapping.includes(null))
				return void (table = { name: 'what was pasted', cells });
			return void (await putTable(made.rows, made.numbers));
		}
		const { rows, numbers, blanks } = readColumn(text, line.tracking);
		const held = lots && lot.text.trim() ? { lot: lot.text.trim() } : {};
		if (!(await sheet.put(rows.map((r) => ({ lineId: line.id, data: { ...held, ...r } }))))) return;
		await focus(
			serials ? 'fill' : lots ? 'lot' : 'qty',
			`${numbers.toLocaleString('en')} ${serials ? 'numbers' : 'rows'} read${blanks ? `, ${blanks} blank ${blanks === 1 ? 'line' : 'lines'} left out` : ''}.`
		);
	}
	let table = $state<{ name: string; cells: string[][] } | null>(null);
	let over = $state(false);
	async function putTable(rows: TableRow[], numbers: number) {
		if (!(await sheet.put(rows.map((r) => ({ lineId: line.id, data: { ...r } }))))) return;
		table = null;
		await focus(
			serials ? 'fill' : lots ? 'lot' : 'qty',
			`${numbers.toLocaleString('en')} ${numbers === 1 ? 'row' : 'rows'} read.`
		);
	}
	/** A CSV is read here; an XLSX by the server. */
	async function takeFile(file: File | undefined) {
		said = '';
		if (!file) return;
		if (file.size > 10_000_000) return void (said = `${file.name} is larger than 10 MB. Split it, or save it as CSV.`);
		if (/\.xlsx$/i.test(file.name)) {
			const answer = await fetch('/tables', { method: 'POST', body: file, headers: { accept: 'application/json', 'content-type': 'application/octet-stream' } }).catch(() => null); // prettier-ignore
			const given = await answer?.json().catch(() => null);
			if (!answer?.ok)
				return void (said = given?.detail ?? 'The file could not be read. Try again, or save it as CSV.');
			table = { name: file.name, cells: given.cells };
		} else table = { name: file.name, cells: readCells(await file.text()) };
		if (!table.cells.length) {
			table = null;
			said = `${file.name} is empty.`;
		}
	}
	function drop(e: DragEvent) {
		over = false;
		if (!e.dataTransfer?.files.length) return;
		e.preventDefault();
		void takeFile(e.dataTransfer.files[0]);
	}
</script>

{#if !readonly}
	<div
		ondragover={(e) => {
			e.preventDefault();
			over = true;
		}}
		ondragleave={() => (over = false)}
		ondrop={drop}
		class:over
		class="fill"
		bind:this={group}
		data-line={line.id}
		role="group"
		aria-label="Enter numbers for {line.itemName}"
	>
		{#if lots}
			<label class="field"
				>Lot<input
					class="plain mono"
					data-field="lot"
					data-first={first || undefined}
					value={lot.text}
					oninput={(e) => lot.set(e.currentTarget.value)}
					onkeydown={enter}
					onpaste={paste}
					size="16"
					autocomplete="off"
					spellcheck="false"
				/></label
			>
		{/if}
		{#if serials}
			<label class="field"
				>First serial, count
				<input
					class="plain mono"
					data-field="fill"
					data-first={(first && !lots) || undefined}
					value={fill.text}
					oninput={(e) => fill.set(e.currentTarget.value)}
					onkeydown={enter}
					onpaste={paste}
					placeholder="PW-0098, 40"
					size="22"
					autocomplete="off"
					spellcheck="false"
				/></label
			>
		{:else}
			<label class="field"
				>Quantity, {line.unit}
				<input
					class="plain num"
					data-field="qty"
					value={qty.text}
					oninput={(e) => qty.set(e.currentTarget.value)}
					onkeydown={enter}
					placeholder={left === '0' ? '' : left}
					size="9"
					inputmode="decimal"
					autocomplete="off"
				/></label
			>
		{/if}
		{#if dated && !output}
			<label class="field"
				>Expires<input
					class="plain"
					data-field="expiry"
					value={expiry.text}
					oninput={(e) => expiry.set(e.currentTarget.value)}
					onkeydown={enter}
					placeholder="2027-03-31"
					size="11"
					autocomplete="off"
				/></label
			>
		{/if}
		{#if lots && !output}
			<label class="field"
				>Supplier’s lot, if another<input
					class="plain mono"
					data-field="theirs"
					value={theirs.text}
					oninput={(e) => theirs.set(e.currentTarget.value)}
					onkeydown={enter}
					size="13"
					autocomplete="off"
				/></label
			>
		{/if}
		<button class="add" onclick={add}>Add</button>
		{#if serials && line.serialAsked === 'asked' && left !== '0' && !output}<button class="link take" onclick={addBare}
				>Enter {fill.text.trim() && /^\d+$/.test(fill.text.trim()) ? fill.text.trim() : left} without serials</button
			>{/if}
		{#if pattern && (left !== '0' || !serials)}<button class="link take" onclick={draw}
				>Take {serials ? `the next ${drawn.toLocaleString('en')}` : 'the next lot'} of {pattern}</button
			>{/if}
		<label class="file"
			>From a file<input
				type="file"
				accept=".csv,.txt,.xlsx"
				aria-label="CSV or XLSX file for {line.itemName}"
				onchange={(e) => {
					void takeFile(e.currentTarget.files?.[0]);
					e.currentTarget.value = '';
				}}
			/></label
		>
		<span class="hint soft" role="status"
			>{said ||
				hint ||
				(serials
					? 'Scan, type, or paste a column'
					: left !== '0'
						? `${amount(left, line.unit)} to go; paste a column if you like`
						: '')}</span
		>
	</div>
{/if}
{#if table}<TablePreview
		{...table}
		{line}
		lot={lot.text.trim()}
		ontake={putTable}
		onleave={() => (table = null)}
	/>{/if}
<NumberTable {sheet} {line} {output} />

<style>
	.fill {
		contain: layout style;
		display: flex;
		flex-wrap: wrap;
		gap: 0.75rem;
		align-items: flex-end;
		padding: 0.5rem 0.75rem 0.6rem;
		border-bottom: 1px solid var(--rule);
	}
	.add {
		height: 32px;
		padding: 0 0.9rem;
		border: 1px solid var(--ink);
		background: var(--paper);
		color: var(--ink);
		font: inherit;
		cursor: pointer;
	}
	.over {
		background: var(--amber-soft);
	}
	.file {
		align-self: center;
		color: var(--link);
		cursor: pointer;
		font-size: 0.8125rem;
	}
	.file input {
		position: absolute;
		opacity: 0;
		width: 1px;
	}
	.file:focus-within {
		outline: 2px solid var(--link);
	}
	.take {
		align-self: center;
	}
	.hint {
		align-self: center;
		flex: 1;
		min-width: 10rem;
		font-size: 0.8125rem;
		overflow-wrap: anywhere;
	}
</style>
