<script lang="ts">
	// A message as it arrived in the mailbox, with its attachments.
	import { showWhen } from '$lib/ui/dates';
	import { grouped } from '$lib/core/quantity/sign';
	let { data } = $props();
	const m = $derived(data.message);
</script>

<svelte:head><title>{m.subject} · Mailbox · Earmark</title></svelte:head>
<section class="panel">
	<h2>{m.subject}</h2>
	<dl class="details" style="--term:6rem">
		<dt>From</dt>
		<dd>{m.from}</dd>
		<dt>To</dt>
		<dd>{m.to}</dd>
		<dt>Arrived</dt>
		<dd>{showWhen(m.at)}</dd>
		{#if m.attachments.length}<dt>Attached</dt>
			<dd>
				{#each m.attachments as a, n (n)}<div>
						<a href="/devices/mail/{m.id}/{n}" download={a.name}>{a.name}</a>
						<span class="soft">{grouped(a.size)} bytes</span>
					</div>{/each}
			</dd>{/if}
	</dl>
	<p class="text">{m.text}</p>
	<p><a href="/devices/mail">Back to the mailbox</a></p>
</section>

<style>
	section {
		padding: 0.75rem;
		max-width: 60rem;
	}
	.text {
		white-space: pre-wrap;
		overflow-wrap: anywhere;
		border-top: 1px solid var(--rule);
		padding-top: 0.75rem;
	}
</style>
