<script lang="ts">
	// What came of the units that an operation started, a bar each: passed first time, reworked, scrapped.
	import { onMount } from 'svelte';
	import type { Chart as Drawing } from 'chart.js';
	interface Row {
		name: string;
		started: number;
		passedFirst: number;
		reworked: number;
		scrapped: number;
	}
	let { rows }: { rows: readonly Row[] } = $props();
	let canvas: HTMLCanvasElement;
	let drawn = $state.raw<Drawing>();
	const said = $derived(
		rows
			.map(
				(r) =>
					`${r.name}: ${r.passedFirst} of ${r.started} passed first time, ${r.reworked} reworked, ${r.scrapped} scrapped`
			)
			.join('; ')
	);
	/** Only this view draws: what it draws with comes when it is there. */
	async function draw() {
		const { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } = await import('chart.js');
		Chart.register(BarController, BarElement, CategoryScale, LinearScale, Legend, Tooltip);
		Chart.defaults.font.family = 'IBM Plex Sans, sans-serif';
		const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
		const chart = new Chart(canvas, {
			type: 'bar',
			data: {
				labels: rows.map((r) => r.name),
				datasets: (
					[
						['Passed first time', 'passedFirst', '--green'],
						['Reworked', 'reworked', '--amber'],
						['Scrapped', 'scrapped', '--red']
					] as const
				).map(([label, key, tone]) => ({
					label,
					data: rows.map((r) => r[key]),
					backgroundColor: colour(tone),
					barThickness: 18
				}))
			},
			options: {
				indexAxis: 'y',
				animation: false,
				maintainAspectRatio: false,
				scales: {
					x: { stacked: true, ticks: { precision: 0, color: colour('--ink-soft') }, grid: { color: colour('--rule') } },
					y: { stacked: true, ticks: { color: colour('--ink') }, grid: { display: false } }
				},
				plugins: { legend: { position: 'bottom', labels: { color: colour('--ink'), boxWidth: 12 } } }
			}
		});
		drawn = chart;
	}
	onMount(() => {
		void draw();
		return () => drawn?.destroy();
	});
	$effect(() => {
		if (!drawn) return;
		drawn.data.labels = rows.map((r) => r.name);
		for (const [i, key] of (['passedFirst', 'reworked', 'scrapped'] as const).entries())
			drawn.data.datasets[i].data = rows.map((r) => r[key]);
		drawn.update();
	});
</script>

<div class="chart" role="img" aria-label={said} style="height: {80 + rows.length * 34}px">
	<canvas bind:this={canvas}></canvas>
</div>

<style>
	.chart {
		position: relative;
		max-width: 56rem;
	}
</style>
