<script lang="ts">
	import { showWhen } from '$lib/core/dates/dates';
	import { show } from '$lib/core/quantity/quantity';
	import { grouped } from '$lib/core/quantity/sign';
	import { unitWord } from '$lib/core/quantity/units';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	// By generation: folds and unfolds; a crowd of serials of one item and run is one line until it is opened.
	import { SvelteSet } from 'svelte/reactivity';
	import { foldChildren } from '$lib/core/trace/fold';
	import { treeOf, type TraceMark, type TraceView, type TreeNode } from '$lib/core/trace/view';
	import ChevronRight from 'carbon-icons-svelte/lib/ChevronRight.svelte';
	import ChevronDown from 'carbon-icons-svelte/lib/ChevronDown.svelte';
	import { KNOWN_BY, weakest } from '$lib/core/ledger/evidence';
	import Tag from '../tag/Tag.svelte';

	let { view, marks }: { view: TraceView; marks: Map<string, TraceMark> } = $props();
	const tree = $derived(treeOf(view));
	const rootNumber = $derived(marks.get(view.root)?.number ?? '');
	const closed = new SvelteSet<string>();
	const opened = new SvelteSet<string>();
	let shown = $state(400);

	interface Row {
		key: string;
		node: TreeNode;
		/** a fold of consecutive serials */
		group: TreeNode[] | null;
		folds: boolean;
		open: boolean;
	}
	const rows = $derived.by(() => {
		const out: Row[] = [];
		const walk = (n: TreeNode, path: string) => {
			const key = path + '/' + n.mark;
			// Deep levels start folded when the whole is large.
			const open =
				n.children.length > 0 && (view.reached.length > 150 && n.level > 0 ? opened.has(key) : !closed.has(key));
			out.push({ key, node: n, group: null, folds: n.children.length > 0, open });
			if (open) list(n.children, key);
		};
		const list = (children: TreeNode[], path: string) => {
			for (const group of foldChildren(children, marks)) {
				const [first] = group;
				if (group.length === 1) {
					walk(first, path);
					continue;
				}
				const key = `${path}/${first.mark}…`;
				const open = opened.has(key);
				out.push({ key, node: first, group, folds: true, open });
				if (open) group.forEach((n) => walk(n, key));
			}
		};
		walk(tree, '');
		return out;
	});
	function toggle(r: Row) {
		const [set, other] = r.open ? [closed, opened] : [opened, closed];
		other.delete(r.key);
		set.add(r.key);
	}
	const since = $derived(new Map(view.reached.map((x) => [x.mark, x])));
</script>

<Table size="short">
	<TableHead
		><TableRow
			><TableHeader>Number</TableHeader><TableHeader>Item</TableHeader><TableHeader class="num">Quantity</TableHeader
			>{#if view.direction === 'forward'}<TableHeader class="num">From {rootNumber}</TableHeader>{/if}<TableHeader
				>Run</TableHeader
			><TableHeader>Document</TableHeader><TableHeader
				>{view.direction === 'forward' ? 'Reached' : 'Went in'}</TableHeader
			><TableHeader>Proven</TableHeader><TableHeader>Known by</TableHeader></TableRow
		></TableHead
	>
	<TableBody>
		{#each rows.slice(0, shown) as r (r.key)}
			{@const n = r.node}
			{@const m = marks.get(n.mark)!}
			{@const s = since.get(n.mark)}
			{@const known = r.group ? weakest(r.group.map((x) => x.known ?? null)) : n.known}
			<TableRow>
				<TableCell style="padding-left:{0.75 + n.level * 1.4 + (r.group || !r.key.includes('…') ? 0 : 0.8)}rem">
					{#if r.folds}<Button
							kind="ghost"
							size="small"
							class="link fold"
							aria-expanded={r.open}
							aria-label="{r.open ? 'Fold' : 'Unfold'} {m.number}"
							on:click={() => toggle(r)}
							>{#if r.open}<ChevronDown size={16} />{:else}<ChevronRight size={16} />{/if}</Button
						>{:else}<span class="fold"></span>{/if}
					{#if r.group}<Tag
							kind="serial"
							number={m.number}
							last={marks.get(r.group[r.group.length - 1].mark)!.number}
							count={r.group.length}
						/>
					{:else}<Tag kind={m.kind} number={m.number} id={m.id} status={m.status} expiresOn={m.expiresOn} />{/if}
				</TableCell>
				<TableCell data-label="Item">{m.itemName}</TableCell>
				<TableCell class="num" data-label="Quantity"
					>{r.group ? grouped(r.group.length) : n.qty || view.rootQty ? show(n.qty ?? view.rootQty ?? '0') : ''}
					{n.qty || view.rootQty || r.group ? unitWord(m.unit) : ''}</TableCell
				>
				{#if view.direction === 'forward'}<TableCell class="num" data-label="From {rootNumber}"
						>{r.group ? '' : n.content ? `${show(n.content)} ${unitWord(view.unit)}` : ''}</TableCell
					>{/if}
				<TableCell class="mono" data-label="Run">{r.group ? '' : (n.step?.run ?? '')}</TableCell>
				<TableCell class="mono" data-label="Document">{n.step?.document ?? ''}</TableCell>
				<TableCell data-label={view.direction === 'forward' ? 'Reached' : 'Went in'}
					>{showWhen((view.direction === 'forward' ? s?.since : n.step?.at)?.slice(0, 10) ?? '')}{#if s && !s.now}<span
							class="soft"
						>
							no longer</span
						>{/if}</TableCell
				>
				<TableCell class="soft" data-label="Proven"
					>{n.level === 0 ? '' : n.repeated ? 'laid out above' : n.exact ? 'piece by piece' : 'by batch'}{n.taken
						? ', taken out'
						: ''}</TableCell
				><TableCell class={known === 'scanned' ? 'soft' : ''} data-label="Known by"
					>{n.level === 0 || m.kind === 'unmarked' ? '' : KNOWN_BY[known ?? 'unknown']}</TableCell
				>
			</TableRow>
		{/each}
	</TableBody>
</Table>
{#if rows.length > shown}<p>
		<Button kind="ghost" size="small" class="link" on:click={() => (shown += 1000)}
			>Show more: {grouped(rows.length - shown)} rows below</Button
		>
	</p>{/if}
{#each view.steps.filter((s) => s.open && s.pooled) as s (s.run)}<p class="soft">
		Run <span class="mono">{s.run}</span> has taken some and put nothing out yet.
	</p>{/each}

<style>
	.fold {
		display: inline-flex;
		width: 20px;
		vertical-align: middle;
	}
</style>
