import type { Act } from '$lib/core/floor/moves';
import type { FloorAnswer } from '$lib/core/floor/station';
import { sound } from '../scan/scanner';

interface Waiting {
	id: string;
	text: string;
	at: string;
	act: Act | 'look';
	operation?: string;
	reason?: string;
	typed?: boolean;
}
const AGAIN = 1500;
const SHOWN = 8;

/**
 * A place where units are moved on, in the browser. An act that is chosen is done by the next scan, once; then the station
 * is back at reading. Look only stays until it is switched off. While the server cannot be reached scans wait here.
 */
export class FloorStation {
	act: Act | 'look' = $state('read');
	operation = $state('');
	reason = $state('');
	last: FloorAnswer | null = $state(null);
	log: { id: string; taken: boolean; text: string }[] = $state([]);
	queue: Waiting[] = $state([]);
	waiting = $state('');
	private sending = false;
	private timer: ReturnType<typeof setTimeout> | undefined;

	constructor(private readonly code: string) {}
	private get store() {
		return `earmark floor ${this.code}`;
	}
	/** Takes up what waited in this browser. @returns how to stop */
	connect(): () => void {
		try {
			this.queue = JSON.parse(localStorage.getItem(this.store) ?? '[]');
		} catch {
			// Another version's store.
		}
		const online = () => this.send();
		addEventListener('online', online);
		this.send();
		return () => {
			removeEventListener('online', online);
			clearTimeout(this.timer);
		};
	}
	/** Chooses what the next scan does. */
	choose(act: Act | 'look') {
		this.act = this.act === act ? 'read' : act;
	}
	/** Takes a scan, or what was typed instead of one. */
	scan(text: string, typed = false) {
		if (!text.trim()) return;
		const { act } = this;
		this.queue.push({
			...{ id: crypto.randomUUID(), text, at: new Date().toISOString(), act },
			...(act === 'rework' && this.operation ? { operation: this.operation } : {}),
			...(this.reason && act !== 'read' && act !== 'look' ? { reason: this.reason } : {}),
			...(typed ? { typed } : {})
		});
		if (act !== 'look') this.act = 'read';
		this.reason = '';
		this.keep();
		this.send();
	}
	private keep = () => localStorage.setItem(this.store, JSON.stringify(this.queue));
	private send() {
		if (this.sending) return;
		this.sending = true;
		void this.sendAll().finally(() => (this.sending = false));
	}
	private async sendAll() {
		clearTimeout(this.timer);
		while (this.queue.length) {
			const answer = await this.post(this.queue[0]);
			if (!answer) {
				this.timer = setTimeout(() => this.send(), AGAIN);
				return;
			}
			this.queue.splice(0, 1);
			this.keep();
			this.last = answer;
			this.log = [{ id: answer.id, taken: answer.taken, text: answer.said }, ...this.log].slice(0, SHOWN);
			sound(answer.taken);
		}
	}
	/** @returns null when the server cannot be reached, or wants another sign-in */
	private async post(scan: Waiting): Promise<FloorAnswer | null> {
		const answer = await fetch(`/station/${encodeURIComponent(this.code)}/floor/scan`, {
			method: 'POST',
			headers: { 'content-type': 'application/json', accept: 'application/json' },
			body: JSON.stringify(scan)
		}).catch(() => null);
		if (answer?.ok) {
			this.waiting = '';
			return answer.json();
		}
		if (answer?.status === 401)
			this.waiting = 'Your session has ended. Sign in again in another tab; what you scanned waits here.';
		else if (!answer || answer.status >= 500)
			this.waiting = 'Earmark cannot be reached. What you scan waits here and goes in when it is back.';
		else {
			const refused: { detail?: string } = await answer.json().catch(() => ({}));
			this.waiting = '';
			return {
				...{ id: scan.id, taken: false, again: false, act: scan.act, unit: null },
				said: refused.detail ?? 'That was refused. Scan it again.'
			};
		}
		return null;
	}
}
