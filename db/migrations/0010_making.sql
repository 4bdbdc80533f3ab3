-- What is in what.

-- With how each became known.
CREATE OR REPLACE VIEW effective_movement AS
	SELECT m.* FROM movement m
	WHERE m.mirrors IS NULL AND NOT EXISTS (SELECT 1 FROM movement x WHERE x.mirrors = m.id);

-- Each use of a part with each number that its run made: one unit, or every lot and serial of a batch. A run that has made
-- nothing yet stands with none. `formerly`: all that was used of it there has been taken out again.
-- One plain SELECT, so that what is asked of it reaches its tables.
CREATE VIEW pairing AS
	SELECT u.id, u.at, u.event_id, u.run_id, u.mark_id AS part_id, coalesce(r.unit_mark, o.mark_id) AS made_id, u.qty, u.evidence,
		(SELECT sum(CASE x.role WHEN 'use' THEN x.qty ELSE -x.qty END) <= 0 FROM effective_movement x
			WHERE x.run_id = u.run_id AND x.mark_id = u.mark_id AND x.role IN ('use', 'detach')) AS formerly
	FROM effective_movement u JOIN run r ON r.id = u.run_id
	LEFT JOIN LATERAL (SELECT DISTINCT k.mark_id FROM effective_movement k WHERE k.run_id = r.id AND k.role = 'make' AND r.unit_mark IS NULL) o ON true
	WHERE u.role = 'use';
GRANT SELECT ON pairing TO earmark_app;
-- The newest first, a page at a time.
CREATE INDEX movement_use ON movement (at, id) WHERE role = 'use';
