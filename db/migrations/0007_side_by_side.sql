-- Bookings go on side by side: an event's number comes from a sequence, a booking locks what it touches and nothing
-- else, and what was checked before is looked at once more under the locks.

-- The chain that events were sealed with ends here. It stays as it is: each of its events keeps its hash.
ALTER TABLE ledger_head RENAME TO former_chain;
DROP TRIGGER guard_head ON former_chain;
DROP FUNCTION guard_head();
REVOKE UPDATE ON former_chain FROM earmark_app;
CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON former_chain FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON former_chain FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
ALTER TABLE event ALTER prev_hash DROP NOT NULL, ALTER hash DROP NOT NULL,
	ADD CONSTRAINT of_the_former_chain CHECK ((hash IS NULL) = (prev_hash IS NULL));
-- Names an event; it is no proof of order, and has gaps.
CREATE SEQUENCE event_id;
SELECT setval('event_id', last_event + 1, false) FROM former_chain;
GRANT USAGE ON SEQUENCE event_id TO earmark_app;

-- What a booking is held to ------------------------------------------------------------------------

-- One number for everything that is set up and that the checks ask: it grows with each change, so that whoever has read
-- some of it knows whether that still holds.
CREATE TABLE catalogue (
	one boolean PRIMARY KEY DEFAULT true CHECK (one),
	version bigint NOT NULL
);
INSERT INTO catalogue (version) VALUES (1);
GRANT SELECT ON catalogue TO earmark_app;
-- A change of what is set up waits for the bookings under way, and they for it. A rule counts from when nobody books by
-- the one before any more.
CREATE FUNCTION change_catalogue() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
	PERFORM pg_advisory_xact_lock(7, 1);
	UPDATE catalogue SET version = version + 1;
	IF TG_TABLE_NAME = 'marking_rule' AND TG_OP <> 'DELETE' THEN
		IF NEW.since >= now() THEN NEW.since := clock_timestamp(); END IF;
	ELSIF TG_TABLE_NAME = 'item' AND TG_OP <> 'DELETE' THEN
		IF NEW.rule_since >= now() THEN NEW.rule_since := clock_timestamp(); END IF;
	END IF;
	RETURN CASE WHEN TG_OP = 'DELETE' THEN OLD ELSE NEW END;
END $$;
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['item', 'item_kind', 'marking_rule', 'fact', 'fact_rule', 'number_pattern', 'check_policy', 'place', 'partner', 'job', 'firm'] LOOP
		EXECUTE format('CREATE TRIGGER change_catalogue BEFORE INSERT OR UPDATE OR DELETE ON %I FOR EACH ROW EXECUTE FUNCTION change_catalogue()', t);
	END LOOP;
END $$;

-- Of marks: how often what is recorded of it changed; and, of those that look the same whatever their item, which one it
-- is. Two that are made at once get the same place there, so that the second is looked at again.
ALTER TABLE mark ADD version integer NOT NULL DEFAULT 0, ADD twin integer NOT NULL DEFAULT 0;
ALTER TABLE mark DISABLE TRIGGER guard_mark;
UPDATE mark k SET twin = n.twin FROM (
	SELECT id, row_number() OVER (PARTITION BY looks ORDER BY id) - 1 AS twin FROM mark WHERE kind <> 'unmarked') n WHERE n.id = k.id AND n.twin > 0;
ALTER TABLE mark ENABLE TRIGGER guard_mark;
DROP INDEX mark_looks;
CREATE UNIQUE INDEX mark_looks ON mark (looks, twin) WHERE kind <> 'unmarked';

-- A mark is never deleted, so a movement's mark is looked up a set at a time, as its places are.
ALTER TABLE movement DROP CONSTRAINT movement_mark_id_fkey;

-- The guards ---------------------------------------------------------------------------------------

-- An event that is there is whole: its row is written last, and nothing is added to it.
CREATE FUNCTION refuse_late() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE hit bigint;
BEGIN
	SELECT e.id INTO hit FROM (SELECT DISTINCT event_id FROM inserted) i JOIN event e ON e.id = i.event_id LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('event %s is whole: nothing is added to it', hit);
	END IF;
	RETURN NULL;
END $$;
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['movement', 'mark', 'run', 'run_closing', 'mark_change', 'mark_alias'] LOOP
		EXECUTE format('CREATE TRIGGER refuse_late AFTER INSERT ON %I REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION refuse_late()', t);
	END LOOP;
END $$;

CREATE OR REPLACE FUNCTION keep_balances() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE marks bigint[]; places bigint[]; qtys numeric[]; serials boolean[]; virtuals boolean[]; there boolean[]; strange boolean;
BEGIN
	SELECT array_agg(t.mark_id), array_agg(t.place_id), array_agg(t.qty), array_agg(k.kind = 'serial'), array_agg(p.virtual),
			array_agg(b.mark_id IS NOT NULL), bool_or(k.id IS NULL OR p.id IS NULL)
		INTO marks, places, qtys, serials, virtuals, there, strange
		FROM (SELECT d.mark_id, d.place_id, sum(d.qty) AS qty
			FROM (SELECT mark_id, to_place AS place_id, qty FROM inserted UNION ALL SELECT mark_id, from_place, -qty FROM inserted) d
			GROUP BY 1, 2 ORDER BY 1, 2) t
		LEFT JOIN mark k ON k.id = t.mark_id LEFT JOIN place p ON p.id = t.place_id
		LEFT JOIN balance b ON b.mark_id = t.mark_id AND b.place_id = t.place_id
		WHERE t.qty <> 0 OR k.id IS NULL OR p.id IS NULL;
	IF strange THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement names a place or a mark that is none';
	END IF;
	IF true = ANY (there) THEN
		-- Out before in: a serial has left one place before it stands in another.
		IF true = ANY (serials) THEN
			UPDATE balance b SET qty = b.qty + d.qty FROM unnest(marks, places, qtys, there) d(mark_id, place_id, qty, there)
				WHERE b.mark_id = d.mark_id AND b.place_id = d.place_id AND d.there AND d.qty < 0;
		END IF;
		UPDATE balance b SET qty = b.qty + d.qty FROM unnest(marks, places, qtys, there) d(mark_id, place_id, qty, there)
			WHERE b.mark_id = d.mark_id AND b.place_id = d.place_id AND d.there AND (d.qty > 0 OR NOT true = ANY (serials));
	END IF;
	IF false = ANY (there) THEN
		INSERT INTO balance AS b SELECT d.mark_id, d.place_id, d.qty, d.serial, d.virtual
			FROM unnest(marks, places, qtys, serials, virtuals, there) d(mark_id, place_id, qty, serial, virtual, there) WHERE NOT d.there
			-- Two bring the first of it there at once. (What was not there when they were looked for is not updated above: it
			-- may have come since, and would count twice.)
			ON CONFLICT (mark_id, place_id) DO UPDATE SET qty = b.qty + excluded.qty;
	END IF;
	RETURN NULL;
END $$;

-- What is written at the end of an event: its row, which checks the whole.
DROP TRIGGER seal_event ON event;
DROP FUNCTION seal_event();
CREATE FUNCTION check_event() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
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
	IF own.n = 0 AND NEW.kind NOT IN ('correct', 'hold', 'quarantine', 'release', 'reject')
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

	-- I10: an undo is the exact mirror of the whole event, once.
	IF NEW.kind = 'undo' THEN
		IF EXISTS (SELECT 1 FROM event WHERE id = NEW.undoes AND kind = 'undo') THEN
			RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'an undo cannot be undone';
		END IF;
		IF EXISTS (
			SELECT 1 FROM (SELECT * FROM movement WHERE event_id = NEW.undoes) o
			FULL JOIN (SELECT * FROM movement WHERE event_id = NEW.id) m ON m.mirrors = o.id
			WHERE o.id IS NULL OR m.id IS NULL OR m.mark_id <> o.mark_id OR m.qty <> o.qty OR m.from_place <> o.to_place OR m.to_place <> o.from_place
				OR m.run_id IS DISTINCT FROM o.run_id OR m.role IS DISTINCT FROM o.role) THEN
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
CREATE TRIGGER check_event BEFORE INSERT ON event FOR EACH ROW EXECUTE FUNCTION check_event();

-- What is recorded of a mark changes only within an event that says so and is not whole yet, and after all that was
-- booked of it: a movement's number is the one that the mark had then.
CREATE OR REPLACE FUNCTION guard_mark() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE f text; was jsonb; now_is jsonb; saying bigint;
BEGIN
	IF TG_OP = 'DELETE' OR NEW.id <> OLD.id OR NEW.item_id <> OLD.item_id OR NEW.kind <> OLD.kind OR NEW.event_id IS DISTINCT FROM OLD.event_id
		OR NEW.version <> OLD.version OR NEW.twin <> OLD.twin THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = 'a mark keeps its identity: it is never deleted or made another';
	END IF;
	was := to_jsonb(OLD); now_is := to_jsonb(NEW);
	FOREACH f IN ARRAY ARRAY['lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'supplier_serial', 'made_on', 'expires_on', 'facts', 'status'] LOOP
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
	-- The first value is found by what came after it, so there is always something.
	IF (OLD.facts <> '{}' AND NEW.facts = '{}') OR (OLD.supplier_serial IS NOT NULL AND NEW.supplier_serial IS NULL) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = 'a recorded fact is replaced, not taken away';
	END IF;
	NEW.version := OLD.version + 1;
	IF looks(coalesce(NEW.serial_no, NEW.lot_no)) IS DISTINCT FROM OLD.looks THEN
		SELECT coalesce(max(k.twin) + 1, 0) INTO NEW.twin FROM mark k WHERE k.looks = looks(coalesce(NEW.serial_no, NEW.lot_no)) AND k.kind <> 'unmarked';
	END IF;
	RETURN NEW;
END $$;

-- How an event is written --------------------------------------------------------------------------

-- Locks are taken in one order, so that two bookings do not wait for each other: the catalogue (shared), the key, the
-- order, runs, marks, balances; within each by id.

-- Holds an event's key, so that one of two under the same key is the first, and its order; says what was booked under it.
CREATE FUNCTION open_event(new_key text, of_order bigint) RETURNS TABLE (id bigint, request text, movements integer) LANGUAGE plpgsql AS $$
BEGIN
	PERFORM pg_advisory_xact_lock_shared(7, 1);
	PERFORM pg_advisory_xact_lock(hashtextextended(new_key, 9));
	RETURN QUERY SELECT e.id, e.request, (SELECT count(*)::integer FROM movement m WHERE m.event_id = e.id) FROM event e WHERE e.key = new_key;
	IF NOT FOUND AND of_order IS NOT NULL THEN
		PERFORM FROM orders o WHERE o.id = of_order FOR UPDATE;
	END IF;
END $$;

CREATE FUNCTION hold_runs(runs bigint[]) RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
	PERFORM FROM run WHERE id = ANY (runs) ORDER BY id FOR UPDATE;
END $$;
-- Balances that are not there yet are made first, with nothing in them, so that they can be held like the others.
CREATE FUNCTION hold_balances(marks bigint[], places bigint[]) RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
	INSERT INTO balance SELECT DISTINCT w.mark_id, w.place_id, 0, k.kind = 'serial', p.virtual
		FROM unnest(marks, places) w(mark_id, place_id) JOIN mark k ON k.id = w.mark_id JOIN place p ON p.id = w.place_id
		WHERE NOT EXISTS (SELECT 1 FROM balance b WHERE b.mark_id = w.mark_id AND b.place_id = w.place_id)
		ORDER BY 1, 2 ON CONFLICT DO NOTHING;
	PERFORM FROM balance b WHERE (b.mark_id, b.place_id) IN (SELECT * FROM unnest(marks, places)) ORDER BY b.mark_id, b.place_id FOR UPDATE;
END $$;
-- Marks that are only moved are held against change; those that change, or come in from outside, against being moved too.
-- Says whether each is of the version that it was read by; NULL stands for any.
CREATE FUNCTION hold_marks(marks bigint[], versions integer[], alone boolean) RETURNS boolean LANGUAGE plpgsql AS $$
DECLARE same bigint;
BEGIN
	IF alone THEN
		SELECT count(*) INTO same FROM (SELECT id, version FROM mark WHERE id = ANY (marks) ORDER BY id FOR UPDATE) k
			JOIN unnest(marks, versions) h(id, version) ON h.id = k.id AND k.version = coalesce(h.version, k.version);
	ELSE
		SELECT count(*) INTO same FROM (SELECT id, version FROM mark WHERE id = ANY (marks) ORDER BY id FOR KEY SHARE) k
			JOIN unnest(marks, versions) h(id, version) ON h.id = k.id AND k.version = coalesce(h.version, k.version);
	END IF;
	RETURN same = cardinality(marks);
END $$;

-- Changes what is recorded of marks, with what it was before; a number that is changed stays findable.
CREATE FUNCTION change_marks(in_event bigint, changes jsonb) RETURNS void LANGUAGE plpgsql AS $$
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
		made_on = CASE WHEN n.f ? 'made_on' THEN (n.f ->> 'made_on')::date ELSE k.made_on END,
		expires_on = CASE WHEN n.f ? 'expires_on' THEN (n.f ->> 'expires_on')::date ELSE k.expires_on END,
		facts = CASE WHEN n.f ? 'facts' THEN (n.f ->> 'facts')::jsonb ELSE k.facts END,
		status = CASE WHEN n.f ? 'status' THEN n.f ->> 'status' ELSE k.status END
	FROM (SELECT c.mark, jsonb_object_agg(c.field, c.value) AS f FROM jsonb_to_recordset(changes) c(mark bigint, field text, value text) GROUP BY 1) n
	WHERE k.id = n.mark;
END $$;

-- Writes an event's row, its last: what it consists of is there.
CREATE FUNCTION close_event(new_id bigint, e jsonb) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
	INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, order_id, document, partner_id, job_id, reason, note, undoes, request)
	VALUES (new_id, e ->> 'key', e ->> 'kind', (e ->> 'at')::timestamptz, clock_timestamp(), e ->> 'by', e ->> 'source', (e ->> 'order')::bigint,
		e ->> 'document', (SELECT id FROM partner WHERE code = e ->> 'partner'), (SELECT id FROM job WHERE code = e ->> 'job'),
		e ->> 'reason', e ->> 'note', (SELECT id FROM event WHERE key = e ->> 'undoes'), e ->> 'request');
END $$;

-- Books an event of movements whole. What was read for its checks comes along: `held` says by which version of what is
-- set up, of each mark, with which last movement of each serial that comes in from outside and of each run. Where any of
-- it is not so any more, nothing is written (EM040) and the caller reads again. New marks and runs are named by -1, -2, …
-- One plan for each statement serves all events: looking for a better one costs more than it brings.
CREATE FUNCTION book_event(e jsonb) RETURNS TABLE (id bigint, request text, movements integer, again boolean) LANGUAGE plpgsql SET plan_cache_mode = force_generic_plan AS $$
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
		INSERT INTO mark (id, item_id, kind, lot_no, serial_no, parent_id, supplier_lot, supplier_serial, facts, made_on, expires_on, event_id, twin)
			OVERRIDING SYSTEM VALUE
			SELECT fresh[m.i], m.item, m.kind, m.lot, m.serial, CASE WHEN m.parent < 0 THEN fresh[-m.parent] ELSE m.parent END, m."supplierLot", m."supplierSerial",
				coalesce(m.facts, '{}'), m."madeOn", m."expiresOn", number,
				coalesce(m.twins, 0) + row_number() OVER (PARTITION BY looks(coalesce(m.serial, m.lot)) ORDER BY m.i) - 1
			FROM ROWS FROM (jsonb_to_recordset(e -> 'marks') AS (item bigint, kind text, lot text, serial text, parent bigint, "supplierLot" text,
				"supplierSerial" text, facts jsonb, "madeOn" date, "expiresOn" date, twins integer)) WITH ORDINALITY
				m(item, kind, lot, serial, parent, "supplierLot", "supplierSerial", facts, "madeOn", "expiresOn", twins, i);
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
	INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, unit_cost, order_line_id)
		SELECT number, (e ->> 'at')::timestamptz, CASE WHEN m.mark < 0 THEN fresh[-m.mark] ELSE m.mark END, m.qty, m."from", m."to",
			CASE WHEN m.run < 0 THEN runs[-m.run] ELSE m.run END, m.role, m."unitCost", m."orderLine"
		FROM ROWS FROM (jsonb_to_recordset(e -> 'movements') AS (mark bigint, qty numeric, "from" bigint, "to" bigint, run bigint, role text, "unitCost" numeric, "orderLine" bigint))
			WITH ORDINALITY m(mark, qty, "from", "to", run, role, "unitCost", "orderLine", i) ORDER BY m.i;
	GET DIAGNOSTICS made = ROW_COUNT;
	PERFORM close_event(number, e);
	RETURN QUERY SELECT number, e ->> 'request', made, false;
END $$;

-- A mark as a booking reads it, with what stands of it at real places.
CREATE VIEW mark_standing AS
	SELECT m.id, m.item_id, m.kind, m.lot_no, m.serial_no, m.parent_id, m.supplier_lot, m.supplier_serial, m.facts, m.made_on, m.expires_on, m.status, m.version,
		(SELECT json_agg(json_build_object('place', b.place_id::text, 'code', p.code, 'qty', trim_scale(b.qty)::text) ORDER BY p.code)
			FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = m.id AND b.qty > 0 AND NOT b.virtual) AS standing
	FROM mark m;
GRANT SELECT ON mark_standing TO earmark_app;
-- The marks that movements name: by serials, lots, items without numbers (their one hidden mark) and ids; and the lots of
-- the serials. Some may come twice.
CREATE FUNCTION named_marks(serial_items bigint[], serials text[], lot_items bigint[], lots text[], bare_items bigint[], ids bigint[])
	RETURNS SETOF mark_standing LANGUAGE plpgsql STABLE SET plan_cache_mode = force_generic_plan AS $$
BEGIN
	IF cardinality(serials) > 0 THEN
		RETURN QUERY SELECT v.* FROM unnest(serial_items, serials) w(item, number)
			JOIN mark_standing v ON v.item_id = w.item AND v.serial_no = w.number AND v.kind = 'serial';
		RETURN QUERY SELECT v.* FROM (SELECT DISTINCT m.parent_id FROM unnest(serial_items, serials) w(item, number)
			JOIN mark m ON m.item_id = w.item AND m.serial_no = w.number AND m.kind = 'serial') p JOIN mark_standing v ON v.id = p.parent_id;
	END IF;
	IF cardinality(lots) > 0 THEN
		RETURN QUERY SELECT v.* FROM unnest(lot_items, lots) w(item, number) JOIN mark_standing v ON v.item_id = w.item AND v.lot_no = w.number AND v.kind = 'lot';
	END IF;
	IF cardinality(bare_items) > 0 THEN
		RETURN QUERY SELECT v.* FROM unnest(bare_items) w(item) JOIN mark_standing v ON v.item_id = w.item AND v.kind = 'unmarked';
	END IF;
	IF cardinality(ids) > 0 THEN
		RETURN QUERY SELECT v.* FROM unnest(ids) w(id) JOIN mark_standing v ON v.id = w.id;
		RETURN QUERY SELECT v.* FROM (SELECT DISTINCT m.parent_id FROM unnest(ids) w(id) JOIN mark m ON m.id = w.id) p JOIN mark_standing v ON v.id = p.parent_id;
	END IF;
END $$;
