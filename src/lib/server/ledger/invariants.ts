import type { Db } from '../database/connect.ts';

/** What one invariant of the ledger says of its rows. */
export interface Invariant {
	rule: string;
	table: string;
	/** what it is about, as progress names it */
	of: string;
	/** what does not hold, a sentence `what` each */
	rows: (sql: Db) => ReturnType<Db>;
}

/** The invariants that are looked at in one statement each. */
export const INVARIANTS: readonly Invariant[] = [
	{
		rule: 'I3',
		table: 'balance',
		of: 'balances below zero',
		rows: (sql) => sql`
		SELECT format('%s at %s stands at %s', k.number, p.code, b.qty) AS what FROM balance b JOIN mark k ON k.id = b.mark_id
		JOIN place p ON p.id = b.place_id WHERE b.qty < 0 AND NOT p.virtual`
	},
	{
		rule: 'I4',
		table: 'balance',
		of: 'serials in one place',
		rows: (sql) => sql`
		SELECT format('serial %s of %s: %s pieces over all places', k.number, i.code, s.pieces) AS what
		FROM (SELECT mark_id, sum(qty) AS pieces FROM balance WHERE serial AND NOT virtual AND qty <> 0 GROUP BY 1 HAVING sum(qty) <> 1) s
		JOIN mark k ON k.id = s.mark_id JOIN item i ON i.id = k.item_id WHERE s.pieces <> 0`
	},
	{
		rule: 'I5',
		table: 'mark',
		of: 'numbers used once',
		rows: (sql) => sql`
		SELECT format('%s %s of %s stands for %s marks', kind, number, i.code, count(*)) AS what FROM mark k JOIN item i ON i.id = k.item_id
		WHERE kind <> 'unmarked' GROUP BY kind, number, i.code HAVING count(*) > 1
		UNION ALL SELECT format('serial %s is used by %s items', k.serial_no, count(DISTINCT k.item_id)) FROM mark k JOIN item i ON i.id = k.item_id
		WHERE k.kind = 'serial' GROUP BY k.serial_no HAVING count(DISTINCT k.item_id) > 1 AND bool_or(i.serials_unique_everywhere)`
	},
	{
		rule: 'I5',
		table: 'mark',
		of: 'numbers that look alike',
		// What a number looks like is asked before one more is taken: worked out anew here, whoever kept it.
		rows: (sql) => sql`
		SELECT format('%s is kept as %s, looking like %s', coalesce(k.serial_no, k.lot_no), k.number, k.looks) AS what FROM mark k
		WHERE k.kind <> 'unmarked' AND (k.number, k.looks) IS DISTINCT FROM (coalesce(k.serial_no, k.lot_no), looks(coalesce(k.serial_no, k.lot_no)))
		UNION ALL SELECT format('%s is kept as number %s of those that look like it, of %s', k.number, k.lookalike + 1, a.n + coalesce(f.n, 0))
		FROM mark k
		JOIN (SELECT looks, count(*) AS n FROM mark WHERE kind <> 'unmarked' AND looks IN (SELECT looks FROM mark WHERE lookalike <> 0) GROUP BY 1) a ON a.looks = k.looks
		LEFT JOIN (SELECT looks(old) AS looks, count(*) AS n FROM mark_change WHERE field IN ('lot_no', 'serial_no') GROUP BY 1) f ON f.looks = k.looks
		WHERE k.lookalike <> 0 AND k.lookalike NOT BETWEEN 1 AND a.n + coalesce(f.n, 0) - 1`
	},
	{
		rule: 'I6',
		table: 'movement',
		of: 'numbers that rules require',
		rows: (sql) => sql`
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
	},
	{
		rule: 'I7',
		table: 'run',
		of: 'content of repacking',
		rows: (sql) => sql`
		SELECT format('run %s: %s in, %s out', r.code, sum(CASE m.role WHEN 'use' THEN m.qty * i.content_qty ELSE 0 END), sum(CASE m.role WHEN 'make' THEN m.qty * i.content_qty ELSE 0 END)) AS what
		FROM effective_movement m JOIN event e ON e.id = m.event_id AND e.kind = 'repack' JOIN run r ON r.id = m.run_id JOIN mark k ON k.id = m.mark_id
		JOIN item i ON i.id = k.item_id GROUP BY r.code HAVING bool_and(i.content_qty IS NOT NULL) AND count(DISTINCT i.content_unit) = 1
			AND sum(CASE m.role WHEN 'use' THEN m.qty * i.content_qty ELSE -m.qty * i.content_qty END) <> 0`
	},
	{
		rule: 'I8',
		table: 'event',
		of: 'who, when and where',
		rows: (sql) => sql`
		SELECT format('event %s does not say who, when, from where or its key', id) AS what FROM event
		WHERE key = '' OR recorded_by = '' OR source = '' OR at IS NULL OR recorded_at IS NULL`
	},
	{
		rule: 'I10',
		table: 'event',
		of: 'undos',
		rows: (sql) => sql`
		SELECT format('undo %s does not mirror event %s', u.id, u.undoes) AS what FROM event u WHERE u.kind = 'undo' AND EXISTS (
			SELECT 1 FROM (SELECT * FROM movement WHERE event_id = u.undoes) o FULL JOIN (SELECT * FROM movement WHERE event_id = u.id) m ON m.mirrors = o.id
			WHERE o.id IS NULL OR m.id IS NULL OR m.mark_id <> o.mark_id OR m.qty <> o.qty OR m.from_place <> o.to_place OR m.to_place <> o.from_place)`
	},
	{
		rule: 'I9',
		table: 'movement',
		of: 'when things happened',
		rows: (sql) =>
			sql`SELECT format('movement %s happened on %s, its event on %s', m.id, m.at, e.at) AS what FROM movement m JOIN event e ON e.id = m.event_id WHERE m.at <> e.at`
	},
	{
		rule: 'I9',
		table: 'mark',
		of: 'when things happened',
		rows: (sql) => sql`
		SELECT format('%s of %s is %s, its last recorded change says %s', c.field, k.number, to_jsonb(k) ->> c.field, c.new) AS what FROM (
			SELECT DISTINCT ON (mark_id, field) * FROM mark_change ORDER BY mark_id, field, event_id DESC) c
		JOIN mark k ON k.id = c.mark_id WHERE to_jsonb(k) ->> c.field IS DISTINCT FROM c.new
		UNION ALL SELECT format('%s is %s, and no event says so', k.number, k.status) FROM mark k WHERE k.status <> 'released'
			AND NOT EXISTS (SELECT 1 FROM mark_change c WHERE c.mark_id = k.id AND c.field = 'status')
		UNION ALL SELECT format('%s changed %s times, and %s are recorded', k.number, k.version, count(c.mark_id)) FROM mark k LEFT JOIN mark_change c ON c.mark_id = k.id
			GROUP BY k.id, k.number, k.version HAVING k.version <> count(DISTINCT c.event_id)`
	},
	{
		rule: 'I9',
		table: 'stored_file',
		of: 'files',
		rows: (sql) => sql`
		SELECT format('file %s does not have the content that it is named by', sha256) AS what FROM stored_file WHERE encode(sha256(content), 'hex') <> sha256`
	},
	{
		rule: 'I12',
		table: 'floor',
		of: 'units on the floor',
		rows: (sql) => sql`
		SELECT format('%s is %s at %s on the floor, its last step says %s at %s', k.number, f.state, f.operation, s.state, s.operation) AS what
		FROM (SELECT DISTINCT ON (mark_id) * FROM step ORDER BY mark_id, id DESC) s FULL JOIN floor f ON f.mark_id = s.mark_id LEFT JOIN mark k ON k.id = coalesce(s.mark_id, f.mark_id)
		WHERE (f.operation, f.state, f.was, f.route_id, f.since, f.last_step) IS DISTINCT FROM (s.operation, s.state, s.was, s.route_id, s.at, s.id)`
	},
	{
		rule: 'I12',
		table: 'step',
		of: 'steps in their order',
		rows: (sql) => sql`
		SELECT format('step %s of %s begins at %s %s, the one before it ended at %s %s', s.id, k.number, s.from_state, s.from_operation, s.state_before, s.operation_before) AS what
		FROM (SELECT *, lag(operation) OVER w AS operation_before, lag(state) OVER w AS state_before, lag(at) OVER w AS at_before FROM step WINDOW w AS (PARTITION BY mark_id ORDER BY id)) s
		LEFT JOIN mark k ON k.id = s.mark_id WHERE (s.from_operation, s.from_state) IS DISTINCT FROM (s.operation_before, s.state_before) OR s.at < s.at_before`
	}
];
