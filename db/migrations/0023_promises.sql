-- What is promised to a line of an order, or to a customer for whom it was bought: so much of a lot, or a serial. Nothing moves
-- by it. It counts until it is released, its day has passed, its order is closed, or all of it has gone out on its line, or to
-- that customer. What somebody took over of it, with a reason, stands beside it.
CREATE TABLE promise (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	-- what asked for it; one act may promise several numbers
	key text NOT NULL CHECK (length(key) BETWEEN 1 AND 200),
	request text NOT NULL CHECK (request ~ '^[0-9a-f]{64}$'),
	order_line_id bigint REFERENCES order_line,
	partner_id bigint REFERENCES partner,
	CHECK (num_nonnulls(order_line_id, partner_id) = 1),
	-- the receipt that brought it, where it was bought for a customer: undone, nothing is promised
	arrived bigint REFERENCES event,
	CHECK (arrived IS NULL OR partner_id IS NOT NULL),
	mark_id bigint NOT NULL REFERENCES mark,
	qty numeric NOT NULL CHECK (qty > 0),
	-- its last day, at the site of the order
	until date,
	-- why, where it was taken over from another order
	reason text,
	-- the last event that there was: what had gone out by then does not count against it
	since bigint NOT NULL,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	-- how much of it was taken over, and who did so last, when, for what and why
	taken numeric NOT NULL DEFAULT 0 CHECK (taken BETWEEN 0 AND qty),
	taken_by text,
	taken_at timestamptz,
	taken_for text,
	taken_reason text,
	CHECK ((taken > 0) = (taken_by IS NOT NULL) AND (taken > 0) = (taken_at IS NOT NULL)),
	released_by text,
	released_at timestamptz,
	CHECK ((released_by IS NULL) = (released_at IS NULL)),
	UNIQUE (key, mark_id)
);
CREATE INDEX promise_mark ON promise (mark_id) WHERE released_at IS NULL AND taken < qty;
CREATE INDEX promise_line ON promise (order_line_id);
GRANT SELECT, INSERT ON promise TO earmark_app;
GRANT UPDATE (taken, taken_by, taken_at, taken_for, taken_reason, released_by, released_at) ON promise TO earmark_app;

-- What is bought for a customer is promised to it as it arrives.
ALTER TABLE order_line ADD for_partner_id bigint REFERENCES partner;
SELECT record_again('order_line');

-- A row of it is an entry of the ledger.
DO $$ DECLARE is_now text := pg_get_functiondef('covered()'::regprocedure);
BEGIN
	IF position('(''route'', ARRAY[' IN is_now) = 0 THEN RAISE EXCEPTION 'covered() is another one'; END IF;
	EXECUTE replace(is_now, '(''route'', ARRAY[', '(''promise'', ARRAY[''id''], ''{}'', ''{}''), (''route'', ARRAY[');
END $$;
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON promise FOR EACH ROW EXECUTE FUNCTION keep_record();

-- What is left of each promise that was not released: what was promised, less what was taken over, less what has gone since on
-- its line, or to its customer. It is never written, so that an undo gives it back.
CREATE VIEW promise_left AS
	SELECT p.*, greatest(p.qty - p.taken - g.qty, 0) AS rest FROM promise p
	CROSS JOIN LATERAL (
		SELECT coalesce(sum(CASE m.role WHEN 'detach' THEN -m.qty ELSE m.qty END), 0) AS qty FROM effective_movement m
		WHERE m.mark_id = p.mark_id AND m.event_id > p.since AND CASE WHEN p.partner_id IS NULL THEN m.order_line_id = p.order_line_id
			ELSE EXISTS (SELECT 1 FROM event e JOIN place t ON t.id = m.to_place AND t.code = '@customer' WHERE e.id = m.event_id AND e.partner_id = p.partner_id) END) g
	WHERE p.released_at IS NULL;

-- Promises that count: to which line of which order, or to which customer.
CREATE VIEW promise_now AS
	SELECT p.id, p.mark_id, p.order_line_id, l.order_id, o.code AS order_code, o.kind AS order_kind, coalesce(s.code, q.code) AS site, p.until, p.rest,
		c.code AS partner, coalesce(o.code, c.name) AS "to"
	FROM firm f CROSS JOIN promise_left p LEFT JOIN order_line l ON l.id = p.order_line_id LEFT JOIN orders o ON o.id = l.order_id
	LEFT JOIN place q ON q.id = o.place_id LEFT JOIN place s ON s.id = q.site_id LEFT JOIN partner c ON c.id = p.partner_id
	WHERE p.rest > 0 AND o.closed_at IS NULL AND (p.until IS NULL OR p.until >= (now() AT TIME ZONE coalesce(q.zone, s.zone, f.zone))::date)
		AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = p.arrived);
GRANT SELECT ON promise_left, promise_now TO earmark_app;

-- Is a promise an order's own: to a line of it, or to its customer? Everybody else's is taken over only with a reason.
CREATE FUNCTION own_promise(p promise_now, of_order bigint, of_partner text) RETURNS boolean LANGUAGE sql IMMUTABLE AS $$
	SELECT coalesce(p.order_id = of_order, p.partner = of_partner, false)
$$;

-- An event that takes what is promised is held to the promises that it was checked by, and to there being enough for those
-- that it does not take over; what it takes over stands with them. Such marks are held alone: two that take from two bins of
-- one lot see each other.
DO $$ DECLARE is_now text := pg_get_functiondef('book_event(jsonb)'::regprocedure);
	hold text := 'e ? ''changes'' OR held ? ''arriving'')'; before text := '	-- Drawn now, so that of two events'; closing text := '	PERFORM close_event(number, e);';
BEGIN
	IF position(hold IN is_now) = 0 OR position(before IN is_now) = 0 OR position(closing IN is_now) = 0 THEN RAISE EXCEPTION 'book_event() is another one'; END IF;
	is_now := replace(is_now, hold, 'e ? ''changes'' OR held ? ''arriving'' OR held ? ''promises'')');
	is_now := replace(is_now, before, $new$	IF held ? 'leaving' AND coalesce((held ->> 'promises')::bigint[], '{}') <> ARRAY(SELECT p.id FROM promise p
		WHERE p.mark_id = ANY ((held ->> 'leaving')::bigint[]) AND p.released_at IS NULL AND p.taken < p.qty ORDER BY p.id) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'something was promised meanwhile';
	END IF;
	IF e ? 'taken' THEN
		UPDATE promise p SET taken = p.taken + t.qty, taken_by = e ->> 'by', taken_at = clock_timestamp(), taken_for = e ->> 'document', taken_reason = e ->> 'reason'
			FROM jsonb_to_recordset(e -> 'taken') t(id bigint, qty numeric) WHERE p.id = t.id;
		-- Whoever has the sheet of such an order open sees it at once.
		PERFORM pg_notify('order', json_build_object('code', n.code, 'by', '')::text) FROM (SELECT DISTINCT o.code FROM jsonb_to_recordset(e -> 'taken') t(id bigint)
			JOIN promise p ON p.id = t.id JOIN order_line l ON l.id = p.order_line_id JOIN orders o ON o.id = l.order_id) n;
	END IF;

$new$ || before);
	is_now := replace(is_now, closing, $new$	IF held ? 'promises' AND EXISTS (SELECT 1 FROM (SELECT n.mark_id, sum(n.rest) AS rest FROM promise_now n
			WHERE n.mark_id = ANY ((held ->> 'leaving')::bigint[]) AND NOT own_promise(n, (e ->> 'order')::bigint, e ->> 'partner') GROUP BY n.mark_id) n
		WHERE n.rest > (SELECT coalesce(sum(b.qty), 0) FROM balance b WHERE b.mark_id = n.mark_id AND NOT b.virtual)) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'what is promised was taken meanwhile';
	END IF;
$new$ || closing);
	EXECUTE is_now;
END $$;
