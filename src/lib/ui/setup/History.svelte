<script lang="ts">
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
			<span class="soft">· {changes.length} changes, the last on {changes[0].at} by {changes[0].by}</span></summary
		>
		<table class="rows">
			<thead
				><tr
					><th>When</th><th>By</th>{#if changes[0].code !== undefined}<th>Of</th>{/if}<th>What</th><th>From</th><th
						>To</th
					></tr
				></thead
			>
			<tbody>
				{#each changes as c, i (i)}<tr
						><td>{c.at}</td><td>{c.by}</td>{#if c.code !== undefined}<td class="mono">{c.code}</td>{/if}<td
							>{words(c.field)}</td
						><td class="value">{value(c.old)}</td><td class="value">{value(c.new)}</td></tr
					>{/each}
			</tbody>
		</table>
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
	.value {
		max-width: 22rem;
		overflow-wrap: anywhere;
		font-size: 0.8125rem;
	}
</style>
