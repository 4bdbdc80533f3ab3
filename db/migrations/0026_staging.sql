-- Where picked goods wait until they are shipped. A site that has such a place picks in an act of its own.
ALTER TABLE place ADD staging boolean NOT NULL DEFAULT false, ADD CHECK (NOT staging OR site_id IS NOT NULL AND NOT dock);
SELECT record_again('place');

-- What waits there for each line: what was picked, less what has gone or was put back, and no more than still stands there.
CREATE VIEW order_staged AS
	SELECT l.order_id, m.order_line_id, m.mark_id, s.id AS place_id, least(sum(CASE WHEN m.to_place = s.id THEN m.qty ELSE -m.qty END), b.qty) AS qty
	FROM effective_movement m JOIN place s ON s.staging AND (s.id = m.to_place OR s.id = m.from_place) JOIN order_line l ON l.id = m.order_line_id
	JOIN balance b ON b.mark_id = m.mark_id AND b.place_id = s.id AND b.qty > 0
	GROUP BY 1, 2, 3, 4, b.qty HAVING sum(CASE WHEN m.to_place = s.id THEN m.qty ELSE -m.qty END) > 0;
GRANT SELECT ON order_staged TO earmark_app;

-- A promise to a line counts until it has gone out on the line: not while it waits.
CREATE OR REPLACE VIEW promise_left AS
	SELECT p.*, greatest(p.qty - p.taken - g.qty, 0) AS rest FROM promise p
	CROSS JOIN LATERAL (SELECT CASE WHEN p.partner_id IS NULL
		THEN (SELECT coalesce(sum(d.qty), 0) FROM line_done d WHERE d.mark_id = p.mark_id AND d.order_line_id = p.order_line_id AND d.event_id > p.since)
		ELSE (SELECT coalesce(sum(m.qty), 0) FROM effective_movement m JOIN place t ON t.id = m.to_place AND t.code = '@customer' JOIN event e ON e.id = m.event_id AND e.partner_id = p.partner_id
			WHERE m.mark_id = p.mark_id AND m.event_id > p.since) END AS qty) g
	WHERE p.released_at IS NULL;
