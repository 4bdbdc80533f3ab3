<script lang="ts">
	// What was booked on this order, with undo for whoever may.
	import type { Sheet } from './sheet.svelte';
	let {
		sheet,
		mayUndo,
		papers = '',
		labels = false
	}: { sheet: Sheet; mayUndo: boolean; papers?: string; labels?: boolean } = $props();
	let asking = $state<string | null>(null);
	let reason = $state('');
	async function undo(id: string) {
		if (await sheet.undo(id, reason.trim())) {
			asking = null;
			reason = '';
		}
	}
</script>

{#if sheet.state.events.length}
	<section>
		<h2>Booked on {sheet.state.code}</h2>
		<table class="rows">
			<thead><tr><th>When</th><th>What</th><th>By</th><th class="num">Movements</th><th></th></tr></thead>
			<tbody>
				{#each sheet.state.events as e (e.id)}
					<tr class:undone={e.undone || e.kind === 'undo'}>
						<td>{e.at}</td>
						<td>{e.kind}{e.undone ? ', undone' : ''} <span class="soft">event {e.id}</span></td>
						<td>{e.by}</td>
						<td class="num">{e.movements.toLocaleString('en')}</td>
						<td class="num">
							{#if papers && e.kind !== 'undo' && !e.undone}<a href="{papers}?event={e.id}">Packing list (PDF)</a>{/if}
							{#if labels && !e.undone && e.brings}<form method="POST" action="/devices?/print">
									<button class="link" name="event" value={e.id}
										>Print labels<span class="visually-hidden"> of event {e.id}</span></button
									>
								</form>{/if}
							{#if mayUndo && !e.undone && e.kind !== 'undo'}
								{#if asking === e.id}
									<input
										class="plain"
										bind:value={reason}
										placeholder="Why"
										aria-label="Why it is undone"
										maxlength="1000"
									/>
									<button class="link" disabled={!reason.trim()} onclick={() => undo(e.id)}>Undo event {e.id}</button>
									<button class="link" onclick={() => (asking = null)}>Leave it</button>
								{:else}<button class="link" onclick={() => (asking = e.id)}>Undo…</button>{/if}
							{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</section>
{/if}

<style>
	section {
		margin-top: 1.5rem;
	}
	.undone td {
		color: var(--ink-soft);
		text-decoration: line-through;
	}
	.undone td:nth-child(2) {
		text-decoration: none;
	}
	td .plain {
		height: 26px;
	}
	td form {
		display: inline;
	}
	td a,
	td .link {
		margin-left: 0.75rem;
	}
</style>
