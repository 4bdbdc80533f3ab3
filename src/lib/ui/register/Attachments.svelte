<script lang="ts">
	import { showWhen } from '$lib/ui/dates';
	import FilePick from '../files/FilePick.svelte';
	import { Button } from 'carbon-components-svelte';
	import Text from '../fields/Text.svelte';
	// Notes and files that people added to a lot or serial, each with who and when.
	import { enhance } from '$app/forms';
	interface Props {
		notes: { id: string; text: string; by: string; at: string }[];
		files: { id: string; name: string; size: number; by: string; at: string }[];
		may: boolean;
	}
	let { notes, files, may }: Props = $props();
	const size = (bytes: number) =>
		bytes < 1_000_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;
</script>

<section class="panel">
	<h2>Notes and files</h2>
	{#if may}
		<div class="add">
			<form method="POST" action="?/note" use:enhance>
				<Text label="Note" name="text" required maxlength="4000" />
				<Button kind="tertiary" size="small" type="submit">Add note</Button>
			</form>
			<form method="POST" action="?/file" enctype="multipart/form-data" use:enhance>
				<FilePick label="Choose a certificate or picture" name="file" accept=".pdf,.png,.jpg,.jpeg" />
				<Button kind="tertiary" size="small" type="submit">Add file</Button>
			</form>
		</div>
	{/if}
	<ul>
		{#each files as f (f.id)}<li>
				<a href="/files/{f.id}" target="_blank" rel="noopener">{f.name}</a>
				<span class="soft">{size(f.size)} · {f.by}, {showWhen(f.at)}</span>
			</li>{/each}
		{#each notes as n (n.id)}<li>{n.text} <span class="soft">{n.by}, {showWhen(n.at)}</span></li>{/each}
		{#if !files.length && !notes.length}<li class="soft">Nothing yet.</li>{/if}
	</ul>
</section>

<style>
	section {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.add {
		display: flex;
		flex-wrap: wrap;
		gap: 0.75rem 2rem;
	}
	form {
		display: flex;
		gap: 0.5rem;
		align-items: flex-end;
	}
	.add form:first-child {
		flex: 1;
	}
	ul {
		list-style: none;
		margin: 0.5rem 0 0;
		padding: 0;
	}
	li {
		padding: 0.25rem 0;
		border-top: 1px solid var(--rule);
		overflow-wrap: anywhere;
	}
</style>
