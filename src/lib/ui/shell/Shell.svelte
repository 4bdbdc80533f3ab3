<script lang="ts">
	import { Button, SkipToContent } from 'carbon-components-svelte';
	import { onMount, type Component, type Snippet } from 'svelte';
	import { page } from '$app/state';
	import Calendar from 'carbon-icons-svelte/lib/Calendar.svelte';
	import Download from 'carbon-icons-svelte/lib/Download.svelte';
	import Upload from 'carbon-icons-svelte/lib/Upload.svelte';
	import Industry from 'carbon-icons-svelte/lib/Industry.svelte';
	import InventoryManagement from 'carbon-icons-svelte/lib/InventoryManagement.svelte';
	import User from 'carbon-icons-svelte/lib/User.svelte';
	import Tag from 'carbon-icons-svelte/lib/Tag.svelte';
	import FlowConnection from 'carbon-icons-svelte/lib/FlowConnection.svelte';
	import Settings from 'carbon-icons-svelte/lib/Settings.svelte';
	import { can } from '$lib/core/people/can';
	import { holdFocus } from './focus';
	import ScanLine from './ScanLine.svelte';
	import Keys from './Keys.svelte';
	import Camera from '../scan/Camera.svelte';
	import Scanner from '../devices/Scanner.svelte';
	import Wedge from '../scan/Wedge.svelte';

	interface Props {
		person: { name: string; role: string };
		/** what waits, by area */
		waiting: Record<string, number>;
		/** the time zone of the times shown */
		zone: string;
		children: Snippet;
	}
	let { person, waiting, zone, children }: Props = $props();
	const setup = $derived(
		(
			[
				'write items',
				'write places and partners',
				'write orders',
				'manage people',
				'manage tokens',
				'see the ledger'
			] as const
		).some((v) => can(person.role, v))
	);
	const areas = $derived<{ url: string; name: string; icon: Component; n: number }[]>([
		{ url: '/', name: 'Today', icon: Calendar, n: 0 },
		{ url: '/inbound', name: 'Inbound', icon: Download, n: waiting.inbound },
		{ url: '/production', name: 'Production', icon: Industry, n: waiting.production },
		{ url: '/outbound', name: 'Outbound', icon: Upload, n: waiting.outbound },
		{ url: '/stock', name: 'Stock', icon: InventoryManagement, n: waiting.stock },
		{ url: '/register', name: 'Register', icon: Tag, n: 0 },
		{ url: '/trace', name: 'Trace', icon: FlowConnection, n: 0 },
		...(setup ? [{ url: '/setup', name: 'Setup', icon: Settings, n: 0 }] : [])
	]);
	let scanner = $state(false);
	let camera = $state(false);
	// Offered only where there is one.
	let hasCamera = $state(false);
	onMount(holdFocus);
	onMount(async () => {
		const devices = (await navigator.mediaDevices?.enumerateDevices().catch(() => [])) ?? [];
		hasCamera = devices.some((d) => d.kind === 'videoinput');
	});
	const here = (url: string) => (url === '/' ? page.url.pathname === '/' : page.url.pathname.startsWith(url));
</script>

<Wedge />
<SkipToContent href="#work">To the work area</SkipToContent>
<header>
	<a class="brand" href="/"
		><svg viewBox="0 0 24 16" width="20" height="14" aria-hidden="true"
			><path d="M1 1h15a7 7 0 0 1 0 14H1z" fill="#f0a30a" /><circle cx="6" cy="8" r="2.4" fill="#14202a" /></svg
		>Earmark</a
	>
	<ScanLine />
	<a class="out device" href="/devices">Devices</a>
	<Button
		kind="ghost"
		size="small"
		class="link out device"
		aria-expanded={scanner}
		on:click={() => (scanner = !scanner)}>Scanner</Button
	>
	{#if hasCamera}<Button
			kind="ghost"
			size="small"
			class="link out"
			aria-expanded={camera}
			on:click={() => (camera = !camera)}>Camera</Button
		>{/if}
	<Keys />
	<a class="who" href="/you" title="You: password, sessions. Times are those of {zone}, or of a document’s site"
		><User size={20} /><span class="name">{person.name}<span class="role">{person.role} · {zone}</span></span></a
	>
	<form method="POST" action="/sign-out">
		<Button kind="ghost" size="small" class="link out" type="submit">Sign out</Button>
	</form>
</header>
<nav aria-label="Areas">
	{#each areas as a (a.url)}
		<a href={a.url} aria-current={here(a.url) ? 'page' : undefined}>
			<a.icon size={20} />{a.name}{#if a.n}<span class="n" title="{a.n} wait for you">{a.n}</span>{/if}
		</a>
	{/each}
</nav>
{#if scanner}<Scanner />{/if}
{#if camera}<Camera onclose={() => (camera = false)} />{/if}
<main id="work" class:scanner tabindex="-1">{@render children()}</main>

<style>
	header {
		position: fixed;
		inset: 0 0 auto 0;
		z-index: 20;
		height: 48px;
		display: flex;
		align-items: center;
		gap: 1.25rem;
		padding: 0 1rem;
		background: var(--bar);
		color: #fff;
	}
	.brand {
		display: flex;
		align-items: center;
		gap: 0.5rem;
		width: 168px;
		color: #fff;
		font-weight: 600;
		font-size: 1rem;
		text-decoration: none;
	}
	.who {
		display: flex;
		align-items: center;
		gap: 0.5rem;
		margin-left: auto;
		line-height: 1.15;
		font-size: 0.8125rem;
		color: #fff;
		text-decoration: none;
	}
	.who:hover .name {
		text-decoration: underline;
	}
	.role {
		display: block;
		font-size: 0.6875rem;
		color: #c3ced6;
	}
	header :global(.out.bx--btn),
	.out {
		border: 1px solid #7d8a95;
		background: none;
		color: #fff;
		font-size: 0.8125rem;
		min-height: 28px;
		height: 28px;
		padding: 0 0.6rem;
		white-space: nowrap;
		display: inline-flex;
		align-items: center;
		text-decoration: none;
		box-sizing: border-box;
	}
	header :global(.out.bx--btn:hover) {
		color: #fff;
		background: #2b3c4a;
		text-decoration: none;
	}
	header :global(:focus-visible) {
		outline: 2px solid #fff;
		outline-offset: 1px;
		box-shadow: none;
	}
	nav {
		position: fixed;
		inset: 48px auto 0 0;
		width: 72px;
		background: var(--paper);
		border-right: 1px solid var(--rule);
		z-index: 10;
	}
	nav a {
		position: relative;
		display: flex;
		flex-direction: column;
		align-items: center;
		gap: 3px;
		padding: 8px 0 7px;
		font-size: 0.75rem;
		color: var(--ink-soft);
		text-decoration: none;
		border-left: 3px solid transparent;
	}
	nav a[aria-current] {
		color: var(--ink);
		font-weight: 600;
		border-left-color: var(--amber);
		background: var(--ground);
	}
	nav a:hover {
		color: var(--ink);
	}
	.n {
		position: absolute;
		top: 3px;
		left: 42px;
		min-width: 16px;
		padding: 0 3px;
		box-sizing: border-box;
		border-radius: 8px;
		background: var(--amber);
		color: #14202a;
		font-size: 0.6875rem;
		font-weight: 600;
		line-height: 16px;
		text-align: center;
	}
	main {
		margin: 48px 0 0 72px;
		padding: 1rem 1.5rem 5rem;
		min-height: calc(100vh - 48px);
		box-sizing: border-box;
		outline: none;
	}
	main.scanner {
		padding-right: calc(230px + 1rem);
	}
	main.scanner :global(.foot) {
		right: 230px;
	}
	@media (max-width: 640px) {
		header {
			gap: 0.5rem;
			padding: 0 0.5rem;
		}
		.brand {
			width: auto;
			font-size: 0;
		}
		.name {
			position: absolute;
			width: 1px;
			height: 1px;
			overflow: hidden;
			clip-path: inset(50%);
		}
		nav {
			inset: 48px 0 auto 0;
			width: auto;
			display: flex;
			overflow-x: auto;
			border-right: 0;
			border-bottom: 1px solid var(--rule);
		}
		nav a {
			flex: 1 0 64px;
			border-left: 0;
			border-bottom: 3px solid transparent;
		}
		nav a[aria-current] {
			border-bottom-color: var(--amber);
		}
		main {
			margin: 108px 0 0;
			padding: 0.75rem 0.75rem 9rem;
		}
	}
</style>
