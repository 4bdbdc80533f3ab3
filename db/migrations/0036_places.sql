-- What was moved from or to a place, the last first.
CREATE INDEX movement_from ON movement (from_place, id);
CREATE INDEX movement_to ON movement (to_place, id);

-- How much of an order line is done, and the last event of it: line_done added up, for many lines at once. Movements that
-- are alike are added up before their places are looked at; a test holds the two against each other.
CREATE VIEW line_sum AS
SELECT g.order_line_id, max(g.event_id) AS event_id, sum(CASE
	WHEN g.role = 'detach' THEN -g.qty
	WHEN f.code = '@customer' THEN (SELECT CASE WHEN o.kind IN ('sale', 'counter') THEN -g.qty ELSE g.qty END FROM order_line l JOIN orders o ON o.id = l.order_id WHERE l.id = g.order_line_id)
	WHEN f.virtual OR (t.virtual AND NOT f.transit) THEN g.qty
	WHEN t.virtual THEN 0
	ELSE (SELECT CASE WHEN d.id IS NULL THEN 0 WHEN NOT f.transit THEN g.qty WHEN coalesce(t.site_id, t.id) = coalesce(d.site_id, d.id) THEN 0 ELSE -g.qty END
		FROM order_line l JOIN orders o ON o.id = l.order_id LEFT JOIN place d ON d.id = o.to_place_id WHERE l.id = g.order_line_id) END) AS qty
FROM (SELECT m.order_line_id, m.role, m.from_place, m.to_place, sum(m.qty) AS qty, max(m.event_id) AS event_id FROM effective_movement m
	WHERE m.order_line_id IS NOT NULL GROUP BY 1, 2, 3, 4) g
JOIN place f ON f.id = g.from_place JOIN place t ON t.id = g.to_place GROUP BY 1;
GRANT SELECT ON line_sum TO earmark_app;
