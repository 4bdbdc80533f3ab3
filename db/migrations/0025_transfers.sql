-- What goes from one site to another is in transit until it arrives: it stands at a place of its own, which is no site to work at.
ALTER TABLE place ADD transit boolean NOT NULL DEFAULT false,
	-- sites of one neighbourhood: what goes between them arrives in the same step
	ADD area text CHECK (length(area) BETWEEN 1 AND 60),
	ADD CHECK (site_id IS NULL OR area IS NULL AND NOT transit),
	ADD CHECK (NOT (virtual AND transit));
CREATE UNIQUE INDEX place_transit ON place (transit) WHERE transit;
INSERT INTO place (code, name, transit)
	SELECT CASE WHEN EXISTS (SELECT 1 FROM place WHERE code = 'IN-TRANSIT') THEN 'IN-TRANSIT.' ELSE 'IN-TRANSIT' END, 'In transit', true;
-- Where it goes to.
ALTER TABLE orders ADD to_place_id bigint REFERENCES place, ADD CHECK ((kind = 'transfer') = (to_place_id IS NOT NULL));
SELECT record_again(t) FROM unnest(ARRAY['place', 'orders']) t;

-- What counts for each line of an order. What arrives after it was in transit has counted as it left; what came back from
-- there to where it was has not left; what only waits at another place of the firm counts when it goes.
CREATE VIEW line_done AS
	SELECT m.order_line_id, m.mark_id, m.event_id, CASE
		WHEN m.role = 'detach' THEN -m.qty
		WHEN f.virtual OR t.virtual AND NOT f.transit THEN m.qty
		WHEN t.virtual THEN 0
		ELSE (SELECT CASE WHEN d.id IS NULL THEN 0 WHEN NOT f.transit THEN m.qty WHEN coalesce(t.site_id, t.id) = coalesce(d.site_id, d.id) THEN 0 ELSE -m.qty END
			FROM order_line l JOIN orders o ON o.id = l.order_id LEFT JOIN place d ON d.id = o.to_place_id WHERE l.id = m.order_line_id) END AS qty
	FROM effective_movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place WHERE m.order_line_id IS NOT NULL;
-- What is in transit for each line: what has left, less what has arrived, came back, or was given up, and no more than still
-- stands there.
CREATE VIEW order_transit AS
	SELECT l.order_id, m.order_line_id, m.mark_id, least(sum(CASE WHEN t.transit THEN m.qty ELSE -m.qty END), b.qty) AS qty
	FROM effective_movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place JOIN order_line l ON l.id = m.order_line_id
	JOIN balance b ON b.mark_id = m.mark_id AND b.place_id = CASE WHEN t.transit THEN t.id ELSE f.id END AND b.qty > 0
	WHERE f.transit <> t.transit GROUP BY 1, 2, 3, b.qty HAVING sum(CASE WHEN t.transit THEN m.qty ELSE -m.qty END) > 0;
GRANT SELECT ON line_done, order_transit TO earmark_app;
