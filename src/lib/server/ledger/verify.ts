import type { Db } from '../database/connect.ts';
import { differences } from '../../core/ledger/entry.ts';
import { Growing, type Node } from '../../core/merkle/tree.ts';
import type { Guards } from './guards.ts';
import { guardsOf } from './guards.ts';
import { sha256 } from './seal.ts';

/** What does not hold in one table by one rule: the first place, and how many there are. */
export interface Finding {
	rule: string;
	table: string;
	what: string;
	count: number;
}
/** A head on a paper. */
export interface PaperHead {
	size: number;
	/** in hex, whole or its first characters */
	root: string;
}
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
}

/** Rows that a check found, with how many there are in all. */
type Rows = Promise<readonly { what: string; count?: string }[]>;

/** Gathers what is found: of each rule and table the first, and how many. */
class Findings {
	private readonly found = new Map<string, Finding>();
	add(rule: string, table: string, what: string, count = 1): void {
		const there = this.found.get(`${rule} ${table}`);
		if (there) there.count += count;
		else this.found.set(`${rule} ${table}`, { rule, table, what, count });
	}
	async rows(rule: string, table: string, rows: Rows): Promise<void> {
		const [first] = await rows;
		if (first) this.add(rule, table, first.what, Number(first.count ?? 1));
	}
	list = (): Finding[] => [...this.found.values()];
}

/**
 * Checks a live database: each entry against the tables, each balance against the movements, what is set up against what was
 * recorded of it, the guards, and every invariant. It reads in a stream: memory does not grow with the ledger.
 * @param sql as the owner, within one snapshot
 */
export async function verify(sql: Db, options: VerifyOptions = {}): Promise<Verified> {
	const { progress = () => {} } = options;
	const found = new Findings();
	if (options.guards) {
		progress('guards of the database');
		await checkGuards(sql, found, options.guards);
	}
	const tree = await checkEntries(sql, found, options);
	progress('what is set up');
	await checkRecords(sql, found);
	progress('files');
	await found.rows(
		'I9',
		'stored_file',
		sql`SELECT format('file %s does not have the content that it is named by', sha256) AS what, count(*) OVER () AS count FROM stored_file
			WHERE encode(sha256(content), 'hex') <> sha256 LIMIT 1`
	);
	await checkInvariants(sql, found, progress);
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

/** I9: each entry is what the tables give, each hash that of its entry, and the tree is over all of them. */
async function checkEntries(
	sql: Db,
	found: Findings,
	{ head, progress = () => {} }: VerifyOptions
): Promise<{ size: number; root: string }> {
	const hex = (b: Uint8Array) => Buffer.from(b).toString('hex');
	const [{ leaves, nodes }] = await sql<{ leaves: number; nodes: number }[]>`
		SELECT (SELECT count(*)::int FROM ledger_leaf) AS leaves, (SELECT count(*)::int FROM ledger_node) AS nodes`;
	const tree = new Growing(sha256);
	let made = 0;
	const paper = () => {
		if (head && tree.size === head.size && !hex(tree.root()).startsWith(head.root.toLowerCase()))
			found.add(
				'I9',
				'ledger_leaf',
				`the first ${head.size} entries are not those of the paper: their root is ${hex(tree.root())}, the paper says ${head.root}`
			);
	};
	paper();
	for (let from = 0; ;) {
		const batch = await sql<Sealed[]>`
			WITH part AS MATERIALIZED (
				SELECT l.* FROM (SELECT n.index, sum(octet_length(n.entry)) OVER (ORDER BY n.index) - octet_length(n.entry) AS before
					FROM (SELECT index, entry FROM ledger_leaf WHERE index >= ${from} ORDER BY index LIMIT ${BATCH}) n) b
				JOIN ledger_leaf l USING (index) WHERE b.before < ${BATCH_BYTES}),
			now AS (
				SELECT x.event_id, NULL::bigint AS record_id, x.entry FROM event_entries(ARRAY(SELECT event_id FROM part WHERE event_id IS NOT NULL)) x
				UNION ALL SELECT NULL, y.record_id, y.entry FROM record_entries(ARRAY(SELECT record_id FROM part WHERE record_id IS NOT NULL)) y)
			SELECT s.index, s.event_id AS event, s.record_id AS record, s.hash, leaf_hash(s.entry) = s.hash AS hashed, n.entry IS NOT DISTINCT FROM s.entry AS same,
				CASE WHEN n.entry IS DISTINCT FROM s.entry THEN s.entry END AS kept, CASE WHEN n.entry IS DISTINCT FROM s.entry THEN n.entry END AS made
			FROM part s LEFT JOIN now n ON n.event_id = s.event_id OR n.record_id = s.record_id ORDER BY s.index`;
		if (!batch.length) break;
		const full: { node: Node; hash: Uint8Array }[] = [];
		for (const l of batch) {
			// A leaf is missing: every hash after it stands in another place.
			if (Number(l.index) !== tree.size)
				found.add('I9', 'ledger_leaf', `entry ${tree.size} is missing`, Number(l.index) - tree.size);
			if (!l.hashed) found.add('I9', 'ledger_leaf', `entry ${l.index} does not have the hash that it was sealed with`);
			if (!l.same) tellEntry(found, l);
			full.push(...tree.add(l.hash));
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
		from = Number(batch.at(-1)!.index) + 1;
		progress('entries', from, leaves);
	}
	if (nodes !== made)
		found.add('I9', 'ledger_node', `there are ${nodes} nodes over full subtrees, and should be ${made}`);
	if (head && head.size > tree.size)
		found.add(
			'I9',
			'ledger_leaf',
			`the ledger has ${tree.size} entries and the paper says ${head.size}: its end was cut off`
		);
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
	return { size: tree.size, root: hex(tree.root()) };
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

/** What each invariant of the ledger says of its rows, set by set. */
async function checkInvariants(sql: Db, found: Findings, progress: (step: string) => void): Promise<void> {
	progress('balances');
	await found.rows(
		'I2',
		'balance',
		counted(
			sql,
			sql`
		SELECT format('%s %s at %s: balance %s, movements %s', i.code, coalesce(k.number, 'unmarked'), p.code, coalesce(b.qty, 0), coalesce(s.qty, 0)) AS what
		FROM balance b FULL JOIN (
			SELECT mark_id, place_id, sum(qty) AS qty FROM (SELECT mark_id, to_place AS place_id, qty FROM movement
				UNION ALL SELECT mark_id, from_place, -qty FROM movement) d GROUP BY 1, 2) s USING (mark_id, place_id)
		JOIN mark k ON k.id = mark_id JOIN item i ON i.id = k.item_id JOIN place p ON p.id = place_id
		WHERE coalesce(b.qty, 0) <> coalesce(s.qty, 0) OR b.serial <> (k.kind = 'serial') OR b.virtual <> p.virtual`
		)
	);
	progress('balances below zero');
	await found.rows(
		'I3',
		'balance',
		counted(
			sql,
			sql`
		SELECT format('%s at %s stands at %s', k.number, p.code, b.qty) AS what FROM balance b JOIN mark k ON k.id = b.mark_id
		JOIN place p ON p.id = b.place_id WHERE b.qty < 0 AND NOT p.virtual`
		)
	);
	progress('serials in one place');
	await found.rows(
		'I4',
		'balance',
		counted(
			sql,
			sql`
		SELECT format('serial %s of %s: %s pieces over all places', k.number, i.code, sum(b.qty)) AS what FROM balance b
		JOIN mark k ON k.id = b.mark_id AND k.kind = 'serial' JOIN item i ON i.id = k.item_id JOIN place p ON p.id = b.place_id
		WHERE NOT p.virtual GROUP BY k.number, i.code HAVING sum(b.qty) NOT IN (0, 1)`
		)
	);
	progress('numbers used once');
	await found.rows(
		'I5',
		'mark',
		counted(
			sql,
			sql`
		SELECT format('%s %s of %s stands for %s marks', kind, number, i.code, count(*)) AS what FROM mark k JOIN item i ON i.id = k.item_id
		WHERE kind <> 'unmarked' GROUP BY kind, number, i.code HAVING count(*) > 1
		UNION ALL SELECT format('serial %s is used by %s items', k.serial_no, count(DISTINCT k.item_id)) FROM mark k JOIN item i ON i.id = k.item_id
		WHERE k.kind = 'serial' GROUP BY k.serial_no HAVING count(DISTINCT k.item_id) > 1 AND bool_or(i.serials_unique_everywhere)`
		)
	);
	progress('numbers that rules require');
	await found.rows(
		'I6',
		'movement',
		counted(
			sql,
			sql`
		WITH lacking AS MATERIALIZED (
			-- What lacks a number that its item carries: few, so that only of them the rule and the run are looked up.
			SELECT e.id AS event, e.recorded_at, m.qty, m.run_id, i.id AS item_id, i.code, coalesce(k.lot_no, k.of_lot) IS NULL AS no_lot, k.serial_no IS NULL AS no_serial,
				step_of(e.kind, f.code, t.code, coalesce(f.site_id, f.id), coalesce(t.site_id, t.id), m.role) AS step
			FROM mark_now k JOIN item i ON i.id = k.item_id
				AND (i.tracking LIKE '%lot%' AND coalesce(k.lot_no, k.of_lot) IS NULL OR i.tracking LIKE '%serial%' AND k.serial_no IS NULL)
			JOIN effective_movement m ON m.mark_id = k.id JOIN event e ON e.id = m.event_id
			JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place),
		refused AS MATERIALIZED (
			SELECT l.*, CASE WHEN r.lot = 'required' AND l.no_lot THEN 'lot' ELSE 'serial' END AS number FROM lacking l
			JOIN item_rule r ON r.item_id = l.item_id AND r.step = l.step AND r.since <= l.recorded_at
				AND (r.lot = 'required' AND l.no_lot OR r.serial = 'required' AND l.no_serial))
		SELECT format('event %s books %s of %s without its %s', l.event, l.qty, l.code, l.number) AS what FROM refused l
		-- A run that only gives numbers to what has fewer of them is no production, and nothing is asked of it.
		WHERE NOT EXISTS (
			SELECT 1 FROM movement o JOIN mark_now ok ON ok.id = o.mark_id JOIN run u ON u.id = o.run_id WHERE o.run_id = l.run_id GROUP BY o.run_id
			HAVING count(DISTINCT ok.item_id) = 1 AND bool_and(u.unit_mark IS NULL) AND bool_and(o.role IN ('use', 'make')) AND count(DISTINCT o.role) = 2
				AND bool_and(o.role <> 'use' OR ok.serial_no IS NULL)
				AND count(DISTINCT coalesce(ok.lot_no, ok.of_lot, '')) FILTER (WHERE o.role = 'use') = 1
				AND CASE WHEN bool_or(o.role = 'use' AND coalesce(ok.lot_no, ok.of_lot) IS NULL) THEN bool_and(o.role <> 'make' OR ok.kind <> 'unmarked')
					ELSE count(DISTINCT coalesce(ok.lot_no, ok.of_lot)) = 1 AND bool_and(o.role <> 'make' OR coalesce(ok.lot_no, ok.of_lot) IS NOT NULL AND ok.serial_no IS NOT NULL) END)`
		)
	);
	progress('content of repacking');
	await found.rows(
		'I7',
		'run',
		counted(
			sql,
			sql`
		SELECT format('run %s: %s in, %s out', r.code, sum(CASE m.role WHEN 'use' THEN m.qty * i.content_qty ELSE 0 END), sum(CASE m.role WHEN 'make' THEN m.qty * i.content_qty ELSE 0 END)) AS what
		FROM effective_movement m JOIN event e ON e.id = m.event_id AND e.kind = 'repack' JOIN run r ON r.id = m.run_id JOIN mark k ON k.id = m.mark_id
		JOIN item i ON i.id = k.item_id GROUP BY r.code HAVING bool_and(i.content_qty IS NOT NULL) AND count(DISTINCT i.content_unit) = 1
			AND sum(CASE m.role WHEN 'use' THEN m.qty * i.content_qty ELSE -m.qty * i.content_qty END) <> 0`
		)
	);
	progress('who, when and where');
	await found.rows(
		'I8',
		'event',
		counted(
			sql,
			sql`
		SELECT format('event %s does not say who, when, from where or its key', id) AS what FROM event
		WHERE key = '' OR recorded_by = '' OR source = '' OR at IS NULL OR recorded_at IS NULL`
		)
	);
	progress('undos');
	await found.rows(
		'I10',
		'event',
		counted(
			sql,
			sql`
		SELECT format('undo %s does not mirror event %s', u.id, u.undoes) AS what FROM event u WHERE u.kind = 'undo' AND EXISTS (
			SELECT 1 FROM (SELECT * FROM movement WHERE event_id = u.undoes) o FULL JOIN (SELECT * FROM movement WHERE event_id = u.id) m ON m.mirrors = o.id
			WHERE o.id IS NULL OR m.id IS NULL OR m.mark_id <> o.mark_id OR m.qty <> o.qty OR m.from_place <> o.to_place OR m.to_place <> o.from_place)`
		)
	);
	progress('the order of time');
	await found.rows(
		'I11',
		'movement',
		counted(
			sql,
			sql`
		SELECT format('%s at %s: %s on %s', k.number, p.code, t.level, t.at) AS what FROM (
			SELECT m.mark_id, s.place_id, m.at, sum(s.signed) OVER (PARTITION BY m.mark_id, s.place_id ORDER BY m.at, m.id) AS level
			FROM effective_movement m CROSS JOIN LATERAL (VALUES (m.to_place, m.qty), (m.from_place, -m.qty)) s(place_id, signed)) t
		JOIN place p ON p.id = t.place_id AND NOT p.virtual JOIN mark k ON k.id = t.mark_id WHERE t.level < 0`
		)
	);
	await found.rows(
		'I9',
		'movement',
		counted(
			sql,
			sql`SELECT format('movement %s happened on %s, its event on %s', m.id, m.at, e.at) AS what FROM movement m JOIN event e ON e.id = m.event_id WHERE m.at <> e.at`
		)
	);
	await found.rows(
		'I9',
		'mark',
		counted(
			sql,
			sql`
		SELECT format('%s of %s is %s, its last recorded change says %s', c.field, k.number, to_jsonb(k) ->> c.field, c.new) AS what FROM (
			SELECT DISTINCT ON (mark_id, field) * FROM mark_change ORDER BY mark_id, field, event_id DESC) c
		JOIN mark k ON k.id = c.mark_id WHERE to_jsonb(k) ->> c.field IS DISTINCT FROM c.new
		UNION ALL SELECT format('%s is %s, and no event says so', k.number, k.status) FROM mark k WHERE k.status <> 'released'
			AND NOT EXISTS (SELECT 1 FROM mark_change c WHERE c.mark_id = k.id AND c.field = 'status')
		UNION ALL SELECT format('%s changed %s times, and %s are recorded', k.number, k.version, count(c.mark_id)) FROM mark k LEFT JOIN mark_change c ON c.mark_id = k.id
			GROUP BY k.id, k.number, k.version HAVING k.version <> count(DISTINCT c.event_id)`
		)
	);
}
/** The first of some rows, and how many there are. */
const counted = (sql: Db, rows: ReturnType<Db>): Rows =>
	sql<{ what: string; count: string }[]>`SELECT r.what, count(*) OVER () AS count FROM (${rows}) r LIMIT 1`;
