import type { Act } from '$lib/core/floor/moves';
import type { FloorAnswer } from '$lib/core/floor/station';
import { ScanQueue, type Waiting } from './queue.svelte';

interface UnitScan extends Waiting {
	at: string;
	act: Act | 'look';
	operation?: string;
	reason?: string;
	typed?: boolean;
}

/**
 * A place where units are moved on, in the browser. An act that is chosen is done by the next scan, once; then the station
 * is back at reading. Look only stays until it is switched off.
 */
export class FloorStation extends ScanQueue<UnitScan, FloorAnswer> {
	act: Act | 'look' = $state('read');
	operation = $state('');
	reason = $state('');

	constructor(code: string) {
		super(`earmark floor ${code}`, `/station/${encodeURIComponent(code)}/floor/scan`);
	}
	/** Chooses what the next scan does. */
	choose(act: Act | 'look') {
		this.act = this.act === act ? 'read' : act;
	}
	/** Takes a scan, or what was typed instead of one. */
	scan(text: string, typed = false) {
		if (!text.trim()) return;
		const { act } = this;
		this.add({
			...{ id: crypto.randomUUID(), text, at: new Date().toISOString(), act },
			...(act === 'rework' && this.operation ? { operation: this.operation } : {}),
			...(this.reason && act !== 'read' && act !== 'look' ? { reason: this.reason } : {}),
			...(typed ? { typed } : {})
		});
		if (act !== 'look') this.act = 'read';
		this.reason = '';
	}
	protected bodyOf = (scan: UnitScan) => scan;
	protected refused = (said: string): FloorAnswer => ({
		...{ id: crypto.randomUUID(), taken: false, again: false, act: this.act, said, unit: null }
	});
}
