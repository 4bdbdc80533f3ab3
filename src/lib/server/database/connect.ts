import postgres from 'postgres';

/** What this application reads and writes in a form of its own: dates without time, as text. */
type Types = { date: string };
/** A pool of connections. */
export type Sql = postgres.Sql<Types>;
/** One transaction. */
export type Tx = postgres.TransactionSql<Types>;
/** Anything that runs a query: the pool, or the transaction one is in. */
export type Db = postgres.ISql<Types>;

/**
 * Opens a pool. Ids come as text, quantities (numeric) as text, dates without time as 'YYYY-MM-DD': none of
 * them passes through a float or a time zone.
 * @param onStatement called for each statement sent, for tests that count them
 * @param role 'app' works as earmark_app, which may not change history; 'reader' is the same and changes nothing at all,
 *   for few, large statements that are worth one plan for all their values; 'owner' is for migrations and upkeep
 */
export function connect(
	url: string,
	role: 'app' | 'reader' | 'owner' = 'app',
	max = 10,
	onStatement?: () => void
): Sql {
	return postgres(url, {
		max,
		// A server that comes back is asked again within a second, however long it was away.
		backoff: (tries: number) => Math.min(0.05 * 2 ** Math.min(tries, 10), 1),
		onnotice: () => {},
		...(onStatement ? { debug: onStatement } : {}),
		types: { date: { to: 1082, from: [1082], serialize: (x: string) => x, parse: (x: string) => x } },
		connection: {
			application_name: 'earmark',
			TimeZone: 'UTC',
			...(role === 'owner' ? {} : { role: 'earmark_app' }),
			...(role === 'reader' ? { default_transaction_read_only: true, plan_cache_mode: 'force_generic_plan' } : {})
		}
	});
}

/** The pool that each open transaction belongs to. */
const pools = new WeakMap<Db, Sql>();
/** The pool that something runs its queries through, whether or not it is in a transaction. */
export const poolOf = (db: Db): Db => pools.get(db) ?? db;

/**
 * Runs some work in one transaction: all of it holds, or none of it.
 * @returns what the work returns
 * @throws what the work throws, after everything it wrote is taken back
 */
export async function transaction<T>(sql: Sql, work: (tx: Tx) => Promise<T>): Promise<T> {
	const done: { value?: T } = {};
	await sql.begin(async (tx) => {
		pools.set(tx, sql);
		done.value = await work(tx);
	});
	// Set in any case: a transaction whose work did not end has thrown.
	return done.value!;
}
