<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	// The camera of this device as a scanner: what it reads goes where the cursor stands, as a hand scanner's codes do.
	import { onMount } from 'svelte';
	import { Steady } from '$lib/core/codes/steady';
	import { wedge } from '../devices/wedge';
	import { backToField } from './scanner';
	import Reader from './camera.worker?worker';

	let { onclose }: { onclose: () => void } = $props();
	let video: HTMLVideoElement;
	let said = $state('Waiting for the camera…');
	const why: Record<string, string> = {
		NotAllowedError: 'The browser may not use the camera. Allow it beside the address, and open this again.',
		NotFoundError: 'There is no camera here. Scan with a hand scanner, or type the number.',
		NotReadableError: 'Another program uses the camera. Close it there, and open this again.'
	};

	onMount(() => {
		const reader = new Reader();
		const steady = new Steady();
		const canvas = document.createElement('canvas');
		const brush = canvas.getContext('2d', { willReadFrequently: true })!;
		let stream: MediaStream | null = null;
		let timer: ReturnType<typeof setTimeout>;
		let open = true;
		function look() {
			if (!open) return;
			if (video.videoWidth) {
				// Half an HD picture is enough for a label, and read in time.
				const scale = Math.min(1, 960 / video.videoWidth);
				canvas.width = video.videoWidth * scale;
				canvas.height = video.videoHeight * scale;
				brush.drawImage(video, 0, 0, canvas.width, canvas.height);
				const picture = brush.getImageData(0, 0, canvas.width, canvas.height);
				reader.postMessage(picture, [picture.data.buffer]);
			} else timer = setTimeout(look, 100);
		}
		reader.onmessage = ({ data }: MessageEvent<string | null>) => {
			const text = steady.look(data, performance.now());
			if (text) {
				said = `Read ${text.replace(/^\][A-Za-z]\d/, '').replaceAll('\x1d', ' ')}`;
				backToField();
				void wedge(text);
			}
			timer = setTimeout(look, 120);
		};
		navigator.mediaDevices
			.getUserMedia({ video: { facingMode: 'environment', width: { ideal: 1280 } } })
			.then((s) => {
				stream = s;
				if (!open) return s.getTracks().forEach((t) => t.stop());
				video.srcObject = s;
				said = 'Hold a label before the camera.';
				look();
			})
			.catch((e: Error) => (said = why[e.name] ?? 'The camera could not be started. Scan with a hand scanner.'));
		return () => {
			open = false;
			clearTimeout(timer);
			reader.terminate();
			stream?.getTracks().forEach((t) => t.stop());
		};
	});
</script>

<aside aria-label="Camera">
	<!-- svelte-ignore a11y_media_has_caption -->
	<video bind:this={video} autoplay playsinline muted></video>
	<p role="status">{said}</p>
	<Button kind="tertiary" size="small" on:click={onclose}>Close the camera</Button>
</aside>

<style>
	aside {
		position: fixed;
		right: 1rem;
		bottom: 76px;
		z-index: 16;
		width: 300px;
		padding: 0.5rem;
		background: var(--paper);
		border: 1px solid var(--ink);
	}
	video {
		width: 100%;
		aspect-ratio: 4 / 3;
		object-fit: cover;
		background: #14202a;
	}
	p {
		margin: 0.35rem 0;
		font-size: 0.8125rem;
		overflow-wrap: anywhere;
	}
	@media (max-width: 640px) {
		aside {
			left: 0.5rem;
			right: 0.5rem;
			width: auto;
		}
	}
</style>
