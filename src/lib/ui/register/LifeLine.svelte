<script lang="ts">
	import { showWhen } from '$lib/ui/dates';
	// A life from left to right: one dot an event, the place it was in as bands below.
	interface Event {
		id: string;
		at: string;
		kind: string;
		/** what it did */
		did: string;
		undone: boolean;
		undoes: string | null;
		qty: string | null;
		from: string | null;
		to: string | null;
		document: string | null;
		change: string | null;
	}
	let { life, number }: { life: Event[]; number: string } = $props();
	const time = (at: string) => Date.parse(at.replace(' ', 'T') + 'Z');
	const valid = $derived(life.filter((e) => !e.undone && !e.undoes));
	const start = $derived(valid.length ? time(valid[0].at) : 0);
	const end = $derived(Math.max(Date.now(), start + 86_400_000));
	const x = (t: number) => ((t - start) / (end - start)) * 94 + 2;
	/** Dots at one time stand side by side; a crowd is one dot with its count. */
	const dots = $derived.by(() => {
		const out: { x: number; kind: string; at: string; n: number; title: string }[] = [];
		for (const e of valid) {
			const at = x(time(e.at));
			const last = out[out.length - 1];
			if (last && at - last.x < 1.6) {
				last.n++;
				if (!last.kind.includes(e.kind)) last.kind += `, ${e.kind}`;
				last.title += `; ${e.did} ${e.document ?? ''}`;
			} else out.push({ x: at, kind: e.kind, at: e.at, n: 1, title: `${showWhen(e.at)} ${e.did} ${e.document ?? ''}` });
		}
		return out;
	});
	/** When something of it stood at each place. */
	const bands = $derived.by(() => {
		const stock = new Map<string, number>();
		const open = new Map<string, number>();
		const out: { place: string; from: number; to: number }[] = [];
		for (const e of valid) {
			if (!e.qty) continue;
			for (const [place, sign] of [
				[e.from!, -1],
				[e.to!, 1]
			] as const) {
				if (place.startsWith('@')) continue;
				const n = (stock.get(place) ?? 0) + sign * Number(e.qty);
				stock.set(place, n);
				if (n > 1e-9 && !open.has(place)) open.set(place, time(e.at));
				if (n <= 1e-9 && open.has(place)) {
					out.push({ place, from: open.get(place)!, to: time(e.at) });
					open.delete(place);
				}
			}
		}
		for (const [place, from] of open) out.push({ place, from, to: end });
		return out;
	});
	const rows = $derived([...new Set(bands.map((b) => b.place))].slice(0, 6));
	const day = (t: number) => showWhen(new Date(t).toISOString().slice(0, 10));
	const showLabel = (i: number) => i === 0 || dots[i].x - dots[i - 1].x > 11;
</script>

{#if valid.length}
	<figure class="panel" aria-label="Life of {number}, {valid.length} {valid.length === 1 ? 'event' : 'events'}">
		<!-- What a screen reader hears in place of the picture: each event in its order, then where it stood. -->
		<ol class="visually-hidden">
			{#each dots as d, i (i)}<li>{d.title}</li>{/each}
			{#each bands as b, i (i)}<li>
					at {b.place} from {day(b.from)}{b.to === end ? ' until now' : ` to ${day(b.to)}`}
				</li>{/each}
		</ol>
		<div class="axis" aria-hidden="true">
			{#each dots as d, i (i)}
				<span class="dot" style="left:{d.x}%" title={d.title}>{d.n > 1 ? d.n : ''}</span>
				{#if showLabel(i)}<span class="label" style="left:{d.x}%"
						>{d.kind}<br /><span class="soft">{showWhen(d.at.slice(0, 10))}</span></span
					>{/if}
			{/each}
		</div>
		{#each rows as place (place)}
			<div class="track" aria-hidden="true">
				{#each bands.filter((b) => b.place === place) as b, i (i)}<span
						class="band"
						style="left:{x(b.from)}%;width:{Math.max(0.6, x(b.to) - x(b.from))}%"
						title={place}><span class="name">{i === 0 ? place : ''}</span></span
					>{/each}
			</div>
		{/each}
	</figure>
{/if}

<style>
	figure {
		margin: 0 0 0.75rem;
		padding: 0.6rem 0 0.5rem;
		overflow: hidden;
	}
	.axis {
		position: relative;
		height: 58px;
	}
	.axis::before {
		content: '';
		position: absolute;
		left: 2%;
		right: 2%;
		top: 9px;
		border-top: 1px solid var(--tag-rule);
	}
	.dot {
		position: absolute;
		top: 1px;
		min-width: 16px;
		height: 16px;
		margin-left: -8px;
		border-radius: 8px;
		background: var(--ink);
		color: var(--paper);
		font-size: 0.6875rem;
		line-height: 16px;
		text-align: center;
	}
	.label {
		position: absolute;
		top: 20px;
		font-size: 0.75rem;
		line-height: 1.25;
		white-space: nowrap;
		margin-left: -8px;
	}
	.track {
		position: relative;
		height: 18px;
		margin-bottom: 3px;
	}
	.band {
		position: absolute;
		top: 0;
		height: 18px;
		background: var(--tag);
		border-left: 2px solid var(--amber);
	}
	.name {
		font-family: var(--mono);
		font-size: 0.75rem;
		padding-left: 0.3rem;
		line-height: 18px;
		white-space: nowrap;
	}
</style>
