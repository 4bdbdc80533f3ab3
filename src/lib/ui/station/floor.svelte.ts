import type { Act } from '$lib/core/floor/moves';
import type { FloorAnswer } from '$lib/core/floor/station';
import { ScanQueue, type Waiting } from './queue.svelte';

interface UnitScan extends Waiting {
	at: string;
	act: Act | 'look';
	operation?: string;
	reason?: string;
	typed?: boolean;
	tag?: boolean;
}

/**
 * A place where units are moved on, in the browser. An act that is chosen is done by the next scan, once; then the station
 * is back at reading. Look only stays until it is switched off.
 */
export class FloorStation extends ScanQueue<UnitScan, FloorAnswer> {
	act: Act | 'look' = $state('read');
	operation = $state('');
	reason = $state('');
	/** names of the tags before the reader */
	field: string[] = $state([]);

	constructor(code: string) {
		super(`earmark floor ${code}`, `/station/${encodeURIComponent(code)}/floor/scan`);
	}
	/** Chooses what the next scan does. */
	choose(act: Act | 'look') {
		this.act = this.act === act ? 'read' : act;
	}
	/** Takes a scan, or what was typed instead of one. */
	scan(text: string, typed = false) {
		if (text.trim()) this.take(text, typed ? { typed } : {});
	}
	/** The reader found a tag. */
	readTag() {
		this.take('', { tag: true });
	}
	private take(text: string, how: { typed?: boolean; tag?: boolean }) {
		const { act } = this;
		this.add({
			...{ id: crypto.randomUUID(), text, at: new Date().toISOString(), act },
			...(act === 'rework' && this.operation ? { operation: this.operation } : {}),
			...(this.reason && act !== 'read' && act !== 'look' ? { reason: this.reason } : {}),
			...how
		});
		if (act !== 'look') this.act = 'read';
		this.reason = '';
	}
	protected override heard(answer: FloorAnswer) {
		return answer.taken ? (answer.wrote ? 'wrote' : 'good') : 'bad';
	}
	/** Follows the reader of this station: a tag that comes before it is read. @returns how to stop */
	follow(url: string): () => void {
		const live = new EventSource(url);
		let first = true;
		live.onmessage = (e) => {
			const names: string[] = JSON.parse(e.data);
			const came = names.some((n) => !this.field.includes(n));
			this.field = names;
			// What lay there already when the page was opened is not read again.
			if (came && !first) this.readTag();
			first = false;
		};
		return () => live.close();
	}
	protected bodyOf = (scan: UnitScan) => scan;
	protected refused = (said: string): FloorAnswer => ({
		...{ id: crypto.randomUUID(), taken: false, again: false, act: this.act, wrote: false, said, unit: null }
	});
}
