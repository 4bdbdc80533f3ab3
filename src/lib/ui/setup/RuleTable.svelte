<script lang="ts">
	// A marking rule as one table of steps by numbers, dates and facts, and said back in plain sentences.
	import { HOWS, startFrom, STARTS, type How, type Rule, type Start, type Tracking } from '$lib/core/marking/rule';
	import { ruleSentence } from '$lib/core/marking/sentence';
	interface Props {
		rules: Rule[];
		/** what the items that go by it carry */
		carries: Tracking;
		/** all facts that the firm has defined */
		facts: { code: string; name: string }[];
		readonly?: boolean;
	}
	let { rules = $bindable(), carries, facts, readonly = false }: Props = $props();
	const numbers = $derived((['lot', 'serial'] as const).filter((n) => carries.includes(n)));
	// Facts that the rule asks somewhere, and those that were added here and are not asked yet.
	let added = $state<string[]>([]);
	const columns = $derived(
		facts.filter((f) => added.includes(f.code) || rules.some((r) => (r.facts[f.code] ?? 'not asked') !== 'not asked'))
	);
	const others = $derived(facts.filter((f) => !columns.includes(f)));
	const names = $derived(Object.fromEntries(facts.map((f) => [f.code, f.name])));
	const says = $derived(ruleSentence(rules, numbers, names));
</script>

{#snippet choice(step: string, what: string, value: How, set: (how: How) => void)}
	<td
		>{#if readonly}<span class:soft={value === 'not asked'}>{value}</span>{:else}<select
				class="plain {value.replace(' ', '-')}"
				aria-label="{what} at {step}"
				{value}
				onchange={(e) => set(e.currentTarget.value as How)}
				>{#each HOWS as v (v)}<option>{v}</option>{/each}</select
			>{/if}</td
	>
{/snippet}

<p class="says">{says || 'It asks nothing.'}</p>
{#if !readonly}
	<div class="fields start">
		<label class="field"
			>Start from<select
				class="plain"
				value=""
				onchange={(e) => {
					if (e.currentTarget.value) rules = startFrom(e.currentTarget.value as Start, carries, rules);
					e.currentTarget.value = '';
				}}
				><option value="">choose a rule to start from</option
				>{#each STARTS.filter((x) => numbers.length === 2 || !x.startsWith('lot everywhere')) as x (x)}<option value={x}
						>{x}</option
					>{/each}</select
			></label
		>
		<label class="field"
			>Ask a fact too<select
				class="plain"
				value=""
				disabled={!others.length}
				onchange={(e) => {
					if (e.currentTarget.value) added.push(e.currentTarget.value);
					e.currentTarget.value = '';
				}}
				><option value="">{others.length ? 'choose a fact' : 'no other fact is defined'}</option
				>{#each others as f (f.code)}<option value={f.code}>{f.name}</option>{/each}</select
			></label
		>
	</div>
{/if}
<div class="wide">
	<table class="rows">
		<thead
			><tr
				><th>At</th>{#each numbers as n (n)}<th>{n}</th>{/each}<th>expiry</th>{#each columns as f (f.code)}<th
						>{f.name}</th
					>{/each}</tr
			></thead
		>
		<tbody>
			{#each rules as r (r.step)}
				<tr
					><td>{r.step}</td>
					{#each numbers as n (n)}{@render choice(r.step, n, r[n], (how) => (r[n] = how))}{/each}
					{@render choice(r.step, 'expiry', r.expiry, (how) => (r.expiry = how))}
					{#each columns as f (f.code)}{@render choice(
							r.step,
							f.name,
							r.facts[f.code] ?? 'not asked',
							(how) => (r.facts = { ...r.facts, [f.code]: how })
						)}{/each}
				</tr>
			{/each}
		</tbody>
	</table>
</div>

<style>
	.start {
		margin: 0 0 0.5rem;
	}
	.wide {
		overflow-x: auto;
	}
	.rows th,
	.rows td {
		padding: 0 0.4rem;
	}
	td:first-child {
		white-space: nowrap;
	}
	td .plain {
		height: 26px;
	}
	/* What is asked stands out; what is not steps back. */
	.not-asked {
		color: var(--ink-soft);
		border-color: transparent;
	}
	.required {
		font-weight: 600;
	}
</style>
