<script lang="ts">
	// A field to sign in, with a finger, a pen or the mouse.
	import { onMount } from 'svelte';
	import SignaturePad from 'signature_pad';
	import { Button } from 'carbon-components-svelte';
	import { FIELD, isSigned, type Stroke } from '$lib/core/sheet/ink';
	let { strokes = $bindable([]) }: { strokes?: Stroke[] } = $props();
	let canvas: HTMLCanvasElement;
	let pad: SignaturePad | null = null;

	function read() {
		// As it lies in a field of full width, whatever width this screen has for it.
		const scale = FIELD.width / canvas.clientWidth;
		strokes = (pad?.toData() ?? []).map((s) => s.points.map((p) => ({ x: p.x * scale, y: p.y * scale })));
	}
	onMount(() => {
		const fine = Math.max(devicePixelRatio, 1);
		canvas.width = canvas.clientWidth * fine;
		canvas.height = canvas.clientHeight * fine;
		canvas.getContext('2d')?.scale(fine, fine);
		pad = new SignaturePad(canvas, { penColor: '#14202a' });
		pad.addEventListener('endStroke', read);
		return () => pad?.off();
	});
	function clear() {
		pad?.clear();
		strokes = [];
	}
</script>

<div class="ink" role="group" aria-label="Signature" style="max-width: {FIELD.width}px">
	<span class="bx--label" aria-hidden="true">Signature</span>
	<canvas bind:this={canvas} style="aspect-ratio: {FIELD.width} / {FIELD.height}; max-width: {FIELD.width}px"></canvas>
	<span class="below">
		<span class="soft" aria-live="polite">{isSigned(strokes) ? 'Signed.' : 'Sign in the field.'}</span>
		<Button kind="ghost" size="small" class="link" on:click={clear}>Clear it</Button>
	</span>
</div>

<style>
	.ink {
		flex: 1 0 100%;
	}
	canvas {
		display: block;
		width: 100%;
		box-sizing: border-box;
		background: #fff;
		border: 1px solid var(--rule);
		border-bottom: 2px solid var(--ink);
		touch-action: none;
		cursor: crosshair;
	}
	.below {
		display: flex;
		justify-content: space-between;
		gap: 1rem;
		margin-top: 0.25rem;
	}
</style>
