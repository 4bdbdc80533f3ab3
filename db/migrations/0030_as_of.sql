-- Stock as it was at a moment: what is there now, less what came since, and with what went since. What was undone later
-- was there until then.
CREATE INDEX movement_since ON movement USING brin (at);
CREATE FUNCTION stock_at(moment timestamptz) RETURNS TABLE (mark_id bigint, place_id bigint, qty numeric) LANGUAGE sql STABLE AS $$
	SELECT s.mark_id, s.place_id, sum(s.qty) FROM (
		SELECT b.mark_id, b.place_id, b.qty FROM balance b WHERE NOT b.virtual
		UNION ALL SELECT m.mark_id, m.to_place, -m.qty FROM movement m WHERE m.at > moment
		UNION ALL SELECT m.mark_id, m.from_place, m.qty FROM movement m WHERE m.at > moment) s GROUP BY s.mark_id, s.place_id
$$;
-- What was recorded of a lot or serial at a moment: the value before the first change since, or what is recorded now.
CREATE FUNCTION recorded_at(mark bigint, what text, moment timestamptz, now_is text) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT CASE WHEN c.id IS NOT NULL THEN c.old ELSE now_is END FROM (SELECT 1) one LEFT JOIN LATERAL (
		SELECT c.event_id AS id, c.old FROM mark_change c JOIN event e ON e.id = c.event_id WHERE c.mark_id = mark AND c.field = what AND e.at > moment ORDER BY e.at, e.id LIMIT 1) c ON true
$$;
-- The last moment that a text means, as people of the firm read it: of a day its end, of a minute its beginning.
CREATE FUNCTION moment_of(written text) RETURNS timestamptz LANGUAGE sql STABLE AS $$
	SELECT CASE WHEN length(written) = 10 THEN ((written::date + 1)::timestamp AT TIME ZONE f.zone) - interval '1 microsecond' ELSE written::timestamp AT TIME ZONE f.zone END FROM firm f
$$;

-- So many days before its expiry something is noticed early: by item, thirty where nothing is said.
ALTER TABLE item ADD notice_days integer CHECK (notice_days BETWEEN 0 AND 36500);
SELECT record_again('item');
CREATE FUNCTION notice_on(expires date, days integer) RETURNS date LANGUAGE sql IMMUTABLE AS $$
	SELECT expires - coalesce(days, 30)
$$;
