-- What is in force for a lot or serial.

-- A mark as a booking reads it, with what stands of it at real places.
CREATE VIEW mark_standing AS
	SELECT m.id, m.item_id, m.kind, m.lot_no, m.serial_no, m.parent_id, m.supplier_lot, m.supplier_serial, m.supplier_warranty_until,
		m.facts, m.made_on, m.expires_on, m.status, m.version,
		(SELECT string_agg(b.place_id || ' ' || trim_scale(b.qty) || ' ' || p.code, ',' ORDER BY p.code)
			FROM balance b CROSS JOIN LATERAL (SELECT code FROM place p WHERE p.id = b.place_id OFFSET 0) p
				WHERE b.mark_id = m.id AND b.qty > 0 AND NOT b.virtual) AS standing,
		m.owner
	FROM mark m;
COMMENT ON VIEW mark_standing IS 'Marks with what is in force for them: a serial has what its lot has.';
GRANT SELECT ON mark_standing TO earmark_app;

-- A number with all that is in force for it: its own or its lot's, whichever is worse. Whoever asks what a number is asks this view.
CREATE VIEW mark_now AS
	SELECT k.id, k.item_id, k.kind, k.lot_no, k.serial_no, k.number, k.parent_id, k.supplier_lot, k.supplier_serial, k.made_on, k.event_id,
		k.facts, l.facts AS lot_facts,
		coalesce(l.facts, '{}') || k.facts AS facts_in_force, l.lot_no AS of_lot, k.status AS own_status,
			worse_status(k.status, l.status) AS status,
		k.expires_on AS own_expires_on, coalesce(k.expires_on, l.expires_on) AS expires_on, k.owner AS own_owner,
			coalesce(k.owner, l.owner) AS owner
	FROM mark k LEFT JOIN mark l ON l.id = k.parent_id;
COMMENT ON VIEW mark_now IS 'Marks with what is in force for them now.';
GRANT SELECT ON mark_now TO earmark_app;

-- A number and its lot are found in one statement.
CREATE OR REPLACE FUNCTION named_marks(serial_items bigint[], serials text[], lot_items bigint[], lots text[], bare_items bigint[],
	ids bigint[]) RETURNS SETOF mark_standing
	LANGUAGE plpgsql STABLE SET plan_cache_mode = force_generic_plan
AS $$
BEGIN
	IF cardinality(serials) > 0 THEN
		RETURN QUERY WITH f AS MATERIALIZED (SELECT v.* FROM unnest(serial_items, serials) w(item, number)
				JOIN mark_standing v ON v.item_id = w.item AND v.serial_no = w.number AND v.kind = 'serial')
			SELECT * FROM f UNION ALL SELECT v.* FROM (SELECT DISTINCT f.parent_id FROM f WHERE f.parent_id IS NOT NULL) p
				JOIN mark_standing v ON v.id = p.parent_id;
	END IF;
	IF cardinality(lots) > 0 THEN
		RETURN QUERY SELECT v.* FROM unnest(lot_items, lots) w(item, number)
			JOIN mark_standing v ON v.item_id = w.item AND v.lot_no = w.number AND v.kind = 'lot';
	END IF;
	IF cardinality(bare_items) > 0 THEN
		RETURN QUERY SELECT v.* FROM unnest(bare_items) w(item) JOIN mark_standing v ON v.item_id = w.item AND v.kind = 'unmarked';
	END IF;
	IF cardinality(ids) > 0 THEN
		RETURN QUERY WITH f AS MATERIALIZED (SELECT v.* FROM unnest(ids) w(id) JOIN mark_standing v ON v.id = w.id)
			SELECT * FROM f UNION ALL SELECT v.* FROM (SELECT DISTINCT f.parent_id FROM f WHERE f.parent_id IS NOT NULL) p
				JOIN mark_standing v ON v.id = p.parent_id;
	END IF;
END $$;

-- The number that a mark had when an event was booked: the one before the first change after it.
CREATE OR REPLACE FUNCTION number_then(mark bigint, changed text, booked bigint, now_is text) RETURNS text
	LANGUAGE sql STABLE
AS $$
	SELECT coalesce((SELECT c.old FROM mark_change c WHERE c.mark_id = mark AND c.field = changed AND c.event_id > booked
		ORDER BY c.event_id LIMIT 1), now_is)
$$;

-- What was recorded of a lot or serial at a moment: the value before the first change since, or what is recorded now.
CREATE OR REPLACE FUNCTION recorded_at(mark bigint, what text, moment timestamp with time zone, now_is text) RETURNS text
	LANGUAGE sql STABLE
AS $$
	SELECT CASE WHEN c.id IS NOT NULL THEN c.old ELSE now_is END FROM (SELECT 1) one LEFT JOIN LATERAL (
		SELECT c.event_id AS id, c.old FROM mark_change c JOIN event e ON e.id = c.event_id
			WHERE c.mark_id = mark AND c.field = what AND e.at > moment ORDER BY e.at, e.id LIMIT 1) c ON true
$$;

-- What only gave a number to what had none is in nothing: it is the same thing, with its number.
CREATE VIEW pairing AS
	SELECT u.id, u.at, u.event_id, u.run_id, u.mark_id AS part_id, coalesce(r.unit_mark, o.mark_id) AS made_id,
		CASE WHEN b.back < u.qty THEN u.qty - b.back ELSE u.qty END AS qty, u.evidence,
		b.back >= u.qty OR (SELECT sum(CASE x.role WHEN 'use' THEN x.qty ELSE -x.qty END) <= 0 FROM effective_movement x
			WHERE x.run_id = u.run_id AND x.mark_id = u.mark_id AND x.role IN ('use', 'detach')) AS formerly
	FROM effective_movement u JOIN run r ON r.id = u.run_id
	LEFT JOIN LATERAL (SELECT DISTINCT k.mark_id FROM effective_movement k
		WHERE k.run_id = r.id AND k.role = 'make' AND r.unit_mark IS NULL) o ON true
	CROSS JOIN LATERAL (SELECT CASE WHEN r.unit_mark IS NULL
		AND EXISTS (SELECT 1 FROM movement d WHERE d.run_id = u.run_id AND d.role = 'detach' AND d.mark_id = u.mark_id)
		THEN (SELECT greatest(sum(CASE WHEN x.role = 'detach' THEN x.qty WHEN (x.at, x.id) > (u.at, u.id) THEN -x.qty ELSE 0 END), 0)
			FROM effective_movement x
			WHERE x.run_id = u.run_id AND x.mark_id = u.mark_id AND x.role IN ('use', 'detach')) ELSE 0 END AS back) b
	WHERE u.role = 'use' AND NOT EXISTS (SELECT 1 FROM mark p JOIN mark q ON q.item_id = p.item_id AND q.kind <> 'unmarked'
		WHERE q.id = o.mark_id AND p.id = u.mark_id AND (p.kind = 'unmarked' OR p.id = q.parent_id));
COMMENT ON VIEW pairing IS 'What is in what: each part with what it went into.';
GRANT SELECT ON pairing TO earmark_app;
