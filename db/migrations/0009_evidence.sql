-- How each number became known; corrections of everything that is recorded of one, and their undoing; papers kept as they
-- were printed; mail.

-- What a changed table's rows are from now on is recorded once more: a column that is new belongs to their entries.
CREATE FUNCTION record_again(table_name text) RETURNS void LANGUAGE plpgsql SET timezone = 'UTC' AS $$
DECLARE c record;
BEGIN
	SELECT * INTO STRICT c FROM covered() WHERE of = table_name;
	EXECUTE format('INSERT INTO record (of, row, state) SELECT %L, row_key(to_jsonb(t), %L), row_state(to_jsonb(t), %L, %L) FROM %I t', c.of, c.keys, c.without, c.hashed, c.of);
END $$;

-- Evidence -----------------------------------------------------------------------------------------

-- NULL where nobody said: what was booked before this was asked, and stock without a number.
ALTER TABLE movement ADD evidence text CHECK (evidence IN ('scanned', 'entered', 'accepted', 'reported'));
-- What is enough at a step.
ALTER TABLE marking_rule ADD evidence text NOT NULL DEFAULT 'any' CHECK (evidence IN ('any', 'entered', 'scanned'));
SELECT record_again('marking_rule');
CREATE OR REPLACE VIEW item_rule AS
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

-- Corrections --------------------------------------------------------------------------------------

-- Until when the supplier answers for it.
ALTER TABLE mark ADD supplier_warranty_until date;
GRANT UPDATE (supplier_warranty_until) ON mark TO earmark_app;
ALTER TABLE mark_change DROP CONSTRAINT mark_change_field_check,
	ADD CONSTRAINT mark_change_field_check CHECK (field IN
		('lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'supplier_serial', 'supplier_warranty_until', 'made_on', 'expires_on', 'facts', 'status'));
CREATE OR REPLACE VIEW mark_standing AS
	SELECT m.id, m.item_id, m.kind, m.lot_no, m.serial_no, m.parent_id, m.supplier_lot, m.supplier_serial, m.facts, m.made_on, m.expires_on, m.status, m.version,
		(SELECT json_agg(json_build_object('place', b.place_id::text, 'code', p.code, 'qty', trim_scale(b.qty)::text) ORDER BY p.code)
			FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = m.id AND b.qty > 0 AND NOT b.virtual) AS standing,
		m.supplier_warranty_until
	FROM mark m;
-- Who was called so before: a number may be used again only while nothing printed carries it.
CREATE INDEX mark_alias_number ON mark_alias (number);

-- A run whose closing was undone is closed again by another event.
ALTER TABLE run_closing DROP CONSTRAINT run_closing_pkey, ADD PRIMARY KEY (run_id, event_id);

-- An event may put right the quantity of another that can no longer be undone.
ALTER TABLE event ADD mends bigint REFERENCES event;
CREATE INDEX event_mends ON event (mends) WHERE mends IS NOT NULL;

CREATE OR REPLACE FUNCTION guard_mark() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE f text; was jsonb; now_is jsonb; saying bigint;
BEGIN
	IF TG_OP = 'DELETE' OR NEW.id <> OLD.id OR NEW.item_id <> OLD.item_id OR NEW.kind <> OLD.kind OR NEW.event_id IS DISTINCT FROM OLD.event_id
		OR NEW.version <> OLD.version OR NEW.twin <> OLD.twin THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = 'a mark keeps its identity: it is never deleted or made another';
	END IF;
	was := to_jsonb(OLD); now_is := to_jsonb(NEW);
	FOREACH f IN ARRAY ARRAY['lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'supplier_serial', 'supplier_warranty_until', 'made_on', 'expires_on', 'facts', 'status'] LOOP
		IF was -> f IS DISTINCT FROM now_is -> f THEN
			SELECT c.event_id INTO saying FROM mark_change c WHERE c.mark_id = NEW.id AND c.field = f
				AND c.old IS NOT DISTINCT FROM was ->> f AND c.new IS NOT DISTINCT FROM now_is ->> f
				AND NOT EXISTS (SELECT 1 FROM event e WHERE e.id = c.event_id) LIMIT 1;
			IF NOT FOUND THEN
				RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('%s of a mark changes only by an event that records it', f);
			END IF;
			IF EXISTS (SELECT 1 FROM movement m WHERE m.mark_id = NEW.id AND m.event_id > saying) THEN
				RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'something was booked meanwhile';
			END IF;
		END IF;
	END LOOP;
	NEW.version := OLD.version + 1;
	IF looks(coalesce(NEW.serial_no, NEW.lot_no)) IS DISTINCT FROM OLD.looks THEN
		SELECT coalesce(max(k.twin) + 1, 0) INTO NEW.twin FROM mark k WHERE k.looks = looks(coalesce(NEW.serial_no, NEW.lot_no)) AND k.kind <> 'unmarked';
	END IF;
	RETURN NEW;
END $$;
-- A fact may be taken away again (its undoing), so that the former chain's text no longer asks what is there now.
CREATE OR REPLACE FUNCTION event_text_of_facts(e event) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT event_text_of_stock(e) || coalesce((
		SELECT string_agg(json_build_array(n.id, n.facts, n.supplier_serial)::text, ';' ORDER BY n.id) FROM (
			SELECT k.id, coalesce(f.old, k.facts::text) AS facts, CASE WHEN s.mark_id IS NOT NULL THEN s.old ELSE k.supplier_serial END AS supplier_serial
			FROM mark k
			LEFT JOIN LATERAL (SELECT old FROM mark_change WHERE mark_id = k.id AND field = 'facts' ORDER BY event_id LIMIT 1) f ON true
			LEFT JOIN LATERAL (SELECT mark_id, old FROM mark_change WHERE mark_id = k.id AND field = 'supplier_serial' ORDER BY event_id LIMIT 1) s ON true
			WHERE k.event_id = e.id) n
		WHERE n.facts <> '{}' OR n.supplier_serial IS NOT NULL), '')
$$;
DROP INDEX mark_more;

CREATE OR REPLACE FUNCTION change_marks(in_event bigint, changes jsonb) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
	PERFORM hold_marks(ARRAY(SELECT c.mark FROM jsonb_to_recordset(changes) c(mark bigint)), NULL, true);
	INSERT INTO mark_change (event_id, mark_id, field, old, new)
		SELECT in_event, c.mark, c.field, to_jsonb(k) ->> c.field, CASE c.field WHEN 'facts' THEN c.value::jsonb::text ELSE c.value END
		FROM jsonb_to_recordset(changes) c(mark bigint, field text, value text) JOIN mark k ON k.id = c.mark;
	INSERT INTO mark_alias (mark_id, number, event_id)
		SELECT k.id, k.number, in_event FROM jsonb_to_recordset(changes) c(mark bigint, field text) JOIN mark k ON k.id = c.mark
		WHERE c.field IN ('lot_no', 'serial_no') ON CONFLICT DO NOTHING;
	UPDATE mark k SET
		lot_no = CASE WHEN n.f ? 'lot_no' THEN n.f ->> 'lot_no' ELSE k.lot_no END,
		serial_no = CASE WHEN n.f ? 'serial_no' THEN n.f ->> 'serial_no' ELSE k.serial_no END,
		parent_id = CASE WHEN n.f ? 'parent_id' THEN (n.f ->> 'parent_id')::bigint ELSE k.parent_id END,
		supplier_lot = CASE WHEN n.f ? 'supplier_lot' THEN n.f ->> 'supplier_lot' ELSE k.supplier_lot END,
		supplier_serial = CASE WHEN n.f ? 'supplier_serial' THEN n.f ->> 'supplier_serial' ELSE k.supplier_serial END,
		supplier_warranty_until = CASE WHEN n.f ? 'supplier_warranty_until' THEN (n.f ->> 'supplier_warranty_until')::date ELSE k.supplier_warranty_until END,
		made_on = CASE WHEN n.f ? 'made_on' THEN (n.f ->> 'made_on')::date ELSE k.made_on END,
		expires_on = CASE WHEN n.f ? 'expires_on' THEN (n.f ->> 'expires_on')::date ELSE k.expires_on END,
		facts = CASE WHEN n.f ? 'facts' THEN (n.f ->> 'facts')::jsonb ELSE k.facts END,
		status = CASE WHEN n.f ? 'status' THEN n.f ->> 'status' ELSE k.status END
	FROM (SELECT c.mark, jsonb_object_agg(c.field, c.value) AS f FROM jsonb_to_recordset(changes) c(mark bigint, field text, value text) GROUP BY 1) n
	WHERE k.id = n.mark;
END $$;

-- A correction that moves stock into another lot is no step of the marking rule: nothing is asked of it.
CREATE OR REPLACE FUNCTION step_of(kind text, from_code text, to_code text, from_site bigint, to_site bigint, role text) RETURNS text
	LANGUAGE sql IMMUTABLE AS $$
	SELECT CASE
		WHEN kind = 'correct' THEN NULL
		WHEN role IS NOT NULL THEN CASE WHEN kind = 'repack' THEN 'repack' WHEN kind = 'service' THEN 'service part'
			WHEN role = 'make' THEN 'production output' ELSE 'production use' END
		WHEN from_code = '@supplier' THEN 'receipt' WHEN from_code = '@customer' THEN 'customer return'
		WHEN to_code = '@customer' THEN 'shipment' WHEN to_code = '@supplier' THEN 'supplier return' WHEN to_code = '@job' THEN 'job use'
		WHEN kind = 'count' THEN 'count' WHEN from_code LIKE '@%' THEN 'adjustment in' WHEN to_code LIKE '@%' THEN 'adjustment out'
		WHEN from_site = to_site THEN 'move' ELSE 'transfer' END
$$;

CREATE OR REPLACE FUNCTION check_event() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE hit record; own record;
BEGIN
	NEW.prev_hash := NULL;
	NEW.hash := NULL;
	-- One look at its movements: their time, whether any mirrors another's, and that what goes through @process goes through
	-- a run, in the direction of its role.
	SELECT count(*) AS n, bool_or(m.at <> NEW.at) AS other_time, bool_or(m.mirrors IS NOT NULL) AS mirrors, bool_or(NOT CASE m.role
			WHEN 'use' THEN t.code = '@process' AND f.code <> '@process'
			WHEN 'make' THEN f.code = '@process' WHEN 'detach' THEN f.code = '@process'
			ELSE f.code <> '@process' AND t.code <> '@process' END) AS astray INTO own
		FROM movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place WHERE m.event_id = NEW.id;
	IF own.other_time THEN
		RAISE EXCEPTION 'a movement of event % has another time than its event', NEW.id;
	END IF;
	IF own.n = 0 AND NEW.kind NOT IN ('correct', 'hold', 'quarantine', 'release', 'reject', 'undo')
		AND NOT EXISTS (SELECT 1 FROM run_closing WHERE event_id = NEW.id) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM008', MESSAGE = 'an event without movements';
	END IF;

	-- I11: at no time since this event may less than nothing have stood at a real place. Where nothing of its marks happened
	-- later, the balances have said so already.
	IF NEW.kind = 'undo' OR EXISTS (SELECT 1 FROM movement d JOIN movement l ON l.mark_id = d.mark_id AND l.at > NEW.at WHERE d.event_id = NEW.id) THEN
		SELECT t.mark_id, t.place_id, t.at, t.qty INTO hit FROM (
			SELECT w.*, sum(w.signed) OVER (PARTITION BY w.mark_id, w.place_id ORDER BY w.at, w.id) AS level FROM (
				SELECT m.id, m.at, m.mark_id, m.qty, s.place_id, s.signed
				FROM (SELECT DISTINCT d.mark_id, x.place_id
					FROM movement d CROSS JOIN LATERAL (VALUES (d.from_place), (d.to_place)) x(place_id)
					JOIN place p ON p.id = x.place_id AND NOT p.virtual
					WHERE d.event_id = NEW.id
						AND (NEW.kind = 'undo' OR EXISTS (SELECT 1 FROM movement l WHERE l.mark_id = d.mark_id AND l.at > NEW.at))) touched
				JOIN effective_movement m ON m.mark_id = touched.mark_id
				CROSS JOIN LATERAL (VALUES (m.to_place, m.qty), (m.from_place, -m.qty)) s(place_id, signed)
				WHERE s.place_id = touched.place_id) w) t
		WHERE t.level < 0 ORDER BY t.at, t.id LIMIT 1;
		IF FOUND THEN
			RAISE EXCEPTION USING ERRCODE = 'EM011', MESSAGE = 'used before it was there',
				DETAIL = json_build_object('mark', hit.mark_id::text, 'place', hit.place_id::text, 'at', hit.at, 'qty', hit.qty,
					'arrived', (SELECT min(m.at) FROM effective_movement m WHERE m.mark_id = hit.mark_id AND m.to_place = hit.place_id))::text;
		END IF;
	END IF;

	-- I10: an undo is the exact mirror of the whole event, once: of its movements, and of what it changed.
	IF NEW.kind = 'undo' THEN
		IF EXISTS (SELECT 1 FROM event WHERE id = NEW.undoes AND kind = 'undo') THEN
			RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'an undo cannot be undone';
		END IF;
		IF EXISTS (
			SELECT 1 FROM (SELECT * FROM movement WHERE event_id = NEW.undoes) o
			FULL JOIN (SELECT * FROM movement WHERE event_id = NEW.id) m ON m.mirrors = o.id
			WHERE o.id IS NULL OR m.id IS NULL OR m.mark_id <> o.mark_id OR m.qty <> o.qty OR m.from_place <> o.to_place OR m.to_place <> o.from_place
				OR m.run_id IS DISTINCT FROM o.run_id OR m.role IS DISTINCT FROM o.role OR m.evidence IS DISTINCT FROM o.evidence) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'an undo must mirror its event exactly';
		END IF;
		-- Facts stand together in one value, of which an event may have changed some.
		IF EXISTS (
			SELECT 1 FROM (SELECT * FROM mark_change WHERE event_id = NEW.undoes) o
			FULL JOIN (SELECT * FROM mark_change WHERE event_id = NEW.id) c ON c.mark_id = o.mark_id AND c.field = o.field
			WHERE o.field IS NULL OR c.field IS NULL OR o.field <> 'facts' AND (c.new IS DISTINCT FROM o.old OR c.old IS DISTINCT FROM o.new)) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'an undo must mirror its event exactly';
		END IF;
	ELSIF own.mirrors THEN
		RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'only an undo mirrors movements';
	ELSIF own.astray THEN
		RAISE EXCEPTION USING ERRCODE = 'EM008', MESSAGE = 'a movement and its role disagree';
	END IF;

	-- I7: repacking conserves content. Where every item of the run says how much it holds, in = out; loss is
	-- its own movement to @scrap.
	IF NEW.kind = 'repack' THEN
		SELECT r.code, sum(CASE m.role WHEN 'use' THEN m.qty * i.content_qty ELSE 0 END) AS went_in,
			sum(CASE m.role WHEN 'make' THEN m.qty * i.content_qty ELSE 0 END) AS came_out, min(i.content_unit) AS unit INTO hit
		FROM movement m JOIN run r ON r.id = m.run_id JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
		WHERE m.event_id = NEW.id GROUP BY r.code
		HAVING bool_and(i.content_qty IS NOT NULL) AND count(DISTINCT i.content_unit) = 1
			AND sum(CASE m.role WHEN 'use' THEN m.qty * i.content_qty ELSE -m.qty * i.content_qty END) <> 0 LIMIT 1;
		IF FOUND THEN
			RAISE EXCEPTION USING ERRCODE = 'EM007', MESSAGE = 'repacking must conserve content',
				DETAIL = json_build_object('run', hit.code, 'in', trim_scale(hit.went_in)::text, 'out', trim_scale(hit.came_out)::text, 'unit', hit.unit)::text;
		END IF;
	END IF;
	RETURN NEW;
END $$;

-- How an event is written --------------------------------------------------------------------------

CREATE OR REPLACE FUNCTION close_event(new_id bigint, e jsonb) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
	INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, order_id, document, partner_id, job_id, reason, note, undoes, mends, request)
	VALUES (new_id, e ->> 'key', e ->> 'kind', (e ->> 'at')::timestamptz, clock_timestamp(), e ->> 'by', e ->> 'source', (e ->> 'order')::bigint,
		e ->> 'document', (SELECT id FROM partner WHERE code = e ->> 'partner'), (SELECT id FROM job WHERE code = e ->> 'job'),
		e ->> 'reason', e ->> 'note', (SELECT id FROM event WHERE key = e ->> 'undoes'), (SELECT id FROM event WHERE key = e ->> 'mends'), e ->> 'request');
END $$;

-- Books an event of movements whole. What was read for its checks comes along: `held` says by which version of what is
-- set up, of each mark, with which last movement of each serial that comes in from outside and of each run. Where any of
-- it is not so any more, nothing is written (EM040) and the caller reads again. New marks and runs are named by -1, -2, …
-- One plan for each statement serves all events: looking for a better one costs more than it brings.
CREATE OR REPLACE FUNCTION book_event(e jsonb) RETURNS TABLE (id bigint, request text, movements integer, again boolean) LANGUAGE plpgsql SET plan_cache_mode = force_generic_plan AS $$
DECLARE
	held jsonb := e -> 'held';
	number bigint;
	fresh bigint[];
	runs bigint[];
	made integer;
BEGIN
	RETURN QUERY SELECT o.id, o.request, o.movements, true FROM open_event(e ->> 'key', (e ->> 'order')::bigint) o;
	IF FOUND THEN RETURN; END IF;

	IF (SELECT version FROM catalogue) <> (held ->> 'catalogue')::bigint THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'what is set up changed meanwhile';
	END IF;
	IF held ? 'runs' THEN
		PERFORM hold_runs(ARRAY(SELECT r.id FROM jsonb_to_recordset(held -> 'runs') r(id bigint)));
		IF EXISTS (SELECT 1 FROM jsonb_to_recordset(held -> 'runs') r(id bigint, last bigint, closed boolean)
			WHERE r.last IS DISTINCT FROM (SELECT max(m.id) FROM movement m WHERE m.run_id = r.id)
				OR r.closed <> EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id))) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'a run changed meanwhile';
		END IF;
	END IF;
	IF NOT hold_marks(ARRAY(SELECT jsonb_array_elements_text(held -> 'marks')::bigint), ARRAY(SELECT jsonb_array_elements_text(held -> 'versions')::integer),
		e ? 'changes' OR held ? 'arriving') THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'a lot or serial changed meanwhile';
	END IF;
	IF held ? 'arriving' AND EXISTS (SELECT 1 FROM jsonb_to_recordset(held -> 'arriving') a(mark bigint, last bigint)
		WHERE a.last IS DISTINCT FROM (SELECT m.id FROM effective_movement m WHERE m.mark_id = a.mark ORDER BY m.at DESC, m.id DESC LIMIT 1)) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'a serial moved meanwhile';
	END IF;
	PERFORM hold_balances(array_agg(m.mark), array_agg(m.place)) FROM (
		SELECT m.mark, unnest(ARRAY[m."from", m."to"]) AS place FROM jsonb_to_recordset(e -> 'movements') m(mark bigint, "from" bigint, "to" bigint) WHERE m.mark > 0) m
		HAVING count(*) > 0;

	-- Drawn now, so that of two events of one mark the later has the higher number.
	number := nextval('event_id');
	IF e ? 'marks' THEN
		SELECT array_agg(n.id ORDER BY n.i) INTO fresh FROM (
			SELECT i, nextval('mark_id_seq') AS id FROM generate_series(1, jsonb_array_length(e -> 'marks')) i) n;
		INSERT INTO mark (id, item_id, kind, lot_no, serial_no, parent_id, supplier_lot, supplier_serial, supplier_warranty_until, facts, made_on, expires_on, event_id, twin)
			OVERRIDING SYSTEM VALUE
			SELECT fresh[m.i], m.item, m.kind, m.lot, m.serial, CASE WHEN m.parent < 0 THEN fresh[-m.parent] ELSE m.parent END, m."supplierLot", m."supplierSerial", m."supplierWarrantyUntil",
				coalesce(m.facts, '{}'), m."madeOn", m."expiresOn", number,
				coalesce(m.twins, 0) + row_number() OVER (PARTITION BY looks(coalesce(m.serial, m.lot)) ORDER BY m.i) - 1
			FROM ROWS FROM (jsonb_to_recordset(e -> 'marks') AS (item bigint, kind text, lot text, serial text, parent bigint, "supplierLot" text,
				"supplierSerial" text, "supplierWarrantyUntil" date, facts jsonb, "madeOn" date, "expiresOn" date, twins integer)) WITH ORDINALITY
				m(item, kind, lot, serial, parent, "supplierLot", "supplierSerial", "supplierWarrantyUntil", facts, "madeOn", "expiresOn", twins, i);
	END IF;
	IF e ? 'changes' THEN PERFORM change_marks(number, e -> 'changes'); END IF;
	IF e ? 'files' THEN
		INSERT INTO mark_file (mark_id, name, sha256, added_by)
			SELECT DISTINCT ON (f.mark, f.sha256) CASE WHEN f.mark < 0 THEN fresh[-f.mark] ELSE f.mark END, f.name, f.sha256, e ->> 'by'
			FROM jsonb_to_recordset(e -> 'files') f(mark bigint, name text, sha256 text) ON CONFLICT DO NOTHING;
	END IF;
	IF e ? 'runs' THEN
		SELECT array_agg(n.id ORDER BY n.i) INTO runs FROM (
			SELECT i, nextval('run_id_seq') AS id FROM generate_series(1, jsonb_array_length(e -> 'runs')) i) n;
		INSERT INTO run (id, code, order_id, unit_mark, planned, event_id) OVERRIDING SYSTEM VALUE
			SELECT runs[r.i], r.code, (e ->> 'order')::bigint, CASE WHEN r.unit < 0 THEN fresh[-r.unit] ELSE r.unit END, r.planned, number
			FROM ROWS FROM (jsonb_to_recordset(e -> 'runs') AS (code text, unit bigint, planned numeric)) WITH ORDINALITY r(code, unit, planned, i);
	END IF;
	IF e ? 'closing' THEN
		INSERT INTO run_closing (run_id, event_id) SELECT CASE WHEN r.id < 0 THEN runs[-r.id] ELSE r.id END, number
			FROM (SELECT jsonb_array_elements_text(e -> 'closing')::bigint AS id) r;
	END IF;
	INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, unit_cost, order_line_id, evidence)
		SELECT number, (e ->> 'at')::timestamptz, CASE WHEN m.mark < 0 THEN fresh[-m.mark] ELSE m.mark END, m.qty, m."from", m."to",
			CASE WHEN m.run < 0 THEN runs[-m.run] ELSE m.run END, m.role, m."unitCost", m."orderLine", m.evidence
		FROM ROWS FROM (jsonb_to_recordset(e -> 'movements') AS (mark bigint, qty numeric, "from" bigint, "to" bigint, run bigint, role text, "unitCost" numeric, "orderLine" bigint, evidence text))
			WITH ORDINALITY m(mark, qty, "from", "to", run, role, "unitCost", "orderLine", evidence, i) ORDER BY m.i;
	GET DIAGNOSTICS made = ROW_COUNT;
	PERFORM close_event(number, e);
	RETURN QUERY SELECT number, e ->> 'request', made, false;
END $$;

-- One member of an entry's object. As stable as to_json is, so that it is written where it stands and not called.
CREATE OR REPLACE FUNCTION member(name text, value text) RETURNS text LANGUAGE sql STABLE PARALLEL SAFE AS $$
	SELECT coalesce(',"' || name || '":' || to_json(value), '')
$$;
-- JSON as RFC 8785 has it. Code units are asked only of an object that has a member named outside ASCII.
CREATE OR REPLACE FUNCTION canonical(j jsonb) RETURNS text LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
DECLARE members text;
BEGIN
	IF jsonb_typeof(j) = 'object' THEN
		SELECT string_agg(m.text, ',' ORDER BY m.place COLLATE "C") INTO members
			FROM (SELECT CASE WHEN bool_and(octet_length(e.key) = length(e.key)) OVER () THEN e.key ELSE code_units(e.key) END AS place,
				to_json(e.key)::text || ':' || CASE jsonb_typeof(e.value)
					WHEN 'number' THEN '"' || trim_scale(e.value::text::numeric) || '"' WHEN 'object' THEN canonical(e.value) WHEN 'array' THEN canonical(e.value)
					ELSE e.value::text END AS text FROM jsonb_each(j) e) m;
		RETURN '{' || coalesce(members, '') || '}';
	ELSIF jsonb_typeof(j) = 'array' THEN
		SELECT string_agg(canonical(a.value), ',' ORDER BY a.n) INTO members FROM jsonb_array_elements(j) WITH ORDINALITY a(value, n);
		RETURN '[' || coalesce(members, '') || ']';
	ELSIF jsonb_typeof(j) = 'number' THEN RETURN '"' || trim_scale(j::text::numeric) || '"';
	END IF;
	RETURN j::text;
END $$;
-- A moment as entries write it. As stable as to_char is, so that it is not called but written where it stands.
CREATE OR REPLACE FUNCTION entry_time(at timestamptz) RETURNS text LANGUAGE sql STABLE PARALLEL SAFE AS $$
	SELECT to_char(at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')
$$;
-- Entries of events. Format 2 is format 1 with what came since: how each number became known, until when a supplier answers
-- for it, which event one mends. An event without any of these keeps the entry that it has: everything that each wrote,
-- under names that a stranger understands, numbers as they were when it was booked. Members in the order of their names;
-- what there is none of is left out; what is named and is not there any more stands by its id (#17), so that a row that lost
-- what it speaks of differs too. What many movements say, a mark, an item, a place, is written once and put where it
-- stands; what a constraint holds to plain words needs no escape.
CREATE OR REPLACE FUNCTION event_entries(ids bigint[]) RETURNS TABLE (event_id bigint, entry text) LANGUAGE sql STABLE AS $$
	WITH m AS MATERIALIZED (SELECT * FROM movement WHERE movement.event_id = ANY (ids)),
	named AS MATERIALIZED (
		SELECT k.id, ',"item":' || to_json(coalesce(i.code, '#')) AS item, CASE k.version WHEN 0 THEN member('lot', k.lot_no) || ',"mark":"' || k.id || '"' END AS lot_mark,
			CASE k.version WHEN 0 THEN member('serial', k.serial_no) END AS serial, k.lot_no, k.serial_no
		FROM mark k LEFT JOIN item i ON i.id = k.item_id WHERE k.id IN (SELECT m.mark_id FROM m)),
	moved AS (
		SELECT m.event_id, bool_or(m.evidence IS NOT NULL) AS later, string_agg(concat('{', CASE WHEN m.evidence IS NOT NULL THEN '"evidence":"' || m.evidence || '",' END,
			'"from":', coalesce(f.code, '"#' || m.from_place || '"'), coalesce(k.item, ',"item":"#"'),
			coalesce(k.lot_mark, concat(CASE WHEN k.lot_no IS NOT NULL THEN member('lot', number_then(k.id, 'lot_no', m.event_id, k.lot_no)) END, ',"mark":"', m.mark_id, '"')),
			',"mirrors":"' || m.mirrors || '"', ',"movement":"', m.id, '"', ',"orderLine":"' || m.order_line_id || '"',
			',"qty":"', trim_scale(m.qty), '"', ',"role":"' || m.role || '"',
			CASE WHEN m.run_id IS NOT NULL THEN member('run', coalesce((SELECT r.code FROM run r WHERE r.id = m.run_id), '#' || m.run_id)) END,
			coalesce(k.serial, CASE WHEN k.serial_no IS NOT NULL THEN member('serial', number_then(k.id, 'serial_no', m.event_id, k.serial_no)) END),
			',"to":', coalesce(t.code, '"#' || m.to_place || '"'), ',"unitCost":"' || trim_scale(m.unit_cost) || '"', '}'), ',' ORDER BY m.id) AS list
		FROM m LEFT JOIN named k ON k.id = m.mark_id
			LEFT JOIN (SELECT id, to_json(code)::text AS code FROM place OFFSET 0) f ON f.id = m.from_place
			LEFT JOIN (SELECT id, to_json(code)::text AS code FROM place OFFSET 0) t ON t.id = m.to_place GROUP BY 1),
	made AS (
		SELECT k.event_id, bool_or(v.supplier_warranty_until IS NOT NULL) AS later, string_agg(concat('{', ltrim(concat(member('expiresOn', v.expires_on), CASE WHEN v.facts <> '{}' THEN ',"facts":' || canonical(v.facts) END,
			',"item":', to_json(coalesce(i.code, '#' || k.item_id)), ',"kind":"', k.kind, '"', member('lot', v.lot_no), member('madeOn', v.made_on), ',"mark":"', k.id, '"', member('parent', v.parent_id),
			member('serial', v.serial_no), member('supplierLot', v.supplier_lot), member('supplierSerial', v.supplier_serial), member('supplierWarrantyUntil', v.supplier_warranty_until)), ','), '}'), ',' ORDER BY k.id) AS list
		FROM mark k LEFT JOIN item i ON i.id = k.item_id
		CROSS JOIN LATERAL (SELECT CASE WHEN k.version > 0 THEN (SELECT jsonb_object_agg(x.field, x.old) FROM
			(SELECT DISTINCT ON (c.field) c.field, c.old FROM mark_change c WHERE c.mark_id = k.id ORDER BY c.field, c.event_id) x) END AS was OFFSET 0) c
		CROSS JOIN LATERAL (SELECT
			CASE WHEN c.was ? 'lot_no' THEN c.was ->> 'lot_no' ELSE k.lot_no END AS lot_no,
			CASE WHEN c.was ? 'serial_no' THEN c.was ->> 'serial_no' ELSE k.serial_no END AS serial_no,
			CASE WHEN c.was ? 'parent_id' THEN c.was ->> 'parent_id' ELSE k.parent_id::text END AS parent_id,
			CASE WHEN c.was ? 'supplier_lot' THEN c.was ->> 'supplier_lot' ELSE k.supplier_lot END AS supplier_lot,
			CASE WHEN c.was ? 'supplier_serial' THEN c.was ->> 'supplier_serial' ELSE k.supplier_serial END AS supplier_serial,
			CASE WHEN c.was ? 'supplier_warranty_until' THEN c.was ->> 'supplier_warranty_until' ELSE to_char(k.supplier_warranty_until, 'YYYY-MM-DD') END AS supplier_warranty_until,
			CASE WHEN c.was ? 'made_on' THEN c.was ->> 'made_on' ELSE to_char(k.made_on, 'YYYY-MM-DD') END AS made_on,
			CASE WHEN c.was ? 'expires_on' THEN c.was ->> 'expires_on' ELSE to_char(k.expires_on, 'YYYY-MM-DD') END AS expires_on,
			CASE WHEN c.was ? 'facts' THEN (c.was ->> 'facts')::jsonb ELSE k.facts END AS facts) v
		WHERE k.event_id = ANY (ids) GROUP BY 1),
	begun AS (
		SELECT r.event_id, string_agg(concat('{"code":', to_json(r.code), member('order', coalesce(o.code, '#' || r.order_id)), member('planned', trim_scale(r.planned)::text), ',"run":"', r.id, '"',
			member('unit', r.unit_mark::text), '}'), ',' ORDER BY r.id) AS list
		FROM run r LEFT JOIN orders o ON o.id = r.order_id WHERE r.event_id = ANY (ids) GROUP BY 1),
	closed AS (
		SELECT c.event_id, string_agg(to_json(coalesce(r.code, '#' || c.run_id))::text, ',' ORDER BY c.run_id) AS list FROM run_closing c LEFT JOIN run r ON r.id = c.run_id WHERE c.event_id = ANY (ids) GROUP BY 1),
	changed AS (
		SELECT c.event_id, string_agg(concat('{"field":"', c.field, '","item":', to_json(coalesce(i.code, '#')), ',"mark":"', c.mark_id, '"', member('new', c.new), member('old', c.old), '}'), ','
			ORDER BY c.mark_id, c.field) AS list
		FROM mark_change c LEFT JOIN mark k ON k.id = c.mark_id LEFT JOIN item i ON i.id = k.item_id WHERE c.event_id = ANY (ids) GROUP BY 1),
	renamed AS (
		SELECT a.event_id, string_agg(concat('{"mark":"', a.mark_id, '","number":', to_json(a.number), '}'), ',' ORDER BY a.mark_id, a.number COLLATE "C") AS list
		FROM mark_alias a WHERE a.event_id = ANY (ids) GROUP BY 1)
	SELECT e.id, concat('{', '"aliases":[' || renamed.list || '],', '"at":"', entry_time(e.at), '","by":', to_json(e.recorded_by), member('chain', e.hash),
		',"changes":[' || changed.list || ']', ',"closings":[' || closed.list || ']', member('document', e.document), ',"event":"', e.id, '","format":', CASE WHEN moved.later OR made.later OR e.mends IS NOT NULL THEN 2 ELSE 1 END,
		member('job', coalesce(j.code, '#' || e.job_id)), ',"key":', to_json(e.key), ',"kind":"', e.kind, '"', ',"marks":[' || made.list || ']', member('mends', e.mends::text), ',"movements":[' || moved.list || ']',
		member('note', e.note), member('order', coalesce(o.code, '#' || e.order_id)), member('partner', coalesce(p.code, '#' || e.partner_id)), member('reason', e.reason), ',"recordedAt":"', entry_time(e.recorded_at), '"',
		member('request', e.request), ',"runs":[' || begun.list || ']', ',"source":"', e.source, '"', member('undoes', e.undoes::text), '}')
	FROM event e LEFT JOIN moved ON moved.event_id = e.id LEFT JOIN made ON made.event_id = e.id LEFT JOIN begun ON begun.event_id = e.id
		LEFT JOIN closed ON closed.event_id = e.id LEFT JOIN changed ON changed.event_id = e.id LEFT JOIN renamed ON renamed.event_id = e.id
		LEFT JOIN job j ON j.id = e.job_id LEFT JOIN orders o ON o.id = e.order_id LEFT JOIN partner p ON p.id = e.partner_id
	WHERE e.id = ANY (ids)
$$;

-- Papers -------------------------------------------------------------------------------------------

-- What was printed stays as it was printed: the file, of which order, which numbers stand on it, under which head of the
-- ledger. The same content is the same paper, however often it is printed.
CREATE TABLE paper (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	kind text NOT NULL CHECK (kind IN ('packing list')),
	order_id bigint NOT NULL REFERENCES orders,
	event_id bigint NOT NULL REFERENCES event,
	-- SHA-256 of what stands on it, without the head and the time
	content text NOT NULL CHECK (content ~ '^[0-9a-f]{64}$'),
	sha256 text NOT NULL REFERENCES stored_file,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	UNIQUE (event_id, kind, content)
);
CREATE TABLE paper_mark (
	paper_id bigint NOT NULL REFERENCES paper,
	mark_id bigint NOT NULL REFERENCES mark,
	PRIMARY KEY (paper_id, mark_id)
);
CREATE INDEX paper_mark_mark ON paper_mark (mark_id);
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['paper', 'paper_mark'] LOOP
		EXECUTE format('CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON %I FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
		EXECUTE format('CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON %I FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
	END LOOP;
END $$;
GRANT SELECT, INSERT ON paper, paper_mark TO earmark_app;

-- Mail ---------------------------------------------------------------------------------------------

-- Who is sent the head of the ledger each day.
ALTER TABLE firm ADD witness text CHECK (length(witness) BETWEEN 3 AND 254);
GRANT UPDATE (witness) ON firm TO earmark_app;
SELECT record_again('firm');

-- What is to be sent, and what became of it.
CREATE TABLE mail (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	-- what it is about: the same is sent once
	about text NOT NULL UNIQUE,
	recipient text NOT NULL,
	subject text NOT NULL,
	body text NOT NULL,
	attachments jsonb NOT NULL DEFAULT '[]',
	-- of one with a head of the ledger: how many entries that has
	ledger_size bigint,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	tries integer NOT NULL DEFAULT 0,
	next_try timestamptz DEFAULT now(),
	sent_at timestamptz,
	fault text
);
CREATE INDEX mail_waiting ON mail (next_try) WHERE sent_at IS NULL AND next_try IS NOT NULL;
-- The mail server that stands in for one: how it answers, and what it took.
CREATE TABLE mailbox (
	one boolean PRIMARY KEY DEFAULT true CHECK (one),
	answers text NOT NULL DEFAULT 'takes' CHECK (answers IN ('takes', 'slow', 'refuses'))
);
INSERT INTO mailbox DEFAULT VALUES;
CREATE TABLE mailbox_message (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	recipient text NOT NULL,
	subject text NOT NULL,
	content bytea NOT NULL,
	received_at timestamptz NOT NULL DEFAULT now()
);
GRANT SELECT, INSERT, UPDATE ON mail, mailbox TO earmark_app;
GRANT SELECT, INSERT ON mailbox_message TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;
