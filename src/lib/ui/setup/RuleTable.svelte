<script lang="ts">
	import Choose from '../fields/Choose.svelte';
	import { Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	// A marking rule as one table of steps by numbers, dates and facts, and said back in plain sentences.
	import {
		ENOUGH,
		HOWS,
		startFrom,
		STARTS,
		type Enough,
		type How,
		type Rule,
		type Tracking
	} from '$lib/core/marking/rule';
	import { ruleSentence } from '$lib/core/marking/sentence';
	interface Props {
		rules: Rule[];
		/** what the items that go by it carry */
		carries: Tracking;
		/** all facts that the firm has defined */
		facts: { code: string; name: string }[];
		readonly?: boolean;
	}
	const KNOWN_BY: Record<Enough, string> = { any: 'any', entered: 'scan or typing', scanned: 'scan only' };
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
	<TableCell
		>{#if readonly}<span class:soft={value === 'not asked'}>{value}</span>{:else}<Choose
				class={value.replace(' ', '-')}
				label="{what} at {step}"
				hide
				{value}
				options={HOWS}
				onpick={(v) => set(HOWS.find((h) => h === v) ?? 'not asked')}
			/>{/if}</TableCell
	>
{/snippet}

<p class="says">{says || 'It asks nothing.'}</p>
{#if !readonly}
	<div class="fields start">
		{#key rules}<Choose
				label="Start from"
				options={[
					['', 'choose a rule to start from'],
					...STARTS.filter((x) => numbers.length === 2 || !x.startsWith('lot everywhere'))
				]}
				onpick={(v) => {
					const start = STARTS.find((x) => x === v);
					if (start) rules = startFrom(start, carries, rules);
				}}
			/>{/key}
		{#key added.length}<Choose
				label="Ask another field too"
				disabled={!others.length}
				options={[
					['', others.length ? 'choose a field' : 'there is no other field'],
					...others.map((f) => [f.code, f.name] as const)
				]}
				onpick={(v) => v && added.push(v)}
			/>{/key}
	</div>
{/if}
<div class="wide">
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>At</TableHeader>{#each numbers as n (n)}<TableHeader>{n}</TableHeader>{/each}<TableHeader
					>number known by</TableHeader
				><TableHeader>expiry</TableHeader>{#each columns as f (f.code)}<TableHeader>{f.name}</TableHeader
					>{/each}</TableRow
			></TableHead
		>
		<TableBody>
			{#each rules as r (r.step)}
				<TableRow
					><TableCell>{r.step}</TableCell>
					{#each numbers as n (n)}{@render choice(r.step, n, r[n], (how) => (r[n] = how))}{/each}
					<TableCell
						>{#if readonly}<span class:soft={r.evidence === 'any'}>{KNOWN_BY[r.evidence]}</span>{:else}<Choose
								class={r.evidence === 'any' ? 'not-asked' : 'required'}
								label="number known by at {r.step}"
								hide
								value={r.evidence}
								options={ENOUGH.map((e) => [e, KNOWN_BY[e]] as const)}
								onpick={(v) => (r.evidence = ENOUGH.find((e) => e === v) ?? 'any')}
							/>{/if}</TableCell
					>
					{@render choice(r.step, 'expiry', r.expiry, (how) => (r.expiry = how))}
					{#each columns as f (f.code)}{@render choice(
							r.step,
							f.name,
							r.facts[f.code] ?? 'not asked',
							(how) => (r.facts = { ...r.facts, [f.code]: how })
						)}{/each}
				</TableRow>
			{/each}
		</TableBody>
	</Table>
</div>

<style>
	.start {
		margin: 0 0 0.5rem;
	}
	.wide {
		position: relative;
		overflow-x: auto;
	}
</style>
