import { sound, type Sound } from '../scan/scanner';

/** A scan that is not answered yet: its id makes it count once, however often it is sent. */
export interface Waiting {
	id: string;
	text: string;
}
/** What the server said to a scan. */
export interface Answer {
	id: string;
	taken: boolean;
	said: string;
}

/** How long it waits before it tries again to reach the server, in ms. */
const AGAIN = 1500;
/** How many of the last answers are shown. */
const SHOWN = 8;

/**
 * Scans on their way to the server, one after the other. While it cannot be reached they stay in this browser's own store,
 * say so, and go in once when it is back.
 */
export abstract class ScanQueue<S extends Waiting, A extends Answer> {
	last: A | null = $state.raw(null);
	log: { id: string; taken: boolean; text: string }[] = $state([]);
	/** scans that wait to be sent */
	queue: S[] = $state([]);
	/** why scans wait, in words; empty when the server answers */
	waiting = $state('');
	private sending = false;
	private timer: ReturnType<typeof setTimeout> | undefined;

	/**
	 * @param store names what is kept in this browser
	 * @param url where scans are sent
	 */
	constructor(
		private readonly store: string,
		protected readonly url: string
	) {}
	/** A scan as it is sent, when its turn has come. */
	protected abstract bodyOf(scan: S): object;
	/** What is said where the server would not even look at it. */
	protected abstract refused(said: string): A;
	/** How an answer sounds. */
	protected heard(answer: A): Sound {
		return answer.taken ? 'good' : 'bad';
	}
	/** What an answer changes here. */
	protected took(_answer: A): void {}
	/** What stays in this browser besides the scans that wait, and what it was when the page comes back. */
	protected more(): object {
		return {};
	}
	protected restore(_more: Record<string, unknown>): void {}

	/** Takes up what waited in this browser. @returns how to stop */
	connect(): () => void {
		try {
			const { queue, ...more } = JSON.parse(localStorage.getItem(this.store) ?? '{}');
			this.queue = queue ?? [];
			this.restore(more);
		} catch {
			// Another version's store: nothing of it is known here.
		}
		const online = () => this.send();
		addEventListener('online', online);
		this.send();
		return () => {
			removeEventListener('online', online);
			clearTimeout(this.timer);
		};
	}
	protected keep() {
		localStorage.setItem(this.store, JSON.stringify({ ...this.more(), queue: this.queue }));
	}
	/** Adds a scan. */
	protected add(scan: S) {
		this.queue.push(scan);
		this.keep();
		this.send();
	}
	/** Shows an answer, with its sound. */
	protected say(answer: A) {
		this.last = answer;
		this.log = [{ id: crypto.randomUUID(), taken: answer.taken, text: answer.said }, ...this.log].slice(0, SHOWN);
		this.took(answer);
		this.keep();
		sound(this.heard(answer));
	}

	private send() {
		if (this.sending) return;
		this.sending = true;
		void this.sendAll().finally(() => (this.sending = false));
	}
	private async sendAll() {
		clearTimeout(this.timer);
		while (this.queue.length) {
			const answer = await this.post(this.bodyOf(this.queue[0]));
			if (!answer) {
				this.timer = setTimeout(() => this.send(), AGAIN);
				return;
			}
			this.queue.splice(0, 1);
			this.say(answer);
		}
	}
	/** @returns null when the server cannot be reached, or wants another sign-in: what was scanned waits */
	protected async post(body: object): Promise<A | null> {
		const answer = await fetch(this.url, {
			method: 'POST',
			headers: { 'content-type': 'application/json', accept: 'application/json' },
			body: JSON.stringify(body)
		}).catch(() => null);
		if (answer?.status === 401)
			this.waiting = 'Your session has ended. Sign in again in another tab; what you scanned waits here.';
		else if (!answer || answer.status >= 500)
			this.waiting = 'Earmark cannot be reached. What you scan waits here and goes in when it is back.';
		else {
			this.waiting = '';
			if (answer.ok) return answer.json();
			const { detail }: { detail?: string } = await answer.json().catch(() => ({}));
			return this.refused(detail ?? 'That was refused. Scan it again.');
		}
		return null;
	}
}
