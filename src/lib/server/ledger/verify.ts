import type { Db } from '../database/connect.ts';
import { differences } from '../../core/ledger/entry.ts';
import { Growing, type Node } from '../../core/merkle/tree.ts';
import { Findings, type Finding } from './findings.ts';
import { guardsOf, type Guards } from './guards.ts';
import { checkInvariants } from './invariants.ts';
import { sha256, type PaperHead } from './seal.ts';

/** What was checked, and what was found. */
export interface Verified {
	events: number;
	movements: number;
	/** entries of the ledger, and the root over them in hex */
	size: number;
	root: string;
	findings: Finding[];
}
/** What a check is told besides. */
export interface VerifyOptions {
	/** what the guards of the database are to be; without them they are not looked at */
	guards?: Guards | null;
	/** a head of the ledger that somebody kept outside */
	head?: PaperHead;
	/** told of each step, and how far it is where it is long */
	progress?: (step: string, done?: number, of?: number) => void;
	/** two more connections within the same snapshot: entries are made anew on two, everything else is looked at on the third */
	beside?: readonly [Db, Db];
}

/**
 * Checks a live database: each entry against the tables, each balance against the movements, what is set up against what was
 * recorded of it, the guards, and every invariant. It reads in a stream: memory does not grow with the ledger.
 * @param sql as the owner, within one snapshot
 */
export async function verify(sql: Db, options: VerifyOptions = {}): Promise<Verified> {
	const { progress = () => {}, beside } = options;
	const found = new Findings();
	if (options.guards) {
		progress('guards of the database');
		await checkGuards(sql, found, options.guards);
	}
	const rest = new Findings();
	const restOf = async (other: Db) => {
		await checkLoose(other, rest);
		progress('what is set up');
		await checkRecords(other, rest);
		progress('files');
		await rest.rows(
			'I9',
			'stored_file',
			other`SELECT format('file %s does not have the content that it is named by', sha256) AS what, count(*) OVER () AS count FROM stored_file
				WHERE encode(sha256(content), 'hex') <> sha256 LIMIT 1`
		);
		await checkInvariants(other, rest, progress);
	};
	let tree: Awaited<ReturnType<typeof checkEntries>>;
	if (beside) [tree] = await Promise.all([checkEntries([sql, beside[0]], found, options), restOf(beside[1])]);
	else {
		tree = await checkEntries([sql], found, options);
		await restOf(sql);
	}
	found.take(rest);
	const [counts] = await sql<{ events: number; movements: number }[]>`
		SELECT (SELECT count(*)::int FROM event) AS events, (SELECT count(*)::int FROM movement) AS movements`;
	return { ...counts, ...tree, findings: found.list() };
}

/** I1: the guards of the database are what the migrations make. */
async function checkGuards(sql: Db, found: Findings, wanted: Guards): Promise<void> {
	const there = await guardsOf(sql);
	for (const [name, is] of wanted) {
		const now = there.get(name);
		if (now === undefined) found.add('I1', 'guards', `${name} is missing`);
		else if (now !== is) found.add('I1', 'guards', `${name} is not as delivered: ${now.slice(0, 300)}`);
	}
	for (const name of there.keys()) if (!wanted.has(name)) found.add('I1', 'guards', `${name} was added`);
}

/** How many entries, and how many bytes of them, are looked at at a time. */
const BATCH = 2000;
const BATCH_BYTES = 8_000_000;

/** Some leaves in their order: what the tree over all of them needs. */
interface Leaves {
	indexes: number[];
	/** 32 bytes each */
	hashes: Buffer;
}

/** A hash as long as one is, whatever stands there: the others keep their places. */
const whole = ({ hash }: Sealed) => (hash.length === 32 ? hash : Buffer.concat([hash], 32));

/**
 * Holds the entries from one index to another against what the tables give, a batch at a time.
 * @param each is given the leaves of each batch
 */
async function compareEntries(
	sql: Db,
	found: Findings,
	[first, end]: readonly [number, number],
	each: (leaves: Leaves) => Promise<void>
): Promise<void> {
	for (let from = first; from < end;) {
		const batch = await sql<Sealed[]>`
			WITH part AS MATERIALIZED (
				SELECT l.* FROM (SELECT n.index, sum(octet_length(n.entry)) OVER (ORDER BY n.index) - octet_length(n.entry) AS before
					FROM (SELECT index, entry FROM ledger_leaf WHERE index >= ${from} AND index < ${end} ORDER BY index LIMIT ${BATCH}) n) b
				JOIN ledger_leaf l USING (index) WHERE b.before < ${BATCH_BYTES}),
			now AS (
				SELECT x.event_id, NULL::bigint AS record_id, x.entry FROM event_entries(ARRAY(SELECT event_id FROM part WHERE event_id IS NOT NULL)) x
				UNION ALL SELECT NULL, y.record_id, y.entry FROM record_entries(ARRAY(SELECT record_id FROM part WHERE record_id IS NOT NULL)) y)
			SELECT s.index, s.event_id AS event, s.record_id AS record, s.hash, leaf_hash(s.entry) = s.hash AS hashed, n.entry IS NOT DISTINCT FROM s.entry AS same,
				CASE WHEN n.entry IS DISTINCT FROM s.entry THEN s.entry END AS kept, CASE WHEN n.entry IS DISTINCT FROM s.entry THEN n.entry END AS made
			FROM part s LEFT JOIN now n ON n.event_id = s.event_id OR n.record_id = s.record_id ORDER BY s.index`;
		if (!batch.length) return;
		for (const l of batch) {
			if (!l.hashed) found.add('I9', 'ledger_leaf', `entry ${l.index} does not have the hash that it was sealed with`);
			if (!l.same) tellEntry(found, l);
		}
		await each({ indexes: batch.map((l) => Number(l.index)), hashes: Buffer.concat(batch.map(whole)) });
		from = Number(batch.at(-1)!.index) + 1;
	}
}

/**
 * I9: each entry is what the tables give, each hash that of its entry, and the tree is over all of them.
 * @param lanes connections within one snapshot, each of which takes its part of the entries
 */
async function checkEntries(
	lanes: readonly Db[],
	found: Findings,
	{ head, progress = () => {} }: VerifyOptions
): Promise<{ size: number; root: string }> {
	const hex = (b: Uint8Array) => Buffer.from(b).toString('hex');
	const [sql] = lanes;
	const [{ leaves, nodes, last }] = await sql<{ leaves: number; nodes: number; last: number }[]>`
		SELECT (SELECT count(*)::int FROM ledger_leaf) AS leaves, (SELECT count(*)::int FROM ledger_node) AS nodes, (SELECT coalesce(max(index), -1)::float8 FROM ledger_leaf) AS last`;
	const tree = new Growing(sha256);
	let [made, done] = [0, 0];
	const paper = () => {
		if (head && tree.size === head.size && !hex(tree.root()).startsWith(head.root.toLowerCase()))
			found.add(
				'I9',
				'ledger_leaf',
				`the first ${head.size} entries are not those of the paper: their root is ${hex(tree.root())}, the paper says ${head.root}`
			);
	};
	paper();
	/** Grows the tree by some leaves, and looks at the nodes that are full by them. */
	const grow = async ({ indexes, hashes }: Leaves) => {
		const full: { node: Node; hash: Uint8Array }[] = [];
		for (const [i, index] of indexes.entries()) {
			// A leaf is missing: every hash after it stands in another place.
			if (index !== tree.size) found.add('I9', 'ledger_leaf', `entry ${tree.size} is missing`, index - tree.size);
			full.push(...tree.add(hashes.subarray(32 * i, 32 * i + 32)));
			paper();
		}
		made += full.length;
		await found.rows(
			'I9',
			'ledger_node',
			sql`SELECT format('node %s/%s is not the hash of what is below it', w.level, w.index) AS what, count(*) OVER () AS count
				FROM unnest(${full.map((f) => f.node.level)}::smallint[], ${full.map((f) => f.node.index)}::bigint[], ${full.map((f) => hex(f.hash))}::text[]) w(level, index, hash)
				LEFT JOIN ledger_node n USING (level, index) WHERE n.hash IS DISTINCT FROM decode(w.hash, 'hex') ORDER BY w.level, w.index LIMIT 1`
		);
	};
	// The first lane grows the tree as it goes; what the others have read waits until it is their turn.
	const each = Math.ceil((last + 1) / lanes.length);
	const waiting = lanes.map(() => [] as Leaves[]);
	const theirs = lanes.map((_, i) => (i ? new Findings() : found));
	await Promise.all(
		lanes.map((lane, i) =>
			compareEntries(lane, theirs[i], [i * each, i === lanes.length - 1 ? last + 1 : (i + 1) * each], async (part) => {
				done += part.indexes.length;
				progress('entries', done, leaves);
				if (i) waiting[i].push(part);
				else await grow(part);
			})
		)
	);
	for (const [i, list] of waiting.entries()) {
		if (i) found.take(theirs[i]);
		for (const part of list) await grow(part);
	}
	if (nodes !== made)
		found.add('I9', 'ledger_node', `there are ${nodes} nodes over full subtrees, and should be ${made}`);
	if (head && head.size > tree.size)
		found.add(
			'I9',
			'ledger_leaf',
			`the ledger has ${tree.size} entries and the paper says ${head.size}: its end was cut off`
		);
	return { size: tree.size, root: hex(tree.root()) };
}

/** I9: every event and record is in the tree or waits for it, rows belong to events, and the former chain is whole. */
async function checkLoose(sql: Db, found: Findings): Promise<void> {
	await found.rows(
		'I9',
		'event',
		sql`SELECT format('event %s is not in the tree and does not wait for it', e.id) AS what, count(*) OVER () AS count FROM event e
			WHERE NOT EXISTS (SELECT 1 FROM ledger_leaf l WHERE l.event_id = e.id) AND NOT EXISTS (SELECT 1 FROM unsealed u WHERE u.event_id = e.id) ORDER BY e.id LIMIT 1`
	);
	await found.rows(
		'I9',
		'record',
		sql`SELECT format('record %s is not in the tree and does not wait for it', r.id) AS what, count(*) OVER () AS count FROM record r
			WHERE NOT EXISTS (SELECT 1 FROM ledger_leaf l WHERE l.record_id = r.id) AND NOT EXISTS (SELECT 1 FROM unsealed u WHERE u.record_id = r.id) ORDER BY r.id LIMIT 1`
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
const OF_EVENTS = [
	['movement', 'id'],
	['mark', 'id'],
	['run', 'id'],
	['run_closing', 'run_id'],
	['mark_change', 'mark_id'],
	['mark_alias', 'mark_id']
] as const;
interface Sealed {
	index: string;
	event: string | null;
	record: string | null;
	hash: Buffer;
	hashed: boolean;
	same: boolean;
	kept: string | null;
	made: string | null;
}
function tellEntry(found: Findings, l: Sealed): void {
	if (l.event) for (const d of differences(l.kept!, l.made)) found.add('I9', d.table, `event ${l.event}: ${d.what}`);
	else
		found.add(
			'I9',
			'record',
			`record ${l.record} is ${l.made?.slice(0, 300) ?? 'missing'}, was sealed as ${l.kept!.slice(0, 300)}`
		);
}

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
		SELECT c.of, c.keys, c.without, c.hashed, (SELECT array_agg(a.attname::text ORDER BY a.attnum) FROM pg_attribute a
			WHERE a.attrelid = c.of::regclass AND a.attnum > 0 AND NOT a.attisdropped AND a.attname <> ALL (c.without)) AS columns
		FROM covered() c`;
	for (const t of tables)
		await found.rows(
			'I9',
			t.of,
			sql`WITH now AS (
					SELECT row_key(to_jsonb(x), ${t.keys}) AS row, row_state(to_jsonb(x), ${t.without}, ${t.hashed}) AS state FROM (SELECT ${sql(t.columns)} FROM ${sql(t.of)}) x),
				last AS (SELECT DISTINCT ON (row) row, state FROM record WHERE of = ${t.of} ORDER BY row, id DESC)
			SELECT format('%s %s %s', ${t.of}::text, coalesce(now.row, last.row), CASE WHEN now.row IS NULL THEN 'is missing; it was recorded as ' || left(last.state, 300)
					WHEN last.state IS NULL THEN 'was added past its record' ELSE format('is %s, was recorded as %s', left(now.state, 300), left(last.state, 300)) END) AS what, count(*) OVER () AS count
				FROM now FULL JOIN last ON last.row = now.row WHERE now.state IS DISTINCT FROM last.state ORDER BY coalesce(now.row, last.row) LIMIT 1`
		);
}
