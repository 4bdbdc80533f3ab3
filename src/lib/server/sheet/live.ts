import { AsyncLocalStorage } from 'node:async_hooks';
import type { Db } from '../database/connect.ts';
import { pool } from '../database/pool.ts';
import { log, plainError } from '../log.ts';

/** Which browser page asks: what it changed itself comes back with its answer, and is not signalled to it. */
const page = new AsyncLocalStorage<string>();
/** Runs a request on behalf of a page, named by an id of its own. */
export const onBehalfOf = <T>(name: string, work: () => T): T => page.run(name, work);

/** Tells everyone who has the order open that something in it changed: as a part of a statement. */
export const telling = (sql: Db, code: string) =>
	sql`pg_notify('order', ${JSON.stringify({ code, by: page.getStore() ?? '' })})`;
/** The same, by itself. */
export const notify = (sql: Db, code: string) => sql`SELECT ${telling(sql, code)}`;

type Listener = (by: string) => void;
const listeners = new Map<string, Set<Listener>>();
let listening: Promise<unknown> | undefined;

/**
 * Calls back whenever an order's sheet changes, in whichever instance, with the page that changed it.
 * @returns how to stop
 */
export async function onOrderChange(code: string, tell: Listener): Promise<() => void> {
	listening ??= pool()
		.listen('order', (payload) => {
			const { code: changed, by } = JSON.parse(payload) as { code: string; by: string };
			listeners.get(changed)?.forEach((l) => l(by));
		})
		.catch((e) => {
			listening = undefined;
			throw e;
		});
	await listening;
	const set = listeners.get(code) ?? new Set();
	listeners.set(code, set.add(tell));
	return () => {
		set.delete(tell);
		if (!set.size) listeners.delete(code);
	};
}

/** How long what changes often is gathered before everyone is told, in ms. */
const GATHERED = 150;
const soon = new Set<string>();
/**
 * Tells everyone a moment later, once for all that changed meanwhile, and outside of the transaction that changed it: of
 * many stations at one order none waits for another's news.
 */
export function notifySoon(sql: Db, code: string): void {
	if (soon.has(code)) return;
	soon.add(code);
	setTimeout(() => {
		soon.delete(code);
		const told = JSON.stringify({ code, by: '' });
		sql`SELECT set_config('synchronous_commit', 'off', true), pg_notify('order', ${told})`.catch((error) =>
			log.warn({ err: plainError(error) }, 'Others could not be told of a change; they see it when they look again.')
		);
	}, GATHERED).unref();
}
