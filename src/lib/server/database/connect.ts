import postgres from 'postgres';

export type Sql = postgres.Sql<{ bigint: bigint }>;
export type Tx = postgres.TransactionSql<{ bigint: bigint }>;
/** Anything that runs a query: the pool, or the transaction one is in. */
export type Db = Sql | Tx;

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
		onnotice: () => {},
		...(onStatement ? { debug: onStatement } : {}),
		types: {
			date: { to: 1082, from: [1082], serialize: (x: string) => x, parse: (x: string) => x }
		} as never,
		connection: {
			application_name: 'earmark',
			TimeZone: 'UTC',
			...(role === 'owner' ? {} : { role: 'earmark_app' }),
			...(role === 'reader' ? { default_transaction_read_only: true, plan_cache_mode: 'force_generic_plan' } : {})
		}
	}) as unknown as Sql;
}
