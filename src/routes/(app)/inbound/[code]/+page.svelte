<script lang="ts">
	import { onMount } from 'svelte';
	import { showDay } from '$lib/core/dates/dates';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import Announced from '$lib/ui/sheet/Announced.svelte';
	import Booked from '$lib/ui/sheet/Booked.svelte';
	import FootBar from '$lib/ui/sheet/FootBar.svelte';
	import LineHead from '$lib/ui/sheet/LineHead.svelte';
	import NumberRows from '$lib/ui/sheet/NumberRows.svelte';
	import Findings from '$lib/ui/sheet/Findings.svelte';
	import Notice from '$lib/ui/sheet/Notice.svelte';
	import ScanLog from '$lib/ui/scan/ScanLog.svelte';
	import { takeScans } from '$lib/ui/scan/scanner';
	import { handScan, scanned } from '$lib/ui/sheet/scanned';
	import { Sheet } from '$lib/ui/sheet/sheet.svelte';

	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const sheet = new Sheet(data.sheet);
	onMount(() => sheet.connect());
	const rows: Record<string, ReturnType<typeof NumberRows>> = $state({});
	onMount(() => takeScans((text, into) => !shut && scanned(sheet, text, into, (line) => rows[line])));
	const s = $derived(sheet.state);
	const shut = $derived(!data.may || !!s.closedAt);
	const firstOpen = $derived(s.lines.find((l) => l.open !== '0')?.no ?? 1);
	let folded = $state<Record<number, boolean>>({});
	const isOpen = (no: number) => (folded[no] === undefined ? s.lines.length <= 4 || no === firstOpen : !folded[no]);
	/** A CSV or JSON is handed over as it is; an XLSX is read into cells first. */
	async function takeNotice(file: File | undefined) {
		if (!file) return;
		if (!/\.xlsx$/i.test(file.name)) return void (await sheet.announce({ name: file.name, text: await file.text() }));
		const answer = await fetch('/tables', { method: 'POST', body: file, headers: { accept: 'application/json', 'content-type': 'application/octet-stream' } }).catch(() => null); // prettier-ignore
		const given = await answer?.json().catch(() => null);
		if (answer?.ok) await sheet.announce({ name: file.name, cells: given.cells });
		else sheet.faults = [{ message: given?.detail ?? 'The file could not be read. Try again, or save it as CSV.' }];
	}
	const others = $derived([...new Set(s.lines.flatMap((l) => l.rows.map((r) => r.by)))]);
</script>

<svelte:head><title>{s.code} · Inbound · Earmark</title></svelte:head>
<div class="head">
	<h1>Delivery {s.code}</h1>
	<span class="soft"
		>{s.partnerName ?? 'supplier not named'}{s.dueOn ? ` · expected ${showDay(s.dueOn)}` : ''} · to {s.place}{s.closedAt
			? ` · complete ${showDay(s.closedAt)}`
			: ''}</span
	>
	{#if others.length}<span class="soft push">entered by {others.join(', ')}</span>{/if}
</div>
{#if s.note}<p class="soft">{s.note}</p>{/if}
{#if !shut}
	<p class="notice">
		{#if s.notice}<span>Announced in <b>{s.notice.name}</b> ({s.notice.by}, {showDay(s.notice.at)})</span>{/if}
		<label class="file"
			>{s.notice ? 'Another notice' : 'Advance notice from a file'}<input
				type="file"
				accept=".csv,.txt,.json,.jsonld,.xlsx"
				aria-label="Advance notice: CSV, XLSX or EPCIS JSON"
				onchange={(e) => {
					void takeNotice(e.currentTarget.files?.[0]);
					e.currentTarget.value = '';
				}}
			/></label
		>
	</p>
{/if}
<Notice {sheet} />
<Faults faults={sheet.faults} onclose={() => (sheet.faults = [])} />
<div class="beside" class:log={s.scans.length > 0 && !s.closedAt}>
	<div>
		{#each s.lines as line (line.id)}
			<section class="panel">
				<LineHead
					{line}
					word={line.tracking === 'none' ? 'entered' : 'numbered'}
					open={isOpen(line.no)}
					ontoggle={() => (folded[line.no] = isOpen(line.no))}
				/>
				{#if isOpen(line.no)}
					{#if line.announced}<Announced
							announced={line.announced}
							onenter={shut ? undefined : () => sheet.enterAnnounced(line.id)}
						/>{/if}
					<NumberRows
						bind:this={rows[line.id]}
						onscan={(text, at) => handScan(sheet, text, at, null, (l) => rows[l])}
						{sheet}
						{line}
						first={line.no === firstOpen}
						readonly={shut || (line.open === '0' && !line.rows.length)}
					/>
					{#each line.findings.filter((f) => f.level === 'reason' || f.level === 'stop') as f, i (i)}<p class="said">
							<Findings findings={[f]} />
						</p>{/each}
				{/if}
			</section>
		{/each}
	</div>
	{#if s.scans.length && !s.closedAt}<ScanLog scans={s.scans} onundo={sheet.undoScan} />{/if}
</div>
<Booked {sheet} mayUndo={data.mayUndo} labels />
{#if !s.closedAt}<FootBar {sheet} verb="Book in" may={data.may} ongo={(no) => (folded[no] = false)} />{/if}

<style>
	section {
		margin-bottom: 0.75rem;
	}
	.notice {
		display: flex;
		gap: 1rem;
		margin: 0 0 0.5rem;
		font-size: 0.8125rem;
	}
	.file {
		color: var(--link);
		cursor: pointer;
	}
	.file input {
		position: absolute;
		opacity: 0;
		width: 1px;
	}
	.file:focus-within {
		outline: 2px solid var(--link);
	}
	.beside.log {
		display: grid;
		grid-template-columns: minmax(0, 1fr) 17rem;
		gap: 0.75rem;
		align-items: start;
	}
	@media (max-width: 900px) {
		.beside.log {
			grid-template-columns: minmax(0, 1fr);
		}
	}
	.said {
		margin: 0;
		padding: 0.4rem 0.75rem;
		background: var(--amber-soft);
	}
</style>
