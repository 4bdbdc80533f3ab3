-- What is to be invoiced adds up every line that ever moved. What was undone is little: it is read once and hashed, where
-- the planner, which takes it for as much as all movements, sorted all of them to merge it.
CREATE OR REPLACE VIEW line_sum AS
SELECT g.order_line_id, max(g.event_id) AS event_id, sum(CASE
	WHEN g.role = 'detach' THEN -g.qty
	WHEN f.code = '@customer' THEN (SELECT CASE WHEN o.kind IN ('sale', 'counter') THEN -g.qty ELSE g.qty END FROM order_line l JOIN orders o ON o.id = l.order_id WHERE l.id = g.order_line_id)
	WHEN f.virtual OR (t.virtual AND NOT f.transit) THEN g.qty
	WHEN t.virtual THEN 0
	ELSE (SELECT CASE WHEN d.id IS NULL THEN 0 WHEN NOT f.transit THEN g.qty WHEN coalesce(t.site_id, t.id) = coalesce(d.site_id, d.id) THEN 0 ELSE -g.qty END
		FROM order_line l JOIN orders o ON o.id = l.order_id LEFT JOIN place d ON d.id = o.to_place_id WHERE l.id = g.order_line_id) END) AS qty
FROM (SELECT m.order_line_id, m.role, m.from_place, m.to_place, sum(m.qty) AS qty, max(m.event_id) AS event_id FROM movement m
	WHERE m.order_line_id IS NOT NULL AND m.mirrors IS NULL AND m.id NOT IN (SELECT x.mirrors FROM movement x WHERE x.mirrors IS NOT NULL)
	GROUP BY 1, 2, 3, 4) g
JOIN place f ON f.id = g.from_place JOIN place t ON t.id = g.to_place GROUP BY 1;
