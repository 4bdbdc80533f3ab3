import { invalidate } from '$app/navigation';
import type { Fault } from '$lib/core/problem/problem';
import type { Mode, SheetState } from '$lib/core/sheet/sheet';

type Data = Record<string, string | number | undefined>;
interface Change {
	id: string;
	lineId: string;
	data: Data;
	version: number;
}

/**
 * The sheet of one order in the browser. The server holds it; every change goes there at once, and waits in this
 * browser's own store while the server cannot be reached or the session has ended, so that nothing typed is lost.
 */
export class Sheet {
	state: SheetState = $state()!;
	mode: Mode = $state('both');
	faults: Fault[] = $state([]);
	notice = $state('');
	/** why changes wait, in words; empty when all are saved */
	waiting = $state('');
	signedOut = $state(false);
	busy = $state(false);
	private key = crypto.randomUUID() as string;
	private added: string[] = [];
	private sending: Promise<unknown> = Promise.resolve();

	constructor(state: SheetState, mode: Mode = 'both') {
		this.state = state;
		this.mode = mode;
	}
	private get url() {
		return `/orders/${encodeURIComponent(this.state.code)}/sheet?mode=${this.mode}`;
	}
	private get store() {
		return `earmark unsaved ${this.state.code}`;
	}

	/** Follows what others do in the same order; sends what waited. @returns how to stop */
	connect(): () => void {
		const live = new EventSource(`/orders/${encodeURIComponent(this.state.code)}/live`);
		live.onmessage = () => void this.load();
		const again = () => void this.resend();
		addEventListener('focus', again);
		addEventListener('online', again);
		const timer = setInterval(again, 5000);
		again();
		return () => {
			live.close();
			removeEventListener('focus', again);
			removeEventListener('online', again);
			clearInterval(timer);
		};
	}

	private async call(method: string, body?: unknown): Promise<boolean> {
		let answer: Response;
		try {
			answer = await fetch(this.url, {
				method,
				headers: { accept: 'application/json', 'content-type': 'application/json' },
				body: body === undefined ? undefined : JSON.stringify(body)
			});
		} catch {
			this.waiting = 'Earmark does not answer. What you typed is kept here and sent as soon as it does.';
			throw new Error('offline');
		}
		if (answer.status === 401) {
			this.signedOut = true;
			this.waiting = 'Your session has ended. What you typed is kept; sign in again to save it.';
			throw new Error('signed out');
		}
		this.signedOut = false;
		this.waiting = '';
		if (!answer.ok) {
			const problem = await answer.json().catch(() => ({}));
			this.faults = problem.errors ?? [
				{ message: problem.detail ?? problem.message ?? 'This could not be done. Nothing was changed.' }
			];
			if (answer.status === 409) await this.load();
			return false;
		}
		const given = await answer.json();
		if (given.state) this.state = given.state;
		if (given.said) this.notice = given.said;
		return true;
	}

	async load() {
		try {
			await this.call('GET');
		} catch {
			// said in `waiting`
		}
	}
	setMode(mode: Mode) {
		this.mode = mode;
		return this.load();
	}

	/** Adds or changes rows. New rows get an id here, so that sending twice saves once. */
	async put(changes: (Omit<Change, 'id' | 'version'> & Partial<Change>)[]): Promise<boolean> {
		this.faults = [];
		this.notice = '';
		const rows = changes.map((c) => ({ ...c, id: c.id ?? crypto.randomUUID(), version: c.version ?? 0 }));
		this.added.push(...rows.filter((r) => !r.version).map((r) => r.id));
		this.keep([...this.kept(), ...rows]);
		return this.queue(() => this.flush());
	}
	remove(ids: string[]) {
		this.faults = [];
		return this.queue(() => this.call('DELETE', ids));
	}
	/** Takes back the row added last. */
	async takeBack() {
		const there = new Set(
			this.state.lines.flatMap((l) => [...l.rows.map((r) => r.id), ...l.cells.flatMap((c) => c.picks.map((p) => p.id))])
		);
		let last = this.added.pop();
		while (last && !there.has(last)) last = this.added.pop();
		if (last) await this.remove([last]);
	}

	async book(reason: string): Promise<boolean> {
		this.busy = true;
		this.faults = [];
		try {
			const done = await this.queue(() =>
				this.call('POST', { key: this.key, stamp: this.state.stamp, reason, mode: this.mode })
			);
			if (done) {
				this.key = crypto.randomUUID();
				this.added = [];
				await invalidate('app:waiting');
			}
			return done;
		} finally {
			this.busy = false;
		}
	}
	undo(event: string, reason: string) {
		return this.queue(() => this.call('POST', { undo: event, reason, key: crypto.randomUUID() }));
	}

	/** One request after the other, in the order of the key presses. */
	private queue(work: () => Promise<boolean>): Promise<boolean> {
		const next = this.sending.then(work).catch(() => false);
		this.sending = next;
		return next;
	}
	private kept = (): Change[] => JSON.parse(localStorage.getItem(this.store) ?? '[]');
	private keep(rows: Change[]) {
		if (rows.length) localStorage.setItem(this.store, JSON.stringify(rows));
		else localStorage.removeItem(this.store);
	}
	private async flush(): Promise<boolean> {
		const rows = this.kept();
		if (!rows.length) return true;
		let done = true;
		for (let i = 0; i < rows.length; i += 2000) done = (await this.call('PUT', rows.slice(i, i + 2000))) && done;
		// Saved, or refused for good and said so: either way it does not wait any more.
		const sent = new Set(rows.map((r) => r.id + r.version + JSON.stringify(r.data)));
		this.keep(this.kept().filter((r) => !sent.has(r.id + r.version + JSON.stringify(r.data))));
		return done;
	}
	private resend() {
		if (this.kept().length) return this.queue(() => this.flush());
		if (this.waiting) return this.load();
	}
}

/** Text that survives a reload: what stands in a field before Enter. */
export class Remembered {
	private name: string;
	text = $state('');
	constructor(name: string) {
		this.name = `earmark typing ${name}`;
		if (typeof localStorage !== 'undefined') this.text = localStorage.getItem(this.name) ?? '';
	}
	set(text: string) {
		this.text = text;
		if (text) localStorage.setItem(this.name, text);
		else localStorage.removeItem(this.name);
	}
}
