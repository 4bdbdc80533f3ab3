import { randomUUID } from 'node:crypto';
import type { Running } from './pool.ts';

/*
 * Long work that somebody waits for: what it is doing can be asked, and it can be stopped, by the one who began it.
 */

interface Going {
	who: string;
	stop: AbortController;
	said: string;
}
/** What long work is given: it is told when it is to stop, and says what it is doing. */
type How = Required<Pick<Running, 'stop' | 'said'>>;
const going = new Map<string, Going>();

/**
 * Does long work under a name of its own.
 * @param who sign-in name of the one who waits for it
 * @param work is told when it is to stop, and says what it is doing
 */
export async function runCancellable<T>(name: string, who: string, work: (how: How) => Promise<T>): Promise<T> {
	const mine: Going = { who, stop: new AbortController(), said: 'Waiting for its turn' };
	going.set(name, mine);
	try {
		return await work({ stop: mine.stop.signal, said: (what) => void (mine.said = what) });
	} finally {
		if (going.get(name) === mine) going.delete(name);
	}
}

const goingOf = (name: string, who: string): Going | undefined => {
	const there = going.get(name);
	return there?.who === who ? there : undefined;
};
/** What a work is doing; null where it is not going on, here or for this person. */
export const doing = (name: string, who: string): string | null => goingOf(name, who)?.said ?? null;
/** Stops a work. @returns false where there is none to stop */
export function stopWork(name: string, who: string): boolean {
	const there = goingOf(name, who);
	there?.stop.abort();
	return !!there;
}

/** A request, as far as it matters here. */
interface Asks {
	url: URL;
	request: Request;
}
/**
 * Does long work for whoever asks an address: under the name that the address brings as `work`, so that its page can ask
 * what is being done, and stop it. It stops too when nobody waits for the answer any more.
 * @param who sign-in name of the one who asks
 */
export function goOnFor<T>({ url, request }: Asks, who: string, work: (how: How) => Promise<T>): Promise<T> {
	const name = url.searchParams.get('work') ?? '';
	return runCancellable(/^[\da-f-]{36}$/.test(name) ? name : randomUUID(), who, ({ stop, said }) =>
		work({ said, stop: AbortSignal.any([stop, request.signal]) })
	);
}
