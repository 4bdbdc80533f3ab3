<script lang="ts">
	import Duration from '$lib/ui/fields/Duration.svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Quantity from '$lib/ui/fields/Quantity.svelte';
	import Seek from '$lib/ui/fields/Seek.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import type { Rule } from '$lib/core/marking/rule';
	import Means from '$lib/ui/setup/Means.svelte';
	import RuleTable from '$lib/ui/setup/RuleTable.svelte';
	import { enhance } from '$app/forms';
	import FilePick from '$lib/ui/files/FilePick.svelte';
	import { PREFERENCE_CHOICES } from '$lib/ui/setup/preferences';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	let { data, form } = $props();
	const i = $derived(data.item);
	// svelte-ignore state_referenced_locally
	let rules = $state<Rule[]>(data.item.rules);
	// svelte-ignore state_referenced_locally
	let kind = $state(data.item.kind ?? '');
	// svelte-ignore state_referenced_locally
	let own = $state(data.item.ownRule ? 'yes' : 'no');
	const means = $derived(form && 'means' in form ? (form.means as string[]) : null);
	// What was shown holds only for the rule that it was shown for.
	const about = $derived(JSON.stringify([kind || null, own === 'yes' || !kind, rules]));
	const confirmed = $derived(form && 'about' in form && form.about === about ? about : '');
	// svelte-ignore state_referenced_locally
	let parts = $state(data.item.parts.map((p) => ({ item: p.item, qty: p.qty })));
	// svelte-ignore state_referenced_locally
	let byproducts = $state(data.item.byproducts.map((p) => ({ item: p.item, qty: p.qty })));
	const lists = $derived([
		{ rows: parts, title: 'Parts list', word: 'part', none: 'It is bought, not made.' },
		...(i.runMode === 'pooled' && (i.parts.length || parts.length)
			? [{ rows: byproducts, title: 'What comes out beside it', word: 'by-product', none: 'Nothing else comes out.' }]
			: [])
	]);
	const numbers = $derived((['lot', 'serial'] as const).filter((n) => i.tracking.includes(n)));
	/** What it may carry besides: numbers are only added. */
	const wider = $derived<[string, string][]>(
		(
			[
				['lot', 'lot'],
				['serial', 'serial'],
				['lot and serial', 'lot and serial']
			] as const
		)
			.filter(([t]) => t !== i.tracking && (i.tracking === 'none' || t === 'lot and serial'))
			.filter(([t]) => i.tracking !== 'lot and serial' && (!t.includes('serial') || !i.decimals))
			.map(([t, says]) => [t, `from now on ${says}`])
	);
	const cap = (word: string) => word[0].toUpperCase() + word.slice(1);
	const name = (code: string) => data.all.find((x) => x.code === code);
</script>

{#snippet days(label: string, name: string, value: number | null, placeholder: string)}
	<Text
		{label}
		{name}
		value={value === null ? '' : String(value)}
		{placeholder}
		inputmode="numeric"
		num
		ch={8}
		maxlength="6"
	/>
{/snippet}
<KeptForm {form} action="?/save">
	<div class="head">
		<h2 class="mono">{i.code}</h2>
		<span class="soft"
			>carries {i.tracking === 'none' ? 'no number' : i.tracking} · base unit {i.unit}{i.decimals
				? ` with ${i.decimals} decimals`
				: ', whole'} · {i.runMode === 'unit' ? 'made one by one' : 'made as one batch'}</span
		>
		{#if i.tracking.includes('serial')}<a class="push" href="/setup/items/{encodeURIComponent(i.code)}/route"
				>Route on the floor</a
			>{/if}
	</div>
	<Hidden name="confirmed" value={confirmed} />
	<Hidden name="rules" value={JSON.stringify(rules)} />
	<Hidden name="parts" value={JSON.stringify(parts.filter((p) => p.item || p.qty))} />
	<Hidden name="byproducts" value={JSON.stringify(byproducts.filter((p) => p.item || p.qty))} />
	<div class="panel fields">
		<Text label="Name" ch={30} name="name" value={i.name} required maxlength="1000" />
		{#if wider.length}<Choose
				label="Carries"
				name="tracking"
				options={[[i.tracking, i.tracking === 'none' ? 'no number' : i.tracking], ...wider]}
				value={i.tracking}
			/>{/if}
		<Duration label="Shelf life" name="shelfLife" value={i.shelfLife} />
		<Choose
			label="Worked out to"
			name="endOfMonth"
			options={[
				['no', 'the day'],
				['yes', 'the end of its month']
			]}
			value={i.endOfMonth ? 'yes' : 'no'}
		/>
		{#if i.parts.length && numbers.length}<Choose
				label="Made, it expires by"
				name="expiryFrom"
				options={[
					['life', 'its own shelf life'],
					['parts', 'the first date of what goes in'],
					['earlier', 'the earlier of both']
				]}
				value={i.expiryFrom}
			/>{/if}
		<Duration label="Left at receipt, at least" name="leastLeft" value={i.leastLeft} />
		{@render days('Days left at shipment', 'minimumDaysLeft', i.minimumDaysLeft, 'any')}
		{@render days('Early notice, days before expiry', 'earlyNotice', i.earlyNotice, '30')}
		<Choose
			label="Taken first"
			name="preference"
			options={[['', 'as the site or firm does'], ...PREFERENCE_CHOICES]}
			value={i.preference ?? ''}
		/>
		<Choose
			label="Lots"
			name="oneLot"
			options={[
				['no', 'as they come'],
				['yes', 'as few as can be']
			]}
			value={i.oneLot ? 'yes' : 'no'}
		/>
		<Duration label="Warranty from shipment" name="warranty" value={i.warranty} />
		<Text
			label="GTIN, from the label"
			mono
			ch={15}
			name="gtin"
			value={i.gtin ?? ''}
			maxlength="100"
			inputmode="numeric"
		/>
		<Button type="submit" size="small">Save</Button>
	</div>
	{#if numbers.length}
		<div class="panel fields">
			{#each numbers as n (n)}
				{@const chosen = n === 'lot' ? i.lotPattern : i.serialPattern}
				<Choose
					label={n === 'lot' ? 'Lots are drawn from' : 'Serials are drawn from'}
					name="{n}Pattern"
					options={[
						['', 'no pattern: typed or scanned'],
						...data.patterns.map((p) => [p.code, `${p.code}: ${p.like}`] as const)
					]}
					value={chosen ?? ''}
				/>
			{/each}
			<Choose
				label="Drawn"
				name="drawnAt"
				options={[
					['sheet', 'in the sheet'],
					['release', 'when the order is released']
				]}
				value={i.drawnAt}
			/>
			<Choose
				label="The supplier’s number"
				name="supplierNumber"
				options={[
					['beside', 'is kept beside ours'],
					['printed', 'is kept, and printed on labels'],
					['ours', 'is used as ours']
				]}
				value={i.supplierNumber}
			/>
			<Choose
				label="A number that does not fit"
				name="misfit"
				options={[
					['stop', 'cannot be booked'],
					['reason', 'wants a reason'],
					['note', 'is only noted']
				]}
				value={i.misfit}
			/>
			{#if i.runMode === 'unit'}<Choose
					label="Put together at a station"
					name="review"
					options={[
						['no', 'is booked at once'],
						['yes', 'waits for a review']
					]}
					value={i.review ? 'yes' : 'no'}
				/>{/if}
		</div>
	{/if}
	<div class="panel fields">
		<Quantity label="One {i.unit} holds" name="contentQty" ch={8} value={i.contentQty} />
		<Text
			label="of, to repack it"
			name="contentUnit"
			ch={6}
			value={i.contentUnit ?? ''}
			placeholder="kg"
			maxlength="20"
		/>
		<Quantity
			label="Loss without a reason, %"
			name="lossTolerance"
			ch={6}
			value={i.lossTolerance === '0' ? '' : i.lossTolerance}
			placeholder="0"
		/>
		{#each [['net', 'Net, kg'], ['gross', 'Gross, kg'], ['length', 'Length, cm'], ['width', 'Width, cm'], ['height', 'Height, cm']] as [m, label] (m)}
			<Quantity {label} name={m} ch={6} value={i.measures[m as 'net']} />
		{/each}
		<Quantity
			label="Volumetric, kg"
			name="volumetric"
			ch={11}
			value={i.measures.volumetric}
			placeholder="from its size"
		/>
	</div>
	{#if means && confirmed}<Means {means} />{/if}
	<div class="two">
		<section class="panel">
			<h2>Marking rule</h2>
			{#if numbers.length}
				<div class="fields whose">
					<Choose
						label="Kind of item"
						name="kind"
						options={[['', 'none'], ...data.kinds.map((k) => [k.code, k.name] as const)]}
						bind:value={kind}
					/>
					<Choose
						label="Goes by"
						name="ownRule"
						options={[['yes', 'a rule of its own'], ...(kind ? [['no', 'the rule of its kind'] as const] : [])]}
						bind:value={own}
					/>
				</div>
				{#if own === 'no' && kind}<p>
						The rule of <a href="/setup/kinds/{encodeURIComponent(kind)}"
							>{data.kinds.find((k) => k.code === kind)?.name}</a
						> counts; change it there, for all items of the kind.
					</p>
					{#if kind === i.kind && !i.ownRule}<RuleTable
							rules={i.rules}
							carries={i.tracking}
							facts={data.facts}
							readonly
						/>{/if}
				{:else}<RuleTable bind:rules carries={i.tracking} facts={data.facts} />{/if}
			{:else}<p class="soft">
					This item carries no number: it is kept as unmarked stock, and a trace says so as a gap.
				</p>{/if}
		</section>
		<div class="lists">
			{#each lists as { rows, title, word, none } (title)}
				<section class="panel">
					<h2>{title}, for one {i.unit}</h2>
					<Table size="short">
						<TableHead
							><TableRow
								><TableHeader>Item</TableHeader><TableHeader class="num">Quantity</TableHeader><TableHeader
									>Unit</TableHeader
								><TableHeader><span class="visually-hidden">What can be done</span></TableHeader></TableRow
							></TableHead
						>
						<TableBody>
							{#each rows as p, n (p)}
								<TableRow>
									<TableCell
										><Seek
											label="{cap(word)} {n + 1}"
											hide
											options={data.all.map((x) => [x.code, x.name] as const)}
											bind:value={p.item}
										/>
										<span class="soft">{name(p.item)?.name ?? ''}</span></TableCell
									>
									<TableCell class="num"
										><Quantity label="Quantity of {word} {n + 1}" hide ch={8} bind:value={p.qty} /></TableCell
									>
									<TableCell class="soft">{name(p.item)?.unit ?? ''}</TableCell>
									<TableCell class="num"
										><Button kind="ghost" size="small" class="link" on:click={() => rows.splice(n, 1)}>Remove</Button
										></TableCell
									>
								</TableRow>
							{:else}<TableRow><TableCell colspan={4} class="soft">{none}</TableCell></TableRow>{/each}
						</TableBody>
					</Table>
					<p>
						<Button kind="ghost" size="small" class="link" on:click={() => rows.push({ item: '', qty: '1' })}
							>Add a {word}</Button
						>
					</p>
				</section>
			{/each}
		</div>
	</div>
</KeptForm>
<section class="panel picture">
	<h2>Picture</h2>
	{#if i.picture}<img src="/files/{i.picture}" alt={i.name} />{/if}
	<form method="POST" action="?/picture" enctype="multipart/form-data" use:enhance>
		<FilePick label={i.picture ? 'Choose another picture' : 'Choose a picture'} name="file" accept=".png,.jpg,.jpeg" />
		<Button kind="tertiary" size="small" type="submit">Keep picture</Button>
	</form>
	{#if i.picture}<form method="POST" action="?/noPicture" use:enhance>
			<Button kind="ghost" size="small" type="submit">Take it away</Button>
		</form>{/if}
	<p class="soft">Shown where people check by eye: at the station, when goods are picked, and when they arrive.</p>
</section>
<History changes={data.history} />

<style>
	.picture {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.75rem 1.5rem;
		margin: 0.75rem 0;
	}
	.picture h2,
	.picture p {
		margin: 0;
	}
	.picture form {
		display: flex;
		align-items: end;
		gap: 0.5rem;
	}
	img {
		width: 96px;
		height: 96px;
		object-fit: contain;
	}
	.fields {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.two {
		display: grid;
		grid-template-columns: 7fr 4fr;
		gap: 0.75rem;
		align-items: start;
	}
	.lists {
		display: grid;
		gap: 0.75rem;
		min-width: 0;
	}
	.fields.whose {
		padding: 0;
		margin-bottom: 0.5rem;
	}
	section {
		padding: 0.6rem 0.75rem;
		min-width: 0;
		position: relative;
		overflow-x: auto;
	}
	@media (max-width: 640px) {
		.two {
			grid-template-columns: 1fr;
		}
	}
</style>
