import type { Shown, StationAnswer } from '$lib/core/pairing/station';
import { sound } from '../scan/scanner';

/** A scan that is not answered yet. */
interface Waiting {
	id: string;
	text: string;
	typed: boolean;
	qty: string;
}
/** What the station said, newest first. */
interface Said {
	id: string;
	taken: boolean;
	text: string;
}
interface Kept {
	queue: Waiting[];
	before: { order: string; serial: string | null } | null;
	bin: string | null;
}

/** How long it waits before it tries again to reach the server, in ms. */
const AGAIN = 1500;
/** How many of the last answers are shown. */
const SHOWN = 6;

/**
 * A station in the browser: scans go to the server one after the other. While it cannot be reached they stay in this
 * browser's own store, say so, and go in once when it is back; what stands before the person stays too.
 */
export class StationState {
	shown: Shown | null = $state(null);
	last: StationAnswer | null = $state(null);
	log: Said[] = $state([]);
	/** scans that wait to be sent */
	queue: Waiting[] = $state([]);
	bin: string | null = $state(null);
	/** how much of the next lot goes in; empty: what is missing */
	qty = $state('');
	/** why scans wait, in words; empty when the server answers */
	waiting = $state('');
	private before: Kept['before'] = null;
	private sending = false;
	private timer: ReturnType<typeof setTimeout> | undefined;

	constructor(private readonly code: string) {}
	private get store() {
		return `earmark station ${this.code}`;
	}
	private get url() {
		return `/station/${encodeURIComponent(this.code)}/scan`;
	}

	/** Takes up what waited in this browser. @returns how to stop */
	connect(): () => void {
		try {
			const kept: Partial<Kept> = JSON.parse(localStorage.getItem(this.store) ?? '{}');
			this.queue = kept.queue ?? [];
			this.before = kept.before ?? null;
			this.bin = kept.bin ?? null;
		} catch {
			// Another version's store: nothing of it is known here.
		}
		const online = () => this.send();
		addEventListener('online', online);
		if (this.queue.length) this.send();
		else if (this.before) void this.look(this.before);
		return () => {
			removeEventListener('online', online);
			clearTimeout(this.timer);
		};
	}
	private keep() {
		const kept: Kept = { queue: this.queue, before: this.before, bin: this.bin };
		localStorage.setItem(this.store, JSON.stringify(kept));
	}
	private async look(of: NonNullable<Kept['before']>) {
		const asked = new URLSearchParams({ order: of.order, ...(of.serial === null ? {} : { serial: of.serial }) });
		const answer = await fetch(`${this.url}?${asked}`, { headers: { accept: 'application/json' } }).catch(() => null);
		if (answer?.ok && !this.shown) this.shown = (await answer.json()).shown;
	}

	/** Takes a scan, or what was typed instead of one. */
	scan(text: string, typed = false) {
		if (!text.trim()) return;
		this.queue.push({ id: crypto.randomUUID(), text, typed, qty: this.qty });
		this.qty = '';
		this.keep();
		this.send();
	}
	/** Takes a part back out: the last one, or one of those that are in. */
	async undo(row: string | null = null) {
		if (!this.before || this.queue.length) return;
		const answer = await this.post({ undo: { ...this.before, row } });
		if (answer) this.take(answer, '');
	}
	/** Takes what stands before the person away. */
	clear() {
		this.before = this.shown = this.last = null;
		this.bin = null;
		this.keep();
	}

	private send() {
		if (this.sending) return;
		this.sending = true;
		void this.sendAll().finally(() => (this.sending = false));
	}
	private async sendAll() {
		clearTimeout(this.timer);
		while (this.queue.length) {
			const { qty, typed, ...scan } = this.queue[0];
			const answer = await this.post({
				scan: { ...scan, before: this.before, bin: this.bin, ...(qty ? { qty } : {}), ...(typed ? { typed } : {}) }
			});
			if (!answer) {
				this.timer = setTimeout(() => this.send(), AGAIN);
				return;
			}
			const [done] = this.queue.splice(0, 1);
			this.take(answer, done.text);
		}
	}
	/** @returns null when the server cannot be reached, or wants another sign-in: what was scanned waits */
	private async post(body: object): Promise<StationAnswer | null> {
		const answer = await fetch(this.url, {
			method: 'POST',
			headers: { 'content-type': 'application/json', accept: 'application/json' },
			body: JSON.stringify(body)
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
				...{ id: crypto.randomUUID(), taken: false, what: '', notes: [], bin: null, asks: null, shown: this.shown },
				said: refused.detail ?? 'That was refused. Scan it again.'
			};
		}
		return null;
	}
	private take(answer: StationAnswer, text: string) {
		this.last = answer;
		const done = answer.shown?.done ?? (this.shown?.order === answer.shown?.order ? (this.shown?.done ?? null) : null);
		this.shown = answer.shown && { ...answer.shown, done };
		this.before = answer.shown && { order: answer.shown.order, serial: answer.shown.serial };
		this.bin = answer.bin;
		this.log = [{ id: answer.id + text, taken: answer.taken, text: answer.said }, ...this.log].slice(0, SHOWN);
		this.keep();
		sound(answer.taken);
	}
}
