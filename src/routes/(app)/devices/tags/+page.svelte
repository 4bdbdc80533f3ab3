<script lang="ts">
	// The simulated tag readers: put a tag before the antenna of a station, take it away, let it leave too soon.
	import { enhance } from '$app/forms';
	import { onMount } from 'svelte';
	import { invalidateAll } from '$app/navigation';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { showWhen } from '$lib/ui/dates';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const DID: Record<string, string> = {
		read: 'read',
		wrote: 'wrote, and it held',
		lost: 'lost it before the write held'
	};
	/** What a station did meanwhile is looked at this often, in ms. */
	const LOOK = 2000;
	onMount(() => {
		const timer = setInterval(() => document.visibilityState === 'visible' && void invalidateAll(), LOOK);
		return () => clearInterval(timer);
	});
</script>

<p class="soft">
	Each station has a reader. Open <a href="/station">the floor of a station</a> in another window: a tag that comes before
	its reader is read there, and each move is written into it and confirmed before it counts. With two tags before it, none
	is read.
</p>
<Said {form} />
<section class="panel">
	<h2>Tags</h2>
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Tag</TableHeader><TableHeader>It carries</TableHeader><TableHeader>EPC</TableHeader><TableHeader
					>It lies</TableHeader
				>{#if data.may}<TableHeader><span class="visually-hidden">What can be done</span></TableHeader>{/if}</TableRow
			></TableHead
		>
		<TableBody>
			{#each data.tags as t (t.id)}
				<TableRow>
					<TableCell class="mono">{t.name}</TableCell>
					<TableCell>{t.says || 'blank'}</TableCell>
					<TableCell class="mono small">{t.epc || (t.says ? 'our own text only' : '–')}</TableCell>
					<TableCell
						>{t.station ? `before the reader of ${t.station}` : 'out of range'}{t.leaves
							? ', and leaves before the next write is confirmed'
							: ''}</TableCell
					>
					{#if data.may}<TableCell
							><div class="acts">
								{#if t.station}
									<form method="POST" action="?/place" use:enhance>
										<Hidden name="tag" value={t.id} /><Hidden name="station" value="" />
										<Button type="submit" kind="ghost" size="small" class="link"
											>Take away<span class="visually-hidden"> {t.name}</span></Button
										>
									</form>
									<form method="POST" action="?/leaves" use:enhance>
										<Hidden name="tag" value={t.id} />
										<Button type="submit" kind="ghost" size="small" class="link" aria-pressed={t.leaves}
											>{t.leaves ? 'Let it stay' : 'Let it leave too soon'}<span class="visually-hidden">
												{t.name}</span
											></Button
										>
									</form>
								{:else}
									<form method="POST" action="?/place" use:enhance>
										<Hidden name="tag" value={t.id} />
										<Choose
											label="Reader for {t.name}"
											hide
											name="station"
											options={data.stations.map((s) => [s.code, s.name] as const)}
											value={data.stations[0]?.code}
										/>
										<Button type="submit" kind="ghost" size="small" class="link"
											>Put it there<span class="visually-hidden">: {t.name}</span></Button
										>
									</form>
								{/if}
							</div></TableCell
						>{/if}
				</TableRow>
			{:else}<TableRow><TableCell colspan={5} class="soft">No tag yet. Add a blank one.</TableCell></TableRow>{/each}
		</TableBody>
	</Table>
	{#if data.may}
		<form method="POST" action="?/add" class="fields add" use:enhance>
			<Text label="A blank tag, with this printed on it" name="name" mono ch={16} maxlength="40" required />
			<Button type="submit" size="small" kind="tertiary">Add it</Button>
		</form>
	{/if}
</section>
{#if data.maySet}
	<form method="POST" action="?/prefix" class="panel fields add prefix" use:enhance>
		<Text
			label="Digits of the firm’s GS1 company prefix"
			name="digits"
			num
			ch={4}
			value={String(data.digits)}
			maxlength="2"
		/>
		<Button type="submit" size="small" kind="tertiary">Save</Button>
		<span class="soft">A GTIN does not say where it ends; the code in a tag does.</span>
	</form>
{/if}
<section class="panel">
	<h2>What the readers did last</h2>
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>When</TableHeader><TableHeader>Reader</TableHeader><TableHeader>Tag</TableHeader><TableHeader
					>It</TableHeader
				><TableHeader>What stood there</TableHeader></TableRow
			></TableHead
		>
		<TableBody>
			{#each data.uses as u, i (i)}
				<TableRow
					><TableCell>{showWhen(u.at)}</TableCell><TableCell>{u.station}</TableCell><TableCell class="mono"
						>{u.tag}</TableCell
					><TableCell>{DID[u.did]}</TableCell><TableCell
						>{u.says || 'blank'} <span class="soft mono small">{u.epc}</span></TableCell
					></TableRow
				>
			{:else}<TableRow><TableCell colspan={5} class="soft">Nothing was read or written yet.</TableCell></TableRow
				>{/each}
		</TableBody>
	</Table>
</section>

<style>
	section {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
		position: relative;
		overflow-x: auto;
	}
	.acts,
	.acts form {
		display: flex;
		align-items: center;
		gap: 0.5rem 1.25rem;
	}
	.prefix {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.add {
		padding-top: 0.75rem;
	}
</style>
