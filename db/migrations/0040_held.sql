-- A row of an open sheet holds its number: others are not offered it. So many days after it was last changed it does so no more.
ALTER TABLE firm ADD hold_days smallint NOT NULL DEFAULT 14 CHECK (hold_days BETWEEN 1 AND 365);
GRANT UPDATE (hold_days) ON firm TO earmark_app;

-- Rows that name a number at a place, as long as they hold it; which kinds of documents hold what they name says the table of kinds.
CREATE VIEW held_row AS
SELECT r.mark, r.place, r.unit, r.qty, r.order_id, r.line_id, r.code, r.kind, r.changed_by, r.changed_at
FROM (
	SELECT d.data ->> 'mark' AS mark, coalesce(d.data ->> 'place', '') AS place, d.data ->> 'unit' AS unit, d.order_id, d.line_id, o.code, o.kind, d.changed_by, d.changed_at,
		CASE WHEN d.data ->> 'qty' ~ '^[0-9]{1,13}([.][0-9]{1,12})?$' THEN (d.data ->> 'qty')::numeric END AS qty
	FROM draft_row d JOIN orders o ON o.id = d.order_id CROSS JOIN firm f
	WHERE d.data ? 'mark' AND o.closed_at IS NULL
		AND d.changed_at > now() - make_interval(days => f.hold_days)
) r WHERE r.qty > 0;
GRANT SELECT ON held_row TO earmark_app;
SELECT record_again('firm');

-- What made a number is asked whenever it leaves while anything in the firm is stopped.
CREATE INDEX movement_make ON movement (mark_id) WHERE role = 'make';

-- What only gave a number to what had none is in nothing: it is the same thing, with its number.
CREATE OR REPLACE VIEW pairing AS
	SELECT u.id, u.at, u.event_id, u.run_id, u.mark_id AS part_id, coalesce(r.unit_mark, o.mark_id) AS made_id,
		CASE WHEN b.back < u.qty THEN u.qty - b.back ELSE u.qty END AS qty, u.evidence,
		b.back >= u.qty OR (SELECT sum(CASE x.role WHEN 'use' THEN x.qty ELSE -x.qty END) <= 0 FROM effective_movement x
			WHERE x.run_id = u.run_id AND x.mark_id = u.mark_id AND x.role IN ('use', 'detach')) AS formerly
	FROM effective_movement u JOIN run r ON r.id = u.run_id
	LEFT JOIN LATERAL (SELECT DISTINCT k.mark_id FROM effective_movement k WHERE k.run_id = r.id AND k.role = 'make' AND r.unit_mark IS NULL) o ON true
	CROSS JOIN LATERAL (SELECT CASE WHEN r.unit_mark IS NULL AND EXISTS (SELECT 1 FROM movement d WHERE d.run_id = u.run_id AND d.role = 'detach' AND d.mark_id = u.mark_id)
		THEN (SELECT greatest(sum(CASE WHEN x.role = 'detach' THEN x.qty WHEN (x.at, x.id) > (u.at, u.id) THEN -x.qty ELSE 0 END), 0) FROM effective_movement x
			WHERE x.run_id = u.run_id AND x.mark_id = u.mark_id AND x.role IN ('use', 'detach')) ELSE 0 END AS back) b
	WHERE u.role = 'use' AND NOT EXISTS (SELECT 1 FROM mark p JOIN mark q ON q.item_id = p.item_id AND q.kind <> 'unmarked'
		WHERE q.id = o.mark_id AND p.id = u.mark_id AND (p.kind = 'unmarked' OR p.id = q.parent_id));
