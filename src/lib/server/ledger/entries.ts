import type { Db } from '../database/connect.ts';
import { differences } from '../../core/ledger/entry.ts';
import { Growing, type Node } from '../../core/merkle/tree.ts';
import type { Check, Findings, Progress } from './findings.ts';
import { sha256, type PaperHead } from './seal.ts';

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
const hex = (b: Uint8Array) => Buffer.from(b).toString('hex');

/** Entries after one index, up to another; open where there is none. As text: an index past every guard may be any. */
type Span = readonly [after: string | undefined, to: string | undefined];

/**
 * Holds some entries against what the tables give, a batch at a time.
 * @param each is given the leaves of each batch
 */
async function compareEntries(
	sql: Db,
	found: Findings,
	[start, to]: Span,
	each: (leaves: Leaves) => void
): Promise<void> {
	for (let after = start; ;) {
		const of = sql`true ${after ? sql`AND index > ${after}` : sql``} ${to ? sql`AND index <= ${to}` : sql``}`;
		const batch = await sql<Sealed[]>`
			WITH part AS MATERIALIZED (
				-- Read out of its storage once: every mention of a long text would do that again.
				SELECT l.index, l.event_id, l.row_version_id, l.hash, l.entry || '' AS entry
				FROM (SELECT n.index, sum(octet_length(n.entry)) OVER (ORDER BY n.index) - octet_length(n.entry) AS before
					FROM (SELECT index, entry FROM ledger_leaf WHERE ${of} ORDER BY index LIMIT ${BATCH}) n) b
				JOIN ledger_leaf l USING (index) WHERE b.before < ${BATCH_BYTES}),
			now AS (
				SELECT x.event_id, 0::bigint AS row_version_id, x.entry FROM event_entries(ARRAY(SELECT event_id FROM part WHERE event_id IS NOT NULL)) x
				UNION ALL SELECT 0, y.row_version_id, y.entry FROM row_version_entries(ARRAY(SELECT row_version_id FROM part WHERE row_version_id IS NOT NULL)) y),
			held AS (
				SELECT s.*, n.entry AS made, n.entry IS NOT DISTINCT FROM s.entry AS same
				FROM part s LEFT JOIN now n ON n.event_id = coalesce(s.event_id, 0) AND n.row_version_id = coalesce(s.row_version_id, 0) OFFSET 0)
			SELECT index, event_id AS event, row_version_id AS record, hash, leaf_hash(entry) = hash AS hashed, same,
				CASE WHEN NOT same THEN entry END AS kept, CASE WHEN NOT same THEN made END AS made
			FROM held ORDER BY index`;
		if (!batch.length) return;
		for (const l of batch) {
			if (!l.hashed) found.add('I9', 'ledger_leaf', `entry ${l.index} does not have the hash that it was sealed with`);
			if (!l.same) tellEntry(found, l);
		}
		each({ indexes: batch.map((l) => Number(l.index)), hashes: Buffer.concat(batch.map(whole)) });
		after = batch[batch.length - 1].index;
	}
}

/** What is known of the entries once all of them were looked at. */
export interface Entries {
	/** the checks, which may run side by side */
	checks: Check[];
	/** how many entries there are, and the root over them in hex, once every check has run; looks at the end of the tree */
	finish: (found: Findings) => { size: number; root: string };
}

/**
 * I9: each entry is what the tables give, each hash that of its entry, and the tree is over all of them. The tree is grown in
 * the order of the entries, whatever part of them is read first.
 * @param head a head that somebody kept outside: the ledger has to begin with its entries
 */
export async function entriesOf(sql: Db, head: PaperHead | undefined, progress: Progress): Promise<Entries> {
	const [{ leaves, nodes }] = await sql<{ leaves: number; nodes: number }[]>`
		SELECT (SELECT count(*)::int FROM ledger_leaf) AS leaves, (SELECT count(*)::int FROM ledger_node) AS nodes`;
	const ends = await sql<{ index: string }[]>`
		SELECT index FROM (SELECT index, row_number() OVER (ORDER BY index) AS n FROM ledger_leaf) l WHERE n % ${BATCH} = 0 ORDER BY index`;
	const tree = new Growing(sha256);
	let [made, done, turn] = [0, 0, 0];
	const paper = (found: Findings) => {
		if (head && tree.size === head.size && !hex(tree.root()).startsWith(head.root.toLowerCase()))
			found.add(
				'I9',
				'ledger_leaf',
				`the first ${head.size} entries are not those of the paper: their root is ${hex(tree.root())}, the paper says ${head.root}`
			);
	};
	/** Grows the tree by some leaves. @returns the nodes that are full by them */
	const grow = ({ indexes, hashes }: Leaves, found: Findings) => {
		const full: { node: Node; hash: Uint8Array }[] = [];
		for (const [i, index] of indexes.entries()) {
			// A leaf is missing: every hash after it stands in another place.
			if (index !== tree.size) found.add('I9', 'ledger_leaf', `entry ${tree.size} is missing`, index - tree.size);
			full.push(...tree.add(hashes.subarray(32 * i, 32 * i + 32)));
			paper(found);
		}
		made += full.length;
		return full;
	};
	const checkNodes = (on: Db, found: Findings, full: ReturnType<typeof grow>) =>
		found.rows(
			'I9',
			'ledger_node',
			on`SELECT format('node %s/%s is not the hash of what is below it', w.level, w.index) AS what, count(*) OVER () AS count
				FROM unnest(${full.map((f) => f.node.level)}::smallint[], ${full.map((f) => f.node.index)}::bigint[], ${full.map((f) => hex(f.hash))}::text[]) w(level, index, hash)
				LEFT JOIN ledger_node n USING (level, index) WHERE n.hash IS DISTINCT FROM decode(w.hash, 'hex') ORDER BY w.level, w.index LIMIT 1`
		);
	// What is read before its turn waits until the parts before it are in the tree.
	const waiting = new Map<number, Leaves[]>();
	const checks = Array.from({ length: ends.length + 1 }, (_, part): Check => async (on, found) => {
		const read: Leaves[] = [];
		await compareEntries(on, found, [ends[part - 1]?.index, ends[part]?.index], (some) => {
			done += some.indexes.length;
			progress('entries', done, leaves);
			read.push(some);
		});
		waiting.set(part, read);
		const full: ReturnType<typeof grow> = [];
		for (let next = waiting.get(turn); next; next = waiting.get(turn)) {
			waiting.delete(turn++);
			for (const some of next) full.push(...grow(some, found));
		}
		if (full.length) await checkNodes(on, found, full);
	});
	return {
		checks,
		finish: (found) => {
			if (!tree.size) paper(found);
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
	};
}

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
