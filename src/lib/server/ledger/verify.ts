import type { Db } from '../database/connect.ts';
import { balanceChecks } from './balances.ts';
import { entriesOf } from './entries.ts';
import { Findings, first, type Check, type LedgerFinding, type Progress } from './findings.ts';
import { guardsOf, type Guards } from './guards.ts';
import { INVARIANTS } from './invariants.ts';
import type { PaperHead } from './seal.ts';

/** What was checked, and what was found. */
export interface Verified {
	events: number;
	movements: number;
	/** entries of the ledger, and the root over them in hex */
	size: number;
	root: string;
	findings: LedgerFinding[];
}
/** What a check is told besides. */
export interface VerifyOptions {
	/** what the guards of the database are to be; without them they are not looked at */
	guards?: Guards | null;
	/** a head of the ledger that somebody kept outside */
	head?: PaperHead;
	progress?: Progress;
	/** more connections within the same snapshot: what there is to look at is shared among all of them */
	beside?: readonly Db[];
}

/**
 * Checks a live database: each entry against the tables, each balance against the movements, what is set up against what was
 * recorded of it, the guards, and every invariant. It reads in a stream: memory does not grow with the ledger.
 * @param sql as the owner, within one snapshot
 */
export async function verify(sql: Db, options: VerifyOptions = {}): Promise<Verified> {
	const { progress = () => {}, beside = [], guards, head } = options;
	const found = new Findings();
	if (guards) {
		progress('guards of the database');
		await checkGuards(sql, found, guards);
	}
	const entries = await entriesOf(sql, head, progress);
	// What is in small pieces comes last: no connection waits long for another.
	const checks: Check[] = [
		...entries.checks,
		checkLoose,
		checkQueue,
		(on, f) => (progress('what is set up'), checkRecords(on, f)),
		(on, f) => (progress('numbers that were drawn and printed'), checkDrawn(on, f)),
		...INVARIANTS.map(
			({ rule, table, of, rows }): Check =>
				(on, f) => (progress(of), f.rows(rule, table, first(on, rows(on))))
		),
		...(await balanceChecks(sql, progress))
	];
	const each = checks.map(() => new Findings());
	let next = 0;
	await Promise.all(
		[sql, ...beside].map(async (on) => {
			while (next < checks.length) {
				const i = next++;
				await checks[i](on, each[i]);
			}
		})
	);
	for (const f of each) found.take(f);
	const tree = entries.finish(found);
	const [counts] = await sql<{ events: number; movements: number }[]>`
		SELECT (SELECT count(*)::int FROM event) AS events, (SELECT count(*)::int FROM movement) AS movements`;
	return { ...counts, ...tree, findings: found.list() };
}

/** I1: the guards of the database are as delivered. */
async function checkGuards(sql: Db, found: Findings, wanted: Guards): Promise<void> {
	const there = await guardsOf(sql);
	for (const [name, is] of wanted) {
		const now = there.get(name);
		if (now === undefined) found.add('I1', 'guards', `${name} is missing`);
		else if (now !== is) found.add('I1', 'guards', `${name} is not as delivered: ${now.slice(0, 300)}`);
	}
	for (const name of there.keys()) if (!wanted.has(name)) found.add('I1', 'guards', `${name} was added`);
}

/** I9: every event and record is in the tree or waits for it, rows belong to events, and the former chain is whole. */
async function checkLoose(sql: Db, found: Findings): Promise<void> {
	await found.rows(
		'I9',
		'event',
		sql`SELECT format('event %s is not in the tree and does not wait for it', e.id) AS what, count(*) OVER () AS count FROM event e
			WHERE NOT EXISTS (SELECT 1 FROM ledger_leaf l WHERE l.event_id = e.id) AND NOT EXISTS (SELECT 1 FROM seal_queue u WHERE u.event_id = e.id) ORDER BY e.id LIMIT 1`
	);
	await found.rows(
		'I9',
		'row_version',
		sql`SELECT format('record %s is not in the tree and does not wait for it', r.id) AS what, count(*) OVER () AS count FROM row_version r
			WHERE NOT EXISTS (SELECT 1 FROM ledger_leaf l WHERE l.row_version_id = r.id) AND NOT EXISTS (SELECT 1 FROM seal_queue u WHERE u.row_version_id = r.id) ORDER BY r.id LIMIT 1`
	);
	// Rows of no event stand in no entry.
	for (const [table, name] of OF_EVENTS)
		await found.rows(
			'I9',
			table,
			sql`SELECT format('%s %s belongs to no event', ${table}::text, t.${sql.unsafe(name)}) AS what, count(*) OVER () AS count FROM ${sql(table)} t
				WHERE NOT EXISTS (SELECT 1 FROM event e WHERE e.id = t.event_id) LIMIT 1`
		);
	await checkFormerChain(sql, found);
}
/** I9: what waits to be sealed is something that is not sealed, and what is sealed was sealed in its turn. */
async function checkQueue(sql: Db, found: Findings): Promise<void> {
	await found.rows(
		'I9',
		'seal_queue',
		sql`SELECT format('row %s waits to be sealed and names %s', u.id, CASE WHEN u.event_id IS NULL AND u.row_version_id IS NULL THEN 'nothing'
				ELSE format('%s, which is %s', coalesce('event ' || u.event_id, 'record ' || u.row_version_id), CASE WHEN l.index IS NULL THEN 'not there' ELSE 'sealed already' END) END) AS what, count(*) OVER () AS count
			FROM seal_queue u LEFT JOIN ledger_leaf l ON l.event_id = u.event_id OR l.row_version_id = u.row_version_id
			WHERE l.index IS NOT NULL OR NOT (EXISTS (SELECT 1 FROM event e WHERE e.id = u.event_id) OR EXISTS (SELECT 1 FROM row_version r WHERE r.id = u.row_version_id)) ORDER BY u.id LIMIT 1`
	);
	await found.rows(
		'I9',
		'ledger_leaf',
		sql`SELECT format('entry %s was sealed on %s, the one before it on %s', index, entry_time(sealed_at), entry_time(before)) AS what, count(*) OVER () AS count
			FROM (SELECT index, sealed_at, lag(sealed_at) OVER (ORDER BY index) AS before FROM ledger_leaf) l WHERE sealed_at < before ORDER BY index LIMIT 1`
	);
	await found.rows(
		'I9',
		'ledger_leaf',
		sql`SELECT format('entry %s was sealed on %s, before event %s was recorded', l.index, entry_time(l.sealed_at), e.id) AS what, count(*) OVER () AS count
			FROM ledger_leaf l JOIN event e ON e.id = l.event_id WHERE l.sealed_at < e.recorded_at ORDER BY l.index LIMIT 1`
	);
}

/** I9: numbers that were drawn, and those that stand on papers. */
async function checkDrawn(sql: Db, found: Findings): Promise<void> {
	await found.rows(
		'I9',
		'drawn_number',
		sql`WITH draw AS (SELECT row, state::jsonb ->> 'sha256' AS was, (state::jsonb ->> 'ids')::int8multirange AS ids FROM row_version WHERE of = 'draw'),
			ranges AS (SELECT row, lower(r) AS first, upper(r) - 1 AS last FROM draw CROSS JOIN LATERAL unnest(ids) r),
			now AS (SELECT r.row, encode(sha256(convert_to(string_agg(drawn_text(d), chr(10) ORDER BY d.id), 'UTF8')), 'hex') AS is_now
				FROM ranges r JOIN drawn_number d ON d.id BETWEEN r.first AND r.last GROUP BY r.row)
			SELECT format('the draw of number %s is not as it was recorded', draw.row) AS what, count(*) OVER () AS count FROM draw LEFT JOIN now USING (row) WHERE now.is_now IS DISTINCT FROM draw.was LIMIT 1`
	);
	await found.rows(
		'I9',
		'drawn_number',
		sql`SELECT format('number %s was added to the drawn ones past its record', d.number) AS what, count(*) OVER () AS count FROM drawn_number d
			WHERE NOT EXISTS (SELECT 1 FROM row_version r CROSS JOIN LATERAL unnest((r.state::jsonb ->> 'ids')::int8multirange) x WHERE r.of = 'draw' AND d.id <@ x) LIMIT 1`
	);
	await found.rows(
		'I9',
		'paper_mark',
		sql`WITH last AS (SELECT DISTINCT ON (row) row, state FROM row_version WHERE of = 'paper_marks' ORDER BY row, id DESC),
			now AS (SELECT paper_id::text AS row, canonical(jsonb_build_object('count', count(*), 'sha256', encode(sha256(convert_to(string_agg(mark_id::text, ',' ORDER BY mark_id), 'UTF8')), 'hex'))) AS state FROM paper_mark GROUP BY paper_id)
			SELECT format('the numbers on paper %s are not those that were recorded', coalesce(now.row, last.row)) AS what, count(*) OVER () AS count
			FROM now FULL JOIN last ON last.row = now.row WHERE now.state IS DISTINCT FROM last.state LIMIT 1`
	);
}

const OF_EVENTS = [
	['movement', 'id'],
	['mark', 'id'],
	['run', 'id'],
	['run_closing', 'run_id'],
	['mark_change', 'mark_id'],
	['mark_alias', 'mark_id']
] as const;
/** I9: the events that were sealed with the chain of hashes have the hashes that they had. */
async function checkFormerChain(sql: Db, found: Findings): Promise<void> {
	const [chain] = await sql<{ last: string; hash: string }[]>`SELECT last_event AS last, hash FROM former_chain`;
	if (!chain) return found.add('I9', 'former_chain', 'the head of the former chain is missing');
	if (chain.last === '0') return;
	await found.rows(
		'I9',
		'event',
		sql`SELECT format('event %s does not follow the event before it in the former chain', id) AS what, count(*) OVER () AS count
			FROM (SELECT e.id, e.prev_hash, e.hash, event_hash(e.*) AS real, lag(e.hash) OVER (ORDER BY e.id) AS before, row_number() OVER (ORDER BY e.id) AS place
				FROM event e WHERE e.id <= ${chain.last}) c
			WHERE hash IS DISTINCT FROM real OR prev_hash IS DISTINCT FROM coalesce(before, repeat('0', 64)) OR id <> place ORDER BY id LIMIT 1`
	);
	await found.rows(
		'I9',
		'former_chain',
		sql`SELECT 'the head of the former chain is not its last event' AS what WHERE (SELECT hash FROM event WHERE id = ${chain.last}) IS DISTINCT FROM ${chain.hash}`
	);
}

/** I9: what is set up, orders, notes and files are as their last record says, column by column. */
async function checkRecords(sql: Db, found: Findings): Promise<void> {
	const tables = await sql<{ of: string; keys: string[]; without: string[]; hashed: string[]; columns: string[] }[]>`
		SELECT c.name AS of, c.keys, c.without, c.hashed, (SELECT array_agg(a.attname::text ORDER BY a.attnum) FROM pg_attribute a
			WHERE a.attrelid = c.name::regclass AND a.attnum > 0 AND NOT a.attisdropped AND a.attname <> ALL (c.without)) AS columns
		FROM sealed_table c`;
	for (const t of tables)
		await found.rows(
			'I9',
			t.of,
			sql`WITH now AS (
					SELECT row_key(to_jsonb(x), ${t.keys}) AS row, row_state(to_jsonb(x), ${t.without}, ${t.hashed}) AS state FROM (SELECT ${sql(t.columns)} FROM ${sql(t.of)}) x),
				last AS (SELECT DISTINCT ON (row) row, state FROM row_version WHERE of = ${t.of} ORDER BY row, id DESC)
			SELECT format('%s %s %s', ${t.of}::text, coalesce(now.row, last.row), CASE WHEN now.row IS NULL THEN 'is missing; it was recorded as ' || left(last.state, 300)
					WHEN last.state IS NULL THEN 'was added past its record' ELSE format('is %s, was recorded as %s', left(now.state, 300), left(last.state, 300)) END) AS what, count(*) OVER () AS count
				FROM now FULL JOIN last ON last.row = now.row WHERE now.state IS DISTINCT FROM last.state ORDER BY coalesce(now.row, last.row) LIMIT 1`
		);
}
