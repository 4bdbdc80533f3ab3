import type { CountAnswer, CountRow, CountState, TotalLaid } from '$lib/core/count/shown';
import type { Fault } from '$lib/core/problem/problem';
import { ScanQueue, type Waiting } from '../station/queue.svelte';

interface Entry extends Waiting {
	place: string;
	mark?: string;
	fresh?: { item: string; number: string };
	qty?: string;
	back?: true;
}
type Answered = CountAnswer & { state?: CountState };

/**
 * A count in the browser. What is counted goes to the server one after the other; while it cannot be reached it waits here,
 * says so, and goes in once when it is back.
 */
export class Count extends ScanQueue<Entry, Answered> {
	state: CountState = $state.raw()!;
	/** how much of this is to be typed */
	ask: NonNullable<CountAnswer['ask']> | null = $state(null);
	/** a number that nobody knows */
	unknown = $state('');
	faults: Fault[] = $state([]);
	said = $state('');
	busy = $state(false);
	private key: string = crypto.randomUUID();

	constructor(state: CountState) {
		super(`earmark count ${state.code}`, `/orders/${encodeURIComponent(state.code)}/count`);
		this.state = state;
	}
	/** Follows what others count. @returns how to stop */
	follow(): () => void {
		const live = new EventSource(`/orders/${encodeURIComponent(this.state.code)}/live`);
		live.onmessage = () => void this.show(this.state.at);
		return () => live.close();
	}
	/** Shows a place. */
	async show(at: string) {
		const answer = await fetch(`${this.url}?at=${encodeURIComponent(at)}`, {
			headers: { accept: 'application/json' }
		}).catch(() => null);
		if (answer?.ok) this.state = (await answer.json()).state;
	}
	/** Counts what was scanned or typed; with how much of it, where that was said. */
	take(text: string, qty = '') {
		if (!text.trim()) return;
		this.enter({ text, qty });
	}
	/** Counts a row that was chosen, or one that a quantity was asked of. */
	row(mark: string, qty: string) {
		this.enter({ text: '', mark, qty });
	}
	/** Asks how much of a row there is. */
	choose(r: CountRow) {
		this.ask = { mark: r.mark!, number: r.number, itemName: r.itemName, unit: r.unit, before: r.counted };
	}
	/** A number that nobody knows is one of an item. */
	fresh(item: string, number: string, qty: string) {
		this.enter({ text: '', fresh: { item, number }, qty });
	}
	/** Takes what was counted of a row back. */
	back(r: CountRow) {
		this.enter({
			text: '',
			back: true,
			...(r.mark ? { mark: r.mark } : { fresh: { item: r.item, number: r.number } }),
			place: r.place
		});
	}
	private enter(entry: Omit<Entry, 'id' | 'place'> & { place?: string }) {
		this.faults = [];
		this.said = '';
		this.ask = null;
		this.unknown = '';
		this.add({ place: this.state.at, ...entry, id: crypto.randomUUID() });
	}
	protected bodyOf = ({ text, ...entry }: Entry) => ({ ...entry, ...(text ? { text } : {}) });
	protected refused = (said: string): Answered => ({ id: crypto.randomUUID(), taken: false, said });
	protected override took({ state, ask, unknown }: Answered) {
		if (state) this.state = state;
		this.ask = ask ?? null;
		this.unknown = unknown ?? '';
	}
	private async call<T>(part: string, body: object): Promise<(T & { state: CountState }) | null> {
		this.faults = [];
		this.busy = true;
		const answer = await fetch(`${this.url}/${part}?at=${encodeURIComponent(this.state.at)}`, {
			method: 'POST',
			headers: { 'content-type': 'application/json', accept: 'application/json' },
			body: JSON.stringify(body)
		}).catch(() => null);
		this.busy = false;
		if (!answer) {
			this.faults = [{ message: 'Earmark cannot be reached. Nothing was changed; try again when it is back.' }];
			return null;
		}
		const given = await answer.json().catch(() => ({}));
		if (answer.ok) {
			this.state = given.state;
			return given;
		}
		this.faults = given.errors ?? [{ message: given.detail ?? 'This could not be done. Nothing was changed.' }];
		if (answer.status === 409) await this.show(this.state.at);
		return null;
	}
	/** What was not counted here is not there. */
	rest = () => this.call<{ added: number }>('rest', { place: this.state.at });
	/** Lays a total on the lots of an item; without `laid` it is only proposed. */
	async total(item: string, total: string, laid?: { mark: string; change: string }[]): Promise<TotalLaid | null> {
		const given = await this.call<{ laid: TotalLaid }>('total', {
			place: this.state.at,
			item,
			total,
			...(laid ? { laid } : {})
		});
		return given?.laid ?? null;
	}
	/** Closes it without booking anything, or opens it again. */
	async close(reason: string, open: boolean): Promise<boolean> {
		this.faults = [];
		const answer = await fetch(this.url.replace(/count$/, 'close'), {
			method: 'POST',
			headers: { 'content-type': 'application/json', accept: 'application/json' },
			body: JSON.stringify({ reason, open, key: crypto.randomUUID() })
		}).catch(() => null);
		if (answer && !answer.ok)
			this.faults = (await answer.json().catch(() => ({}))).errors ?? [
				{ message: 'This could not be done. Nothing was changed.' }
			];
		await this.show(this.state.at);
		return !!answer?.ok;
	}
	/** Books what was counted, with why each differs. */
	async book(reasons: Record<string, string>): Promise<boolean> {
		const given = await this.call<{ said: string }>('book', { key: this.key, stamp: this.state.stamp, reasons });
		if (!given) return false;
		this.key = crypto.randomUUID();
		this.said = given.said;
		return true;
	}
}
