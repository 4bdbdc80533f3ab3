import type { Db } from '../src/lib/server/database/connect.ts';
import type { NamedMark } from '../src/lib/server/marks/named.ts';
import type { Moment } from '../src/lib/server/trace/moment.ts';
import { backParts, forwardParts, type Times } from '../src/lib/server/trace/answer.ts';

/** An answer with its lists as lists. */
type Whole<P> = { [K in keyof P]: P[K] extends string ? P[K] : P[K] extends Iterable<infer T> ? T[] : P[K] };
function whole<P extends object>(parts: P): Whole<P> {
	const read = (v: unknown) =>
		typeof v === 'object' && v !== null && Symbol.iterator in v ? [...(v as Iterable<unknown>)] : v;
	return Object.fromEntries(Object.entries(parts).map(([k, v]) => [k, read(v)])) as Whole<P>;
}

/** The interface for programs' forward answer, all of it. */
export async function forwardAnswer(sql: Db, root: NamedMark, times: Times, moment: Moment | null = null) {
	const parts = await forwardParts(sql, root, times, moment);
	return parts && whole(parts);
}
/** The interface for programs' back answer, all of it. */
export async function backAnswer(sql: Db, root: NamedMark, times: Times, moment: Moment | null = null) {
	const parts = await backParts(sql, root, times, moment);
	return parts && whole(parts);
}
