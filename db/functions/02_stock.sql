-- Movements that count, what of a line is done, what is where at a moment.

-- With how each became known.
CREATE VIEW effective_movement AS
	SELECT m.* FROM movement m
	WHERE m.mirrors IS NULL AND NOT EXISTS (SELECT 1 FROM movement x WHERE x.mirrors = m.id);
COMMENT ON VIEW effective_movement IS 'The effective ledger: without what was undone, and without the undoing.';
GRANT SELECT ON effective_movement TO earmark_app;

-- The rule that counts for an item: its own, or its kind's; of the numbers that the item carries.
CREATE VIEW item_rule AS
	SELECT i.id AS item_id, r.step, CASE WHEN i.tracking LIKE '%lot%' THEN r.lot ELSE 'not asked' END AS lot,
		CASE WHEN i.tracking LIKE '%serial%' THEN r.serial ELSE 'not asked' END AS serial,
		CASE WHEN i.tracking = 'none' THEN 'not asked' ELSE r.expiry END AS expiry, greatest(r.since, i.rule_since) AS since,
		CASE WHEN i.tracking = 'none' THEN 'any' ELSE r.evidence END AS evidence
	FROM item i JOIN marking_rule r ON r.item_id = i.id WHERE i.own_rule
	UNION ALL
	SELECT i.id, r.step, CASE WHEN i.tracking LIKE '%lot%' THEN r.lot ELSE 'not asked' END,
		CASE WHEN i.tracking LIKE '%serial%' THEN r.serial ELSE 'not asked' END,
		CASE WHEN i.tracking = 'none' THEN 'not asked' ELSE r.expiry END, greatest(r.since, i.rule_since),
		CASE WHEN i.tracking = 'none' THEN 'any' ELSE r.evidence END
	FROM item i JOIN marking_rule r ON r.kind_id = i.kind_id WHERE NOT i.own_rule;
COMMENT ON VIEW item_rule IS 'The marking rule of an item at each step: its own, or its kind’s.';
GRANT SELECT ON item_rule TO earmark_app;

CREATE VIEW item_fact AS
	SELECT i.id AS item_id, f.step, f.fact_id, f.how FROM item i JOIN fact_rule f ON f.item_id = i.id
		WHERE i.own_rule AND i.tracking <> 'none'
	UNION ALL
	SELECT i.id, f.step, f.fact_id, f.how FROM item i JOIN fact_rule f ON f.kind_id = i.kind_id
		WHERE NOT i.own_rule AND i.tracking <> 'none';
COMMENT ON VIEW item_fact IS 'Which facts an item asks at which step: its own, or its kind’s.';
GRANT SELECT ON item_fact TO earmark_app;

-- What each customer has: shipped to it, less what came back from it.
CREATE VIEW customer_has AS
	SELECT e.partner_id, m.mark_id, sum(CASE WHEN t.code = '@customer' THEN m.qty ELSE -m.qty END) AS qty,
		max(m.at) FILTER (WHERE t.code = '@customer') AS shipped_at
	FROM effective_movement m JOIN event e ON e.id = m.event_id JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place
	WHERE (t.code = '@customer') <> (f.code = '@customer') GROUP BY 1, 2;
COMMENT ON VIEW customer_has IS 'What of a mark is with which customer.';
GRANT SELECT ON customer_has TO earmark_app;

-- Serials that came back from a customer and were not made or bought anew since. One that came back twice stands here twice.
CREATE VIEW came_back AS
SELECT m.mark_id FROM movement m
WHERE m.from_place = 2 -- @customer: as a constant, so that the few movements from there are found first
	AND m.mirrors IS NULL AND NOT EXISTS (SELECT 1 FROM movement x WHERE x.mirrors = m.id)
	AND EXISTS (SELECT 1 FROM mark k WHERE k.id = m.mark_id AND k.kind = 'serial')
	AND NOT EXISTS (SELECT 1 FROM effective_movement n JOIN place f ON f.id = n.from_place
		WHERE n.mark_id = m.mark_id AND (f.code = '@supplier' OR n.role = 'make') AND (n.at > m.at OR n.at = m.at AND n.id > m.id));
COMMENT ON VIEW came_back IS 'Marks that came back from a customer.';
GRANT SELECT ON came_back TO earmark_app;

CREATE VIEW adjusted AS
	SELECT e.id AS event_id, m.id AS line, m.mark_id, s.id AS place_id, CASE WHEN f.virtual THEN m.qty ELSE -m.qty END AS change,
		CASE WHEN e.kind = 'correct' THEN 'corrected' WHEN e.kind = 'count' THEN 'counted' WHEN f.virtual THEN 'put in' WHEN t.code = '@scrap'
			THEN 'scrapped' ELSE 'taken out' END AS act,
		NULL::text AS field, NULL::text AS old, NULL::text AS new
	FROM event e JOIN movement m ON m.event_id = e.id JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place
	JOIN place s ON s.id = CASE WHEN f.virtual THEN t.id ELSE f.id END
	WHERE e.kind IN ('adjust', 'scrap', 'count', 'correct') AND f.virtual <> t.virtual
	-- What is recorded for the first time beside a number corrects nothing.
	UNION ALL SELECT e.id, hashtext(x.key)::bigint - 4294967296, c.mark_id, NULL, NULL, 'corrected', x.field, x.old, x.new
	FROM event e JOIN mark_change c ON c.event_id = e.id CROSS JOIN LATERAL (
		SELECT c.field AS key, c.field, c.old, c.new WHERE c.field <> 'facts'
		UNION ALL SELECT 'facts ' || o.key, coalesce(d.name, o.key), o.value, n.value
			FROM jsonb_each_text(CASE WHEN c.field = 'facts' THEN c.old::jsonb END) o
		LEFT JOIN jsonb_each_text(CASE WHEN c.field = 'facts' THEN c.new::jsonb END) n ON n.key = o.key LEFT JOIN fact d ON d.code = o.key
			WHERE n.value IS DISTINCT FROM o.value) x
	WHERE e.kind = 'correct';
COMMENT ON VIEW adjusted IS 'Movements that adjusted stock, with their reason.';
GRANT SELECT ON adjusted TO earmark_app;

-- What comes back on a line that sells is another number's turn: it counts against what went.
CREATE VIEW line_done AS
	SELECT m.order_line_id, m.mark_id, m.event_id, CASE
		WHEN m.role = 'detach' THEN -m.qty
		WHEN f.code = '@customer' THEN (SELECT CASE WHEN o.kind IN ('sale', 'counter') THEN -m.qty ELSE m.qty END FROM order_line l
			JOIN orders o ON o.id = l.order_id WHERE l.id = m.order_line_id)
		WHEN f.virtual OR t.virtual AND NOT f.transit THEN m.qty
		WHEN t.virtual THEN 0
		ELSE (SELECT CASE WHEN d.id IS NULL THEN 0 WHEN NOT f.transit THEN m.qty WHEN coalesce(t.site_id, t.id) = coalesce(d.site_id, d.id)
			THEN 0 ELSE -m.qty END
			FROM order_line l JOIN orders o ON o.id = l.order_id LEFT JOIN place d ON d.id = o.to_place_id WHERE l.id = m.order_line_id)
				END AS qty
	FROM effective_movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place WHERE m.order_line_id IS NOT NULL;
COMMENT ON VIEW line_done IS 'What each movement counts towards its order line.';
GRANT SELECT ON line_done TO earmark_app;

-- What is to be invoiced adds up every line that ever moved. What was undone is little: it is read once and
-- hashed, where the planner, which takes it for as much as all movements, sorted all of them to merge it.
CREATE VIEW line_sum AS
SELECT g.order_line_id, max(g.event_id) AS event_id, sum(CASE
	WHEN g.role = 'detach' THEN -g.qty
	WHEN f.code = '@customer' THEN (SELECT CASE WHEN o.kind IN ('sale', 'counter') THEN -g.qty ELSE g.qty END FROM order_line l
		JOIN orders o ON o.id = l.order_id WHERE l.id = g.order_line_id)
	WHEN f.virtual OR (t.virtual AND NOT f.transit) THEN g.qty
	WHEN t.virtual THEN 0
	ELSE (SELECT CASE WHEN d.id IS NULL THEN 0 WHEN NOT f.transit THEN g.qty WHEN coalesce(t.site_id, t.id) = coalesce(d.site_id, d.id)
		THEN 0 ELSE -g.qty END
		FROM order_line l JOIN orders o ON o.id = l.order_id LEFT JOIN place d ON d.id = o.to_place_id
			WHERE l.id = g.order_line_id) END) AS qty
FROM (SELECT m.order_line_id, m.role, m.from_place, m.to_place, sum(m.qty) AS qty, max(m.event_id) AS event_id FROM movement m
	WHERE m.order_line_id IS NOT NULL AND m.mirrors IS NULL AND m.id NOT IN (SELECT x.mirrors FROM movement x WHERE x.mirrors IS NOT NULL)
	GROUP BY 1, 2, 3, 4) g
JOIN place f ON f.id = g.from_place JOIN place t ON t.id = g.to_place GROUP BY 1;
COMMENT ON VIEW line_sum IS 'What is done of each order line.';
GRANT SELECT ON line_sum TO earmark_app;

-- What waits there for each line: what was picked, less what has gone or was put back, and no more than still stands there.
CREATE VIEW order_staged AS
	SELECT l.order_id, m.order_line_id, m.mark_id, s.id AS place_id,
		least(sum(CASE WHEN m.to_place = s.id THEN m.qty ELSE -m.qty END), b.qty) AS qty
	FROM effective_movement m JOIN place s ON s.staging AND (s.id = m.to_place OR s.id = m.from_place)
		JOIN order_line l ON l.id = m.order_line_id
	JOIN balance b ON b.mark_id = m.mark_id AND b.place_id = s.id AND b.qty > 0
	GROUP BY 1, 2, 3, 4, b.qty HAVING sum(CASE WHEN m.to_place = s.id THEN m.qty ELSE -m.qty END) > 0;
COMMENT ON VIEW order_staged IS 'What is staged for an order.';
GRANT SELECT ON order_staged TO earmark_app;

-- What is in transit for each line: what has left, less what has arrived, came back, or was given up, and no
-- more than still stands there.
CREATE VIEW order_transit AS
	SELECT l.order_id, m.order_line_id, m.mark_id, least(sum(CASE WHEN t.transit THEN m.qty ELSE -m.qty END), b.qty) AS qty
	FROM effective_movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place
		JOIN order_line l ON l.id = m.order_line_id
	JOIN balance b ON b.mark_id = m.mark_id AND b.place_id = CASE WHEN t.transit THEN t.id ELSE f.id END AND b.qty > 0
	WHERE f.transit <> t.transit GROUP BY 1, 2, 3, b.qty HAVING sum(CASE WHEN t.transit THEN m.qty ELSE -m.qty END) > 0;
COMMENT ON VIEW order_transit IS 'What of an order is in transit.';
GRANT SELECT ON order_transit TO earmark_app;

-- Rows that name a number at a place, as long as they hold it; which kinds of documents hold what they name says the table of kinds.
CREATE VIEW held_row AS
SELECT r.mark, r.place, r.unit, r.qty, r.order_id, r.line_id, r.code, r.kind, r.changed_by, r.changed_at
FROM (
	SELECT d.data ->> 'mark' AS mark, coalesce(d.data ->> 'place', '') AS place, d.data ->> 'unit' AS unit, d.order_id, d.line_id, o.code,
		o.kind, d.changed_by, d.changed_at,
		CASE WHEN d.data ->> 'qty' ~ '^[0-9]{1,13}([.][0-9]{1,12})?$' THEN (d.data ->> 'qty')::numeric END AS qty
	FROM draft_row d JOIN orders o ON o.id = d.order_id CROSS JOIN firm f
	WHERE d.data ? 'mark' AND o.closed_at IS NULL
		AND d.changed_at > now() - make_interval(days => f.hold_days)
) r WHERE r.qty > 0;
COMMENT ON VIEW held_row IS 'Rows of open sheets that hold the number they name.';
GRANT SELECT ON held_row TO earmark_app;

-- What stood where at a moment: what stands there now and what moved since. What is empty now says nothing by itself.
CREATE OR REPLACE FUNCTION stock_at(moment timestamp with time zone) RETURNS TABLE(mark_id bigint, place_id bigint, qty numeric)
	LANGUAGE sql STABLE
AS $$
	SELECT s.mark_id, s.place_id, sum(s.qty) FROM (
		SELECT b.mark_id, b.place_id, b.qty FROM balance b WHERE b.qty > 0 AND NOT b.virtual
		UNION ALL SELECT m.mark_id, m.to_place, -m.qty FROM movement m WHERE m.at > moment
		UNION ALL SELECT m.mark_id, m.from_place, m.qty FROM movement m WHERE m.at > moment) s GROUP BY s.mark_id, s.place_id
$$;

-- The same of one lot or serial.
CREATE OR REPLACE FUNCTION stock_of_at(mark bigint, moment timestamp with time zone) RETURNS TABLE(mark_id bigint, place_id bigint,
	qty numeric)
	LANGUAGE sql STABLE
AS $$
	SELECT s.mark_id, s.place_id, sum(s.qty) FROM (
		SELECT b.mark_id, b.place_id, b.qty FROM balance b WHERE b.mark_id = mark AND b.qty > 0 AND NOT b.virtual
		UNION ALL SELECT m.mark_id, m.to_place, -m.qty FROM movement m WHERE m.mark_id = mark AND m.at > moment
		UNION ALL SELECT m.mark_id, m.from_place, m.qty FROM movement m WHERE m.mark_id = mark AND m.at > moment) s
			GROUP BY s.mark_id, s.place_id
$$;

-- What was counted last of each mark at each place of a count, and who counted it before that.
CREATE OR REPLACE FUNCTION count_rows(of bigint) RETURNS TABLE(place_id bigint, mark_id bigint, item_id bigint, number text,
	listed boolean, entry_id bigint, expected numeric, counted numeric, evidence text, made_by text, at timestamp with time zone,
	before_by text)
	LANGUAGE sql STABLE
AS $$
	SELECT coalesce(l.place_id, e.place_id), coalesce(l.mark_id, e.mark_id), e.item_id, e.number, l.mark_id IS NOT NULL, e.id, e.expected,
		e.counted, e.evidence, e.made_by, e.at,
		(SELECT b.made_by FROM count_entry b WHERE b.order_id = of AND b.place_id = e.place_id AND b.mark_id IS NOT DISTINCT
			FROM e.mark_id AND b.item_id IS NOT DISTINCT FROM e.item_id
			AND b.number IS NOT DISTINCT FROM e.number AND b.id < e.id AND b.counted IS NOT NULL AND b.made_by <> e.made_by
				ORDER BY b.id DESC LIMIT 1)
	FROM (SELECT * FROM count_list WHERE order_id = of) l
	FULL JOIN (SELECT DISTINCT ON (place_id, mark_id, item_id, number) * FROM count_entry WHERE order_id = of
		ORDER BY place_id, mark_id, item_id, number, id DESC) e
		ON e.place_id = l.place_id AND e.mark_id = l.mark_id
$$;
GRANT EXECUTE ON FUNCTION count_rows(of bigint) TO earmark_app;

CREATE OR REPLACE FUNCTION shown_day(at timestamp with time zone) RETURNS text
	LANGUAGE sql STABLE
AS $$
	SELECT to_char(at AT TIME ZONE (SELECT zone FROM firm), 'YYYY-MM-DD')
$$;

-- A moment and its day as lists show them: in the firm's time.
CREATE OR REPLACE FUNCTION shown_time(at timestamp with time zone) RETURNS text
	LANGUAGE sql STABLE
AS $$
	SELECT to_char(at AT TIME ZONE (SELECT zone FROM firm), 'YYYY-MM-DD HH24:MI')
$$;
