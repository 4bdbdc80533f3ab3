import { Shown, type Looked } from '../../core/trace/shown.ts';
import type { Sql } from '../database/connect.ts';
import type { Look } from './look.ts';
import type { Moment } from './moment.ts';
import { traceView } from './view.ts';

/*
 * A trace that is looked at is looked at again: another page of its table, a range that opens, a text to find. It is kept
 * for a while by the thread that worked it out. What it is of one moment of the ledger it stays: any other thread, or another
 * instance, works out the same.
 */

/** Numbers that are kept at most, over all looks: a trace of more is kept alone. */
const MOST_KEPT = 120_000;
const MOST_LOOKS = 20;
const KEPT_FOR = 5 * 60_000;
const kept = new Map<string, { shown: Shown; until: number }>();

function forget(): void {
	const now = Date.now();
	for (const [look, k] of kept) if (k.until < now) kept.delete(look);
	let weight = [...kept.values()].reduce((sum, k) => sum + k.shown.weight, 0);
	for (const [look, k] of kept) {
		if (kept.size <= 1 || (weight <= MOST_KEPT && kept.size <= MOST_LOOKS)) return;
		kept.delete(look);
		weight -= k.shown.weight;
	}
}
// What nobody looks at any more does not stay because nobody else traces.
setInterval(forget, 60_000).unref();

/** Reads from the ledger as it was with so many entries. */
export type Reading = <T>(size: number, read: (sql: Sql, moment: Moment) => Promise<T>) => Promise<T>;

/**
 * What a look shows of a trace; worked out where this thread does not have it yet.
 * @param said is told what is being done, for people
 * @returns null when there is no such lot or serial
 */
export async function lookAt(
	at: Reading,
	asked: Look,
	said: (what: string) => void = () => {}
): Promise<Looked | null> {
	const { mark, direction, since, asOf, ledgerSize } = asked;
	const name = JSON.stringify([mark, direction, since, asOf, ledgerSize]);
	let known = kept.get(name);
	if (!known) {
		const view = await at(ledgerSize, (sql, moment) => traceView(sql, mark, direction, asked, said, moment));
		if (!view) return null;
		known = { shown: new Shown(view), until: 0 };
	}
	// The last that was looked at is the last to go.
	kept.delete(name);
	kept.set(name, { ...known, until: Date.now() + KEPT_FOR });
	forget();
	const { shown } = known;
	const all = asked.want === 'all';
	return {
		head: all ? shown.head() : null,
		stages: asked.want !== 'lines' && asked.direction === 'forward' ? shown.stages(new Map(asked.bars)) : null,
		page: asked.want !== 'picture' ? shown.lines(asked) : null
	};
}
