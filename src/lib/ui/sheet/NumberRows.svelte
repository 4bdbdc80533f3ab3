<script lang="ts">
	import { grouped, typedNumber, written } from '$lib/core/quantity/sign';
	import { unitWord } from '$lib/core/quantity/units';
	import { Button } from 'carbon-components-svelte';
	import DayPick from '../fields/DayPick.svelte';
	import Text from '../fields/Text.svelte';
	import { showWhen } from '$lib/ui/dates';
	// Where new numbers of a line are entered, and the rows entered so far.
	import { tick } from 'svelte';
	import { filledWords, parseFill } from '$lib/core/ranges/ranges';
	import { readScan } from '$lib/core/codes/scan';
	import { guess, mapRows, readCells, type TableRow } from '$lib/core/tables/table';
	import { readColumn } from '$lib/core/ranges/column';
	import { amount, less, rest } from '$lib/core/quantity/quantity';
	import type { SheetLine } from '$lib/core/sheet/sheet';
	import FactField from '../facts/FactField.svelte';
	import FilePick from '../files/FilePick.svelte';
	import { readPicked } from '../files/picked';
	import Grouping from './Grouping.svelte';
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
		/** id of the list of bins that rows may go to; none where they cannot */
		bins?: string;
		/** takes a GS1 code */
		onscan?: (text: string, line: string) => unknown;
	}
	let { sheet, line, output = false, first = false, readonly = false, bins, onscan }: Props = $props();
	const serials = $derived(line.tracking.includes('serial'));
	const lots = $derived(line.tracking.includes('lot'));
	const dated = $derived(line.expiry !== 'not asked');
	const beside = $derived(!output && line.supplierNumber !== 'ours');
	// svelte-ignore state_referenced_locally
	const name = `${sheet.state.code} ${line.id}`;
	const lot = new Remembered(name + ' lot');
	const fill = new Remembered(name + ' fill');
	const qty = new Remembered(name + ' qty');
	const expiry = new Remembered(name + ' expiry');
	const theirs = new Remembered(name + ' theirs');
	const theirSerial = new Remembered(name + ' their serial');
	const bin = new Remembered(name + ' bin');
	const facts = new Remembered(name + ' facts');
	const typedFacts = $derived<Record<string, string>>(facts.text ? JSON.parse(facts.text) : {});
	function setFact(code: string, value: string) {
		const { [code]: _was, ...others } = typedFacts;
		const all = value.trim() ? { ...others, [code]: value.trim() } : others;
		facts.set(Object.keys(all).length ? JSON.stringify(all) : '');
	}
	let group = $state<HTMLElement>()!;
	let said = $state('');

	const left = $derived(rest(line.open, line.entered));
	const hint = $derived.by(() => {
		if (!serials || !fill.text.trim()) return '';
		const f = parseFill(fill.text);
		if ('problem' in f) return f.problem;
		return f.count === 1 ? `Enter adds ${f.runs[0].first}` : `Enter adds ${filledWords(f)}`;
	});

	const isCoded = (text: string) => {
		const read = text.trim().length > 15 ? readScan(text, new Date().getFullYear()) : null;
		return !!read && ('problem' in read || read.coded);
	};
	/** The quantity that was typed, as it is kept. */
	const quantity = () => typedNumber(qty.text.slice(0, 200), line.decimals);
	async function add() {
		const text = (field: Remembered) => field.text.trim().slice(0, 200);
		const extra = {
			...(lots && text(lot) ? { lot: text(lot) } : {}),
			...(dated && text(expiry) ? { expiresOn: text(expiry) } : {}),
			...(beside && lots && text(theirs) ? { supplierLot: text(theirs) } : {}),
			...(bins && text(bin) ? { place: text(bin) } : {}),
			...(facts.text ? { facts: typedFacts } : {})
		};
		// A GS1 code that came in as typing, or by paste, is still one.
		const code = serials ? fill : lot;
		if (isCoded(code.text)) {
			const read = code.text.trim();
			code.set('');
			return void (await onscan?.(read, line.id));
		}
		if (serials) {
			const f = parseFill(fill.text);
			if ('problem' in f) return void (said = f.problem);
			said = '';
			// Cleared before the server answers, so that a second Enter adds nothing; back when it is refused.
			const typed = fill.text;
			fill.set('');
			const rows = f.runs.map(({ first: serial, count, step }) => ({ serial, count, ...(step ? { step } : {}) }));
			const supplier = beside && text(theirSerial) ? { supplierSerial: text(theirSerial) } : {};
			const data = rows.map((run, i) => ({ lineId: line.id, data: { ...extra, ...run, ...(i ? {} : supplier) } }));
			if (!(await sheet.put(data)) && !sheet.waiting && !fill.text) return fill.set(typed);
			theirSerial.set('');
			await goOn('fill');
		} else {
			if (lots && !lot.text.trim()) return focus('lot', 'Type the lot number first.');
			said = '';
			const data = { ...extra, qty: quantity() || left };
			const fields = [lot, qty, expiry, theirs, facts];
			const typed = fields.map((field) => field.text);
			for (const field of fields) field.set('');
			if (!(await sheet.put([{ lineId: line.id, data }])) && !sheet.waiting && fields.every((field) => !field.text))
				return fields.forEach((field, i) => field.set(typed[i]));
			await goOn(lots ? 'lot' : 'qty');
		}
	}
	/** The pattern that this line's numbers can be drawn from. */
	const pattern = $derived(serials ? line.serialPattern : line.lotPattern);
	const drawn = $derived(serials ? Math.min(Number(left), 10_000) : 1);
	const released = $derived(Math.min(line.released?.left ?? 0, drawn));
	let drawing = false;
	async function draw() {
		if (drawing) return;
		drawing = true;
		await drawNow();
		drawing = false;
	}
	async function drawNow() {
		if (serials && lots && !lot.text.trim() && !line.lotPattern) return focus('lot', 'Type the lot first.');
		said = '';
		const more = {
			...(lots && serials && lot.text.trim() ? { lot: lot.text.trim() } : {}),
			...(serials ? {} : { qty: quantity() }),
			expiresOn: expiry.text.trim(),
			supplierLot: beside ? theirs.text.trim() : '',
			place: bins ? bin.text.trim() : '',
			...(facts.text ? { facts: typedFacts } : {})
		};
		// A bare count in the number field asks for so many.
		const asked = serials && /^\d{1,5}$/.test(fill.text.trim()) ? Number(fill.text.trim()) : 0;
		const count = asked || Math.max(released || drawn, 1);
		const waited = released > 0;
		if (!(await sheet.draw(line.id, count, more))) return;
		for (const field of serials ? [fill] : [qty, expiry, theirs, facts]) field.set('');
		await focus(
			serials ? 'fill' : 'qty',
			`${grouped(count)} ${waited ? 'taken that were drawn at release' : `drawn from ${pattern}`}.`
		);
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
	/** Where the cursor goes when a number was entered: to the next; of a full line on to the next that is not. */
	async function goOn(field: string) {
		await tick();
		const at = document.activeElement;
		if (left !== '0' || (at && at !== document.body && !group?.contains(at))) return focus(field);
		const next = sheet.state.lines.find((l) => l.no > line.no && l.role !== 'component' && less(l.entered, l.open));
		const to =
			next &&
			(document.querySelector<HTMLElement>(`[data-line="${next.id}"] [data-field]`) ??
				document.querySelector<HTMLElement>(`#line-${next.no} button`));
		if (to) to.focus();
		else await focus(field);
	}
	/** Fields that Enter passes by: what they hold is the exception. */
	const aside = ['theirs', 'their-serial', 'bin'];
	function enter(e: KeyboardEvent) {
		if (e.key !== 'Enter' || e.ctrlKey) return;
		e.preventDefault();
		const target = e.target as HTMLInputElement;
		// A fact is taken, and read, when it changes; Enter is one way to say that it has.
		if (target.dataset.field?.startsWith('fact ')) target.dispatchEvent(new Event('change', { bubbles: true }));
		const fields = [...group?.querySelectorAll<HTMLInputElement>('[data-field]')];
		const at = fields.indexOf(target);
		const following = fields.slice(at + 1).find((f) => !aside.includes(f.dataset.field!));
		if (aside.includes(target.dataset.field!) || !following) add();
		else {
			following.focus();
			following.select?.();
		}
	}
	async function paste(e: ClipboardEvent) {
		const text = e.clipboardData?.getData('text') ?? '';
		if (!/[\n\t]/.test(text.trim())) return;
		e.preventDefault();
		const cells = readCells(text);
		const read = guess(cells[0] ?? [], line, others);
		if (read.headings || (cells[0]?.length ?? 0) > (lots && serials ? 2 : 1)) {
			const made = mapRows(cells, read.mapping, read.headings ? 1 : 0, line, lot.text.trim(), others);
			// A table whose headings are all known and whose rows are all sound needs no look.
			if (made.faults.length || !read.headings || read.mapping.includes(null))
				return void (table = { name: 'what was pasted', cells });
			return void (await putTable(made.rows, made.numbers));
		}
		const { rows, numbers, blanks } = readColumn(text, line);
		const held = lots && lot.text.trim() ? { lot: lot.text.trim() } : {};
		if (!(await sheet.put(rows.map((r) => ({ lineId: line.id, data: { ...held, ...r } }))))) return;
		await focus(
			serials ? 'fill' : lots ? 'lot' : 'qty',
			`${grouped(numbers)} ${serials ? 'numbers' : 'rows'} read${blanks ? `, ${blanks} blank ${blanks === 1 ? 'line' : 'lines'} skipped` : ''}.`
		);
	}
	/** lines that rows of a table may be of, by their items */
	const others = $derived(sheet.state.lines.filter((l) => l.id !== line.id && l.role === line.role));
	let table = $state<{ name: string; cells: string[][] } | null>(null);
	let over = $state(false);
	async function putTable(rows: TableRow[], numbers: number) {
		if (!(await sheet.put(rows.map(({ line: to, ...r }) => ({ lineId: to ?? line.id, data: { ...r } }))))) return;
		table = null;
		await focus(serials ? 'fill' : lots ? 'lot' : 'qty', `${grouped(numbers)} ${numbers === 1 ? 'row' : 'rows'} read.`);
	}
	async function takeFile(file: File) {
		said = '';
		try {
			const read = await readPicked(file);
			const cells = read.cells ?? readCells(read.text ?? '');
			if (cells.length) table = { name: read.name, cells };
			else said = `${read.name} is empty.`;
		} catch (e) {
			said = (e as Error).message;
		}
	}
	function drop(e: DragEvent) {
		over = false;
		if (!e.dataTransfer?.files.length) return;
		e.preventDefault();
		void takeFile(e.dataTransfer.files[0]);
	}
</script>

{#snippet field(label: string, held: Remembered, key: string, ch: number, more: Record<string, unknown> = {})}
	<Text
		{label}
		data-field={key}
		value={held.text}
		oninput={(e) => held.set(e.currentTarget.value)}
		onkeydown={enter}
		{ch}
		{...more}
	/>
{/snippet}

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
		{#if lots}{@render field('Lot', lot, 'lot', 16, {
				mono: true,
				onpaste: paste,
				'data-first': first || undefined
			})}{/if}
		{#if serials}
			{@render field('First serial, count', fill, 'fill', 22, {
				mono: true,
				onpaste: paste,
				'data-first': (first && !lots) || undefined,
				placeholder: 'PW-0098, 40',
				title: 'One serial; a first one and a count; or these and a step: PW-0098, 40, 2'
			})}
		{:else}
			{@render field(`Quantity, ${unitWord(line.unit)}`, qty, 'qty', 9, {
				num: true,
				placeholder: left === '0' ? '' : written(left),
				inputmode: 'decimal',
				'data-first': (first && !lots) || undefined
			})}
		{/if}
		{#if dated && !output}<span class="day"
				>{@render field('Expires', expiry, 'expiry', 11, { placeholder: '31 Mar 2027' })}<DayPick
					label="Expires"
					typed={expiry.text}
					onpick={(day) => {
						expiry.set(showWhen(day));
						focus('expiry');
					}}
					onclose={() => focus('expiry')}
				/></span
			>{/if}
		{#each line.facts as f (f.code)}
			<div class="field">
				<span aria-hidden="true">{f.name}{f.unit ? `, ${f.unit}` : ''}</span>
				<FactField
					fact={f}
					field="fact {f.code}"
					value={typedFacts[f.code] ?? ''}
					onkeydown={enter}
					onchange={(value) => setFact(f.code, value)}
				/>
			</div>
		{/each}
		{#if lots && beside}{@render field('Supplier’s lot, if another', theirs, 'theirs', 13, {
				mono: true
			})}{/if}
		{#if serials && beside}{@render field('Supplier’s first serial', theirSerial, 'their-serial', 13, {
				mono: true
			})}{/if}
		{#if bins}{@render field('To bin', bin, 'bin', 12, {
				mono: true,
				list: bins,
				placeholder: sheet.state.place ?? '',
				title: line.bins.length ? `Held already at ${line.bins.join(', ')}` : undefined
			})}{/if}
		<Button kind="tertiary" size="small" on:click={add}>Add</Button>
		{#if serials && line.serialAsked === 'asked' && left !== '0' && !output}<Button
				kind="ghost"
				size="small"
				class="link take"
				on:click={addBare}
				>Enter {fill.text.trim() && /^\d+$/.test(fill.text.trim()) ? fill.text.trim() : left} without serials</Button
			>{/if}
		{#if pattern && (left !== '0' || !serials)}<Button kind="ghost" size="small" class="link take" on:click={draw}
				>{#if released}Take {serials ? `the ${grouped(released)} drawn at release, from` : 'the lot drawn at release,'}
					<span class="mono">{line.released!.first}</span>{:else}Take {serials
						? `the next ${grouped(drawn)}`
						: 'the next lot'} of {pattern}{/if}</Button
			>{/if}
		<span class="pick"
			><FilePick
				label="From a file"
				says="CSV or XLSX file for {line.itemName}"
				accept=".csv,.txt,.xlsx"
				onpick={takeFile}
			/></span
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
		{others}
		{...table}
		{line}
		lot={lot.text.trim()}
		ontake={putTable}
		onleave={() => (table = null)}
	/>{/if}
{#if lots && serials && !readonly}<Grouping {sheet} {line} />{/if}
<NumberTable {sheet} {line} {output} {bins} {readonly} />

<style>
	.fill {
		contain: layout style;
		display: flex;
		flex-wrap: wrap;
		gap: 0.5rem 0.75rem;
		align-items: flex-end;
		padding: 0.5rem 0.75rem 0.6rem;
		border-bottom: 1px solid var(--rule);
	}
	/* A calendar that is open lies over the rows. */
	.fill:focus-within {
		position: relative;
		z-index: 5;
	}
	.day {
		display: flex;
		align-items: flex-end;
	}
	.over {
		background: var(--amber-soft);
	}
	.fill > :global(.link),
	.pick,
	.hint {
		display: flex;
		align-items: center;
		min-height: 32px;
	}
	.hint {
		flex: 1;
		min-width: 10rem;
		font-size: 0.8125rem;
		overflow-wrap: anywhere;
	}
</style>
