-- What is promised, and what is left of it.

-- A promise to a line counts until it has gone out on the line: not while it waits.
CREATE VIEW promise_left AS
	SELECT p.*, greatest(p.qty - p.taken - g.qty, 0) AS rest FROM promise p
	CROSS JOIN LATERAL (SELECT CASE WHEN p.partner_id IS NULL
		THEN (SELECT coalesce(sum(d.qty), 0) FROM line_done d
			WHERE d.mark_id = p.mark_id AND d.order_line_id = p.order_line_id AND d.event_id > p.since)
		ELSE (SELECT coalesce(sum(m.qty), 0) FROM effective_movement m JOIN place t ON t.id = m.to_place AND t.code = '@customer'
			JOIN event e ON e.id = m.event_id AND e.partner_id = p.partner_id
			WHERE m.mark_id = p.mark_id AND m.event_id > p.since) END AS qty) g
	WHERE p.released_at IS NULL;
COMMENT ON VIEW promise_left IS 'Promises with what is left of them.';
GRANT SELECT ON promise_left TO earmark_app;

-- Promises that count: to which line of which order, or to which customer.
CREATE VIEW promise_now AS
	SELECT p.id, p.mark_id, p.order_line_id, l.order_id, o.code AS order_code, o.kind AS order_kind, coalesce(s.code, q.code) AS site,
		p.until, p.rest,
		c.code AS partner, coalesce(o.code, c.name) AS "to"
	FROM firm f CROSS JOIN promise_left p LEFT JOIN order_line l ON l.id = p.order_line_id LEFT JOIN orders o ON o.id = l.order_id
	LEFT JOIN place q ON q.id = o.place_id LEFT JOIN place s ON s.id = q.site_id LEFT JOIN partner c ON c.id = p.partner_id
	WHERE p.rest > 0 AND o.closed_at IS NULL AND (p.until IS NULL
		OR p.until >= (now() AT TIME ZONE coalesce(q.zone, s.zone, f.zone))::date)
		AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = p.arrived);
COMMENT ON VIEW promise_now IS 'Promises that count now.';
GRANT SELECT ON promise_now TO earmark_app;

-- Is a promise an order's own: to a line of it, or to its customer? Everybody else's is taken over only with a reason.
CREATE OR REPLACE FUNCTION own_promise(p promise_now, of_order bigint, of_partner text) RETURNS boolean
	LANGUAGE sql IMMUTABLE
AS $$
	SELECT coalesce(p.order_id = of_order, p.partner = of_partner, false)
$$;
