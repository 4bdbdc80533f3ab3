/** Lists of an entry, with the table that each stands for and what its rows are known by. */
const LISTS: Record<string, { table: string; by: readonly string[] }> = {
	movements: { table: 'movement', by: ['movement'] },
	marks: { table: 'mark', by: ['mark'] },
	runs: { table: 'run', by: ['run'] },
	changes: { table: 'mark_change', by: ['mark', 'field'] },
	aliases: { table: 'mark_alias', by: ['mark', 'number'] },
	closings: { table: 'run_closing', by: [] }
};
type Json = Record<string, unknown>;

/** Where a row is not as its entry says. */
export interface Difference {
	table: string;
	/** "movement 17: qty is 5, was booked as 4" */
	what: string;
}

const say = (value: unknown): string =>
	value === undefined || value === null ? 'nothing' : typeof value === 'string' ? value : JSON.stringify(value);
const keyOf = (row: unknown, by: readonly string[]): string =>
	by.length ? by.map((b) => say((row as Json)[b])).join(' ') : say(row);
const members = (was: Json, now: Json) =>
	[...new Set([...Object.keys(was), ...Object.keys(now)])].filter(
		(m) => JSON.stringify(was[m]) !== JSON.stringify(now[m])
	);

/**
 * Where the tables differ from an entry of an event.
 * @param kept the entry's text as it was sealed; text that is no entry any more is one difference
 * @param made the entry as the tables give it now; null where there is no such event any more
 */
export function differences(kept: string, made: string | null): Difference[] {
	if (made === null) return [{ table: 'event', what: `is missing; it was sealed as ${kept.slice(0, 200)}` }];
	let [was, now]: Json[] = [{}, {}];
	try {
		[was, now] = [JSON.parse(kept) as Json, JSON.parse(made) as Json];
	} catch {
		return [{ table: 'ledger_leaf', what: 'its entry is no JSON' }];
	}
	const out: Difference[] = [];
	for (const m of members(was, now)) {
		const list = LISTS[m];
		if (!list) {
			out.push({ table: 'event', what: `${m} is ${say(now[m])}, was booked as ${say(was[m])}` });
			continue;
		}
		const rows = (of: unknown) => new Map(((of ?? []) as unknown[]).map((r) => [keyOf(r, list.by), r]));
		const [before, after] = [rows(was[m]), rows(now[m])];
		const found: string[] = [];
		for (const [key, row] of before) {
			const is = after.get(key);
			if (is === undefined) found.push(`${key} is missing`);
			else if (list.by.length)
				for (const f of members(row as Json, is as Json))
					found.push(`${key}: ${f} is ${say((is as Json)[f])}, was booked as ${say((row as Json)[f])}`);
		}
		for (const key of after.keys()) if (!before.has(key)) found.push(`${key} was added`);
		const name = list.table.replace('_', ' ');
		out.push(...found.map((what) => ({ table: list.table, what: `${name} ${what}` })));
		if (!found.length) out.push({ table: list.table, what: `${name} rows stand in another order` });
	}
	return out.length ? out : [{ table: 'ledger_leaf', what: 'its entry is written in another way' }];
}
