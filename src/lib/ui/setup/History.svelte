<script lang="ts">
	import { showWhen } from '$lib/ui/dates';
	import { Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	// What was changed here: who, when, from what to what.
	interface Change {
		at: string;
		by: string;
		field: string;
		old: string | null;
		new: string | null;
		code?: string;
	}
	let { changes, what = '' }: { changes: readonly Change[]; what?: string } = $props();
	const words = (field: string) => field.replace(/[A-Z]/g, (c) => ' ' + c.toLowerCase());
	const value = (v: string | null) =>
		v === null || v === '' ? 'nothing' : v === 'true' ? 'yes' : v === 'false' ? 'no' : v;
</script>

{#if changes.length}
	<details>
		<summary
			>History{what ? ` of ${what}` : ''}
			<span class="soft">· {changes.length} changes, the last on {showWhen(changes[0].at)} by {changes[0].by}</span
			></summary
		>
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>When</TableHeader><TableHeader>By</TableHeader>{#if changes[0].code !== undefined}<TableHeader
							>Of</TableHeader
						>{/if}<TableHeader>What</TableHeader><TableHeader>From</TableHeader><TableHeader>To</TableHeader></TableRow
				></TableHead
			>
			<TableBody>
				{#each changes as c, i (i)}<TableRow
						><TableCell>{showWhen(c.at)}</TableCell><TableCell>{c.by}</TableCell>{#if c.code !== undefined}<TableCell
								class="mono">{c.code}</TableCell
							>{/if}<TableCell>{words(c.field)}</TableCell><TableCell class="value">{value(c.old)}</TableCell><TableCell
							class="value">{value(c.new)}</TableCell
						></TableRow
					>{/each}
			</TableBody>
		</Table>
	</details>
{/if}

<style>
	details {
		margin-top: 1rem;
	}
	summary {
		cursor: pointer;
		padding: 0.4rem 0;
	}
</style>
