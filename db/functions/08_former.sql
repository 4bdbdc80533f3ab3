-- What was sealed as a chain of hashes stays provable.

CREATE OR REPLACE FUNCTION event_text_of_stock(e event) RETURNS text
	LANGUAGE sql STABLE
AS $$
	SELECT json_build_array(e.id, e.key, e.kind, extract(epoch FROM e.at), extract(epoch FROM e.recorded_at), e.recorded_by, e.source,
			e.order_id, e.document, e.partner_id, e.reason, e.note, e.undoes)::text
		|| coalesce((SELECT string_agg(concat_ws(',', m.id, extract(epoch FROM m.at), m.mark_id, m.qty, m.from_place, m.to_place,
			coalesce(m.run_id::text, '-'),
			coalesce(m.role, '-'), coalesce(m.unit_cost::text, '-'), coalesce(m.order_line_id::text, '-'), coalesce(m.mirrors::text, '-')), ';'
				ORDER BY m.id)
			FROM movement m WHERE m.event_id = e.id), '-')
		|| coalesce((SELECT string_agg(json_build_array(k.id, k.item_id, k.kind,
			CASE WHEN c.changed ? 'lot_no' THEN c.changed ->> 'lot_no' ELSE k.lot_no END,
			CASE WHEN c.changed ? 'serial_no' THEN c.changed ->> 'serial_no' ELSE k.serial_no END,
			CASE WHEN c.changed ? 'parent_id' THEN c.changed ->> 'parent_id' ELSE k.parent_id::text END,
			CASE WHEN c.changed ? 'supplier_lot' THEN c.changed ->> 'supplier_lot' ELSE k.supplier_lot END,
			CASE WHEN c.changed ? 'made_on' THEN c.changed ->> 'made_on' ELSE to_char(k.made_on, 'YYYY-MM-DD') END,
			CASE WHEN c.changed ? 'expires_on' THEN c.changed ->> 'expires_on' ELSE to_char(k.expires_on, 'YYYY-MM-DD') END)::text, ';'
				ORDER BY k.id)
			FROM mark k LEFT JOIN LATERAL (
				SELECT jsonb_object_agg(f.field, f.old) AS changed FROM (
					SELECT DISTINCT ON (field) field, old FROM mark_change WHERE mark_id = k.id ORDER BY field, event_id) f) c ON true
			WHERE k.event_id = e.id), '-')
		|| coalesce((SELECT string_agg(json_build_array(r.id, r.code, r.order_id, r.unit_mark, r.planned)::text, ';' ORDER BY r.id)
			FROM run r WHERE r.event_id = e.id), '-')
		|| coalesce((SELECT string_agg(c.run_id::text, ';' ORDER BY c.run_id) FROM run_closing c WHERE c.event_id = e.id), '-')
		|| coalesce((SELECT string_agg(json_build_array(c.mark_id, c.field, c.old, c.new)::text, ';' ORDER BY c.mark_id, c.field)
			FROM mark_change c WHERE c.event_id = e.id), '-')
$$;

-- A fact may be taken away again (its undoing), so that the former chain's text no longer asks what is there now.
CREATE OR REPLACE FUNCTION event_text_of_facts(e event) RETURNS text
	LANGUAGE sql STABLE
AS $$
	SELECT event_text_of_stock(e) || coalesce((
		SELECT string_agg(json_build_array(n.id, n.facts, n.supplier_serial)::text, ';' ORDER BY n.id) FROM (
			SELECT k.id, coalesce(f.old, k.facts::text) AS facts, CASE WHEN s.mark_id IS NOT NULL THEN s.old ELSE k.supplier_serial
				END AS supplier_serial
			FROM mark k
			LEFT JOIN LATERAL (SELECT old FROM mark_change WHERE mark_id = k.id AND field = 'facts' ORDER BY event_id LIMIT 1) f ON true
			LEFT JOIN LATERAL (SELECT mark_id, old FROM mark_change WHERE mark_id = k.id AND field = 'supplier_serial'
				ORDER BY event_id LIMIT 1) s ON true
			WHERE k.event_id = e.id) n
		WHERE n.facts <> '{}' OR n.supplier_serial IS NOT NULL), '')
$$;

-- I9: what an event's hash covers, as text. Numbers of marks stand as they were first booked. Free text is
-- quoted as JSON, so that no text can be moved from one field to the next.
CREATE OR REPLACE FUNCTION event_text(e event) RETURNS text
	LANGUAGE sql STABLE
AS $$
	SELECT event_text_of_facts(e) || CASE WHEN e.job_id IS NULL AND e.request IS NULL THEN ''
		ELSE json_build_array(e.job_id, e.request)::text END
$$;

CREATE OR REPLACE FUNCTION event_hash(e event) RETURNS text
	LANGUAGE sql STABLE
AS $$
	SELECT encode(sha256(convert_to(e.prev_hash || event_text(e), 'UTF8')), 'hex')
$$;
