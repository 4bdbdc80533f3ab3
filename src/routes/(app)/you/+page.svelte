<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { DATE_LANGUAGES } from '$lib/core/dates/language';
	import { showDay, showWhen } from '$lib/ui/dates';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import OwnPassword from '$lib/ui/shell/OwnPassword.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const others = $derived(data.sessions.filter((s) => !s.here).length);
</script>

<svelte:head><title>You · Earmark</title></svelte:head>
<h1>{data.person.name}</h1>
<p class="soft">Signs in as <span class="mono">{data.login}</span>, {data.person.role}.</p>
<Said {form} />
<section class="panel">
	<h2>Password</h2>
	<form method="POST" action="?/password" class="fields" use:enhance>
		<OwnPassword label="Current password" verb="Change password" />
	</form>
	<p class="soft">Changing it signs you out everywhere else.</p>
</section>
<section class="panel">
	<h2>Dates</h2>
	<form method="POST" action="?/dates" class="fields">
		<Choose label="Language" name="dates" value={data.dates} options={Object.entries(DATE_LANGUAGES)} />
		<Button size="small" kind="tertiary" type="submit">Use this language</Button>
	</form>
	<p class="soft">
		Today is {showDay(data.today)}. Lists and fields show dates in this language, sentences and papers in English. Dates
		can be typed in any of these languages.
	</p>
</section>
<section class="panel">
	<h2>Where you are signed in</h2>
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Since</TableHeader><TableHeader>Until</TableHeader><TableHeader>Browser</TableHeader><TableHeader
					>From</TableHeader
				><TableHeader><span class="visually-hidden">Sign out</span></TableHeader></TableRow
			></TableHead
		>
		<TableBody>
			{#each data.sessions as s (s.id)}<TableRow
					><TableCell>{showWhen(s.since)}</TableCell><TableCell>{showWhen(s.until)}</TableCell><TableCell
						>{s.browser || 'not known'}</TableCell
					><TableCell class="mono">{s.address || 'not known'}</TableCell><TableCell
						>{#if s.here}here{:else}<form method="POST" action="?/end" use:enhance>
								<Hidden name="session" value={s.id} />
								<Button kind="ghost" size="small" class="link" type="submit"
									>Sign out<span class="visually-hidden"> the session since {showWhen(s.since)}</span></Button
								>
							</form>{/if}</TableCell
					></TableRow
				>{/each}
		</TableBody>
	</Table>
	{#if others}
		<form method="POST" action="?/end" use:enhance>
			<Button kind="tertiary" size="small" type="submit">Sign out everywhere else</Button>
		</form>
	{/if}
</section>

<style>
	section {
		max-width: 60rem;
		padding: 0.75rem 1rem 1rem;
		margin-top: 1rem;
	}
	section > form {
		margin-top: 0.75rem;
	}
	section > p {
		margin: 0.5rem 0 0;
	}
</style>
