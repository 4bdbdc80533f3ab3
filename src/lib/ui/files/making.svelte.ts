import type { Fault } from '$lib/core/problem/problem';
import { grouped } from '$lib/core/quantity/sign';

/** A file that may take its time: while it is made, and while it comes, it can be stopped; then it is saved. */
export class Making {
	/** the name under which the server says what it is doing; null while nothing is made */
	work = $state<string | null>(null);
	/** how much of it has come, in words; null before any has */
	come = $state<string | null>(null);
	faults = $state<Fault[]>([]);
	#stop = new AbortController();

	/**
	 * Makes a file and saves it.
	 * @param body what is sent for it; without one it is only asked for
	 * @returns whether it was saved
	 */
	async make(href: string, body?: FormData): Promise<boolean> {
		if (this.work) return false;
		this.work = crypto.randomUUID();
		this.faults = [];
		this.#stop = new AbortController();
		const { signal } = this.#stop;
		try {
			const asked = `${href}${href.includes('?') ? '&' : '?'}work=${this.work}`;
			// So that whoever is signed out reads that, and is not given the sign-in page for a file.
			const headers = { accept: 'application/json, */*' };
			const answer = await fetch(asked, { signal, headers, ...(body && { method: 'POST', body }) });
			if (!answer.ok) {
				const refused = (await answer.json()) as { errors?: Fault[]; title: string };
				this.faults = refused.errors ?? [{ message: refused.title }];
				return false;
			}
			save(await this.#received(answer), answer.headers.get('content-disposition') ?? '');
			return true;
		} catch {
			this.faults = [
				{ message: signal.aborted ? 'It was stopped.' : 'The file did not come whole from the server. Try again.' }
			];
			return false;
		} finally {
			this.work = null;
			this.come = null;
		}
	}

	/** Makes the file that a link names, in its place; in another tab it is a page like others. */
	follow(event: MouseEvent) {
		if (event.ctrlKey || event.metaKey || event.shiftKey) return;
		event.preventDefault();
		void this.make((event.currentTarget as HTMLAnchorElement).href);
	}

	/** Waits for it no longer: the server stops what nobody waits for. */
	stop() {
		this.#stop.abort();
	}

	async #received(answer: Response): Promise<Blob> {
		const pieces: Uint8Array<ArrayBuffer>[] = [];
		let bytes = 0;
		const reader = answer.body!.getReader();
		for (let piece = await reader.read(); !piece.done; piece = await reader.read()) {
			pieces.push(piece.value);
			bytes += piece.value.length;
			this.come = `${grouped(Math.ceil(bytes / 1000))} kB received`;
		}
		return new Blob(pieces, { type: answer.headers.get('content-type') ?? '' });
	}
}

function save(file: Blob, disposition: string) {
	const link = document.createElement('a');
	link.href = URL.createObjectURL(file);
	link.download = /filename="([^"]+)"/.exec(disposition)?.[1] ?? '';
	link.click();
	// When it is surely on its way.
	setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
