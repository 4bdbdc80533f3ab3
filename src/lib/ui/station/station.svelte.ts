import type { Shown, StationAnswer } from '$lib/core/pairing/station';
import { ScanQueue, type Waiting } from './queue.svelte';

interface PartScan extends Waiting {
	typed: boolean;
	/** how much of a lot goes in; empty: what is missing */
	qty: string;
}
interface Before {
	order: string;
	serial: string | null;
}

/** A station where parts are put into units, in the browser: what stands before the person stays, too. */
export class StationState extends ScanQueue<PartScan, StationAnswer> {
	shown: Shown | null = $state(null);
	bin: string | null = $state(null);
	/** how much of the next lot goes in; empty: what is missing */
	qty = $state('');
	private before: Before | null = null;

	constructor(code: string) {
		super(`earmark station ${code}`, `/station/${encodeURIComponent(code)}/scan`);
	}
	protected override more = () => ({ before: this.before, bin: this.bin });
	protected override restore({ before, bin }: { before?: Before | null; bin?: string | null }) {
		this.before = before ?? null;
		this.bin = bin ?? null;
		if (this.before && !this.queue.length) void this.look(this.before);
	}
	private async look(of: Before) {
		const asked = new URLSearchParams({ order: of.order, ...(of.serial === null ? {} : { serial: of.serial }) });
		const answer = await fetch(`${this.url}?${asked}`, { headers: { accept: 'application/json' } }).catch(() => null);
		if (answer?.ok && !this.shown) this.shown = (await answer.json()).shown;
	}

	/** Takes a scan, or what was typed instead of one. */
	scan(text: string, typed = false) {
		if (!text.trim()) return;
		this.add({ id: crypto.randomUUID(), text, typed, qty: this.qty });
		this.qty = '';
	}
	protected bodyOf = ({ qty, typed, ...scan }: PartScan) => ({
		scan: { ...scan, before: this.before, bin: this.bin, ...(qty ? { qty } : {}), ...(typed ? { typed } : {}) }
	});
	protected refused = (said: string): StationAnswer => ({
		...{ id: crypto.randomUUID(), taken: false, what: '', said, notes: [] },
		...{ bin: this.bin, asks: null, shown: this.shown }
	});
	protected override took({ shown, bin }: StationAnswer) {
		const same = this.shown?.order === shown?.order;
		this.shown = shown && { ...shown, done: shown.done ?? (same ? (this.shown?.done ?? null) : null) };
		this.before = shown && { order: shown.order, serial: shown.serial };
		this.bin = bin;
	}
	/** Takes a part back out: the last one, or one of those that are in. */
	async undo(row: string | null = null) {
		if (!this.before || this.queue.length) return;
		const answer = await this.post({ undo: { ...this.before, row } });
		if (answer) this.say(answer);
	}
	/** Takes what stands before the person away. */
	clear() {
		this.before = this.shown = this.last = null;
		this.bin = null;
		this.keep();
	}
}
