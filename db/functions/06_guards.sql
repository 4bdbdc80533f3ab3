-- What the tables refuse, and what follows from a row by itself.

-- I1: nobody changes history, not even the owner.
CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger
	LANGUAGE plpgsql
AS $$
BEGIN
	RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('%s is history: it is never changed or deleted', TG_TABLE_NAME);
END $$;

-- An event that is there is whole: its row is written last, and nothing is added to it. What is written before it begins it.
CREATE OR REPLACE FUNCTION refuse_late() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
DECLARE events bigint[]; hit bigint;
BEGIN
	SELECT array_agg(DISTINCT event_id) INTO events FROM inserted WHERE event_id IS NOT NULL;
	SELECT e.id INTO hit FROM event e WHERE e.id = ANY (events) LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('event %s is whole: nothing is added to it', hit);
	END IF;
	IF TG_TABLE_NAME IN ('mark', 'movement', 'run') THEN
		INSERT INTO unfinished_event SELECT unnest(events) ON CONFLICT DO NOTHING;
	END IF;
	RETURN NULL;
END $$;

-- I5, second half: some items' serials must be unique over all items.
CREATE OR REPLACE FUNCTION refuse_shared_serials() RETURNS trigger
	LANGUAGE plpgsql
AS $$
DECLARE hit record;
BEGIN
	IF NOT EXISTS (SELECT 1 FROM item WHERE serials_unique_everywhere) THEN RETURN NULL; END IF;
	SELECT n.serial_no, i.code INTO hit FROM inserted n JOIN item ni ON ni.id = n.item_id
		JOIN mark m ON m.looks = n.looks AND m.serial_no = n.serial_no AND m.id <> n.id AND m.kind = 'serial' JOIN item i ON i.id = m.item_id
		WHERE n.kind = 'serial' AND (ni.serials_unique_everywhere OR i.serials_unique_everywhere) LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM005', MESSAGE = 'serial used by another item',
			DETAIL = json_build_object('serial', hit.serial_no, 'item', hit.code)::text;
	END IF;
	RETURN NULL;
END $$;

-- What marks, runs and movements name is there.
CREATE OR REPLACE FUNCTION mark_names() RETURNS trigger
	LANGUAGE plpgsql
AS $$
BEGIN
	IF EXISTS (SELECT 1 FROM (SELECT DISTINCT item_id FROM inserted) n WHERE NOT EXISTS (SELECT 1 FROM item i WHERE i.id = n.item_id))
		OR EXISTS (SELECT 1 FROM (SELECT DISTINCT parent_id FROM inserted WHERE parent_id IS NOT NULL) n
			WHERE NOT EXISTS (SELECT 1 FROM mark k WHERE k.id = n.parent_id)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a mark names an item or a lot that is none';
	END IF;
	RETURN NULL;
END $$;

CREATE OR REPLACE FUNCTION run_names() RETURNS trigger
	LANGUAGE plpgsql
AS $$
BEGIN
	IF EXISTS (SELECT 1 FROM (SELECT DISTINCT order_id FROM inserted WHERE order_id IS NOT NULL) n
		WHERE NOT EXISTS (SELECT 1 FROM orders o WHERE o.id = n.order_id))
		OR EXISTS (SELECT 1 FROM inserted n LEFT JOIN mark k ON k.id = n.unit_mark WHERE n.unit_mark IS NOT NULL AND k.id IS NULL) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a run names an order or a unit that is none';
	END IF;
	RETURN NULL;
END $$;

-- What is recorded of a mark changes only within an event that says so and is not whole yet, and after all
-- that was booked of it: a movement's number is the one that the mark had then.
CREATE OR REPLACE FUNCTION guard_mark() RETURNS trigger
	LANGUAGE plpgsql
AS $$
DECLARE f text; was jsonb; now_is jsonb; saying bigint;
BEGIN
	IF TG_OP = 'DELETE' OR NEW.id <> OLD.id OR NEW.item_id <> OLD.item_id OR NEW.kind <> OLD.kind OR NEW.event_id IS DISTINCT
		FROM OLD.event_id
		OR NEW.version <> OLD.version OR NEW.lookalike <> OLD.lookalike THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = 'a mark keeps its identity: it is never deleted or made another';
	END IF;
	was := to_jsonb(OLD); now_is := to_jsonb(NEW);
	FOREACH f IN ARRAY ARRAY['lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'supplier_serial', 'supplier_warranty_until', 'made_on',
		'expires_on', 'facts', 'status', 'owner'] LOOP
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
		SELECT coalesce(max(k.lookalike) + 1, 0) INTO NEW.lookalike FROM mark k
			WHERE k.looks = looks(coalesce(NEW.serial_no, NEW.lot_no)) AND k.kind <> 'unmarked';
	END IF;
	RETURN NEW;
END $$;

CREATE OR REPLACE FUNCTION check_movements() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp SET enable_seqscan = off
AS $$
DECLARE events bigint[]; of_run boolean; of_line boolean; mirror boolean; hit bigint;
BEGIN
	SELECT array_agg(DISTINCT event_id), bool_or(run_id IS NOT NULL), bool_or(order_line_id IS NOT NULL), bool_or(mirrors IS NOT NULL)
		INTO events, of_run, of_line, mirror FROM inserted;
	-- An event that is there is whole. What is written before it begins it.
	SELECT e.id INTO hit FROM event e WHERE e.id = ANY (events) LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('event %s is whole: nothing is added to it', hit);
	END IF;
	INSERT INTO unfinished_event SELECT unnest(events) ON CONFLICT DO NOTHING;
	IF of_run AND EXISTS (SELECT 1 FROM (SELECT DISTINCT run_id FROM inserted WHERE run_id IS NOT NULL) n
		LEFT JOIN run r ON r.id = n.run_id WHERE r.id IS NULL)
		OR of_line AND EXISTS (SELECT 1 FROM (SELECT DISTINCT order_line_id FROM inserted WHERE order_line_id IS NOT NULL) n
			WHERE NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = n.order_line_id)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement names a run or a line that is none';
	END IF;
	IF mirror AND EXISTS (SELECT 1 FROM inserted n
		WHERE n.mirrors IS NOT NULL AND NOT EXISTS (SELECT 1 FROM movement m WHERE m.id = n.mirrors)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement mirrors one that is none';
	END IF;
	RETURN NULL;
END $$;

CREATE OR REPLACE FUNCTION check_event() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
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
	IF own.n = 0 AND NEW.kind NOT IN ('begin', 'correct', 'hold', 'quarantine', 'release', 'reject', 'undo')
		AND NOT EXISTS (SELECT 1 FROM run_closing WHERE event_id = NEW.id) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM008', MESSAGE = 'an event without movements';
	END IF;

	-- I11: at no time since this event may less than nothing have stood at a real place. Where nothing of its marks happened
	-- later, the balances have said so already.
	IF NEW.kind = 'undo' OR EXISTS (SELECT 1 FROM movement d JOIN movement l ON l.mark_id = d.mark_id AND l.at > NEW.at
		WHERE d.event_id = NEW.id) THEN
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
			WHERE o.id IS NULL OR m.id IS NULL OR m.mark_id <> o.mark_id OR m.qty <> o.qty OR m.from_place <> o.to_place
				OR m.to_place <> o.from_place
				OR m.run_id IS DISTINCT FROM o.run_id OR m.role IS DISTINCT FROM o.role OR m.evidence IS DISTINCT FROM o.evidence) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'an undo must mirror its event exactly';
		END IF;
		-- Facts stand together in one value, of which an event may have changed some.
		IF EXISTS (
			SELECT 1 FROM (SELECT * FROM mark_change WHERE event_id = NEW.undoes) o
			FULL JOIN (SELECT * FROM mark_change WHERE event_id = NEW.id) c ON c.mark_id = o.mark_id AND c.field = o.field
			WHERE o.field IS NULL OR c.field IS NULL OR o.field <> 'facts'
				AND (c.new IS DISTINCT FROM o.old OR c.old IS DISTINCT FROM o.new)) THEN
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
				DETAIL = json_build_object('run', hit.code, 'in', trim_scale(hit.went_in)::text, 'out', trim_scale(hit.came_out)::text, 'unit',
					hit.unit)::text;
		END IF;
	END IF;
	RETURN NEW;
END $$;

CREATE OR REPLACE FUNCTION finish_event() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
BEGIN
	DELETE FROM unfinished_event WHERE event_id = NEW.id;
	INSERT INTO seal_queue (event_id, weight) SELECT NEW.id, 1 + count(*) FROM movement m WHERE m.event_id = NEW.id;
	RETURN NULL;
END $$;

-- I2: balances follow the movements, whoever writes them.
CREATE OR REPLACE FUNCTION keep_balances() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
DECLARE marks bigint[]; places bigint[]; qtys numeric[]; serials boolean[]; virtuals boolean[]; there boolean[];
	strange boolean; goes boolean; comes boolean; fresh boolean;
BEGIN
	SELECT array_agg(t.mark_id), array_agg(t.place_id), array_agg(t.qty), array_agg(k.kind = 'serial'), array_agg(p.virtual),
			array_agg(b.mark_id IS NOT NULL), bool_or(k.id IS NULL OR p.id IS NULL),
			bool_or(b.mark_id IS NOT NULL AND t.qty < 0), bool_or(b.mark_id IS NOT NULL AND t.qty > 0), bool_or(b.mark_id IS NULL)
		INTO marks, places, qtys, serials, virtuals, there, strange, goes, comes, fresh
		FROM (SELECT d.mark_id, d.place_id, sum(d.qty) AS qty
			FROM (SELECT mark_id, to_place AS place_id, qty FROM inserted UNION ALL SELECT mark_id, from_place, -qty FROM inserted) d
			GROUP BY 1, 2 ORDER BY 1, 2) t
		LEFT JOIN mark k ON k.id = t.mark_id LEFT JOIN place p ON p.id = t.place_id
		LEFT JOIN balance b ON b.mark_id = t.mark_id AND b.place_id = t.place_id
		WHERE t.qty <> 0 OR k.id IS NULL OR p.id IS NULL;
	IF strange THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement names a place or a mark that is none';
	END IF;
	-- Out before in: a serial has left one place before it stands in another.
	IF goes AND true = ANY (serials) THEN
		UPDATE balance b SET qty = b.qty + d.qty FROM unnest(marks, places, qtys, there) d(mark_id, place_id, qty, there)
			WHERE b.mark_id = d.mark_id AND b.place_id = d.place_id AND d.there AND d.qty < 0;
	END IF;
	IF comes OR goes AND NOT true = ANY (serials) THEN
		UPDATE balance b SET qty = b.qty + d.qty FROM unnest(marks, places, qtys, there) d(mark_id, place_id, qty, there)
			WHERE b.mark_id = d.mark_id AND b.place_id = d.place_id AND d.there AND (d.qty > 0 OR NOT true = ANY (serials));
	END IF;
	IF fresh THEN
		INSERT INTO balance AS b SELECT d.mark_id, d.place_id, d.qty, d.serial, d.virtual
			FROM unnest(marks, places, qtys, serials, virtuals, there) d(mark_id, place_id, qty, serial, virtual, there) WHERE NOT d.there
			-- Two bring the first of it there at once. (What was not there when they were looked for is not updated above: it
			-- may have come since, and would count twice.)
			ON CONFLICT (mark_id, place_id) DO UPDATE SET qty = b.qty + excluded.qty;
	END IF;
	RETURN NULL;
END $$;

-- And what they name stays: marks and runs for good, an item, an order, a line as long as anything names it.
CREATE OR REPLACE FUNCTION keep_named() RETURNS trigger
	LANGUAGE plpgsql
AS $$
DECLARE held boolean;
BEGIN
	CASE TG_TABLE_NAME
		WHEN 'item' THEN SELECT EXISTS (SELECT 1 FROM mark WHERE item_id = OLD.id) INTO held;
		WHEN 'orders' THEN SELECT EXISTS (SELECT 1 FROM run WHERE order_id = OLD.id) INTO held;
		WHEN 'order_line' THEN SELECT EXISTS (SELECT 1 FROM movement WHERE order_line_id = OLD.id) INTO held;
	END CASE;
	IF held THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = format('%s %s is named in the ledger: it stays', TG_TABLE_NAME, OLD.id);
	END IF;
	RETURN OLD;
END $$;

-- A step begins where the one before it ended, and no earlier.
CREATE OR REPLACE FUNCTION keep_floor() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
DECLARE now_is floor;
BEGIN
	SELECT * INTO now_is FROM floor WHERE mark_id = NEW.mark_id FOR UPDATE;
	IF NEW.from_operation IS DISTINCT FROM now_is.operation OR NEW.from_state IS DISTINCT FROM now_is.state
		OR now_is.route_id IS NOT NULL AND now_is.route_id <> NEW.route_id OR NEW.at < now_is.since THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'the unit moved meanwhile';
	END IF;
	INSERT INTO floor (mark_id, item_id, route_id, operation, state, was, order_id, since, last_step)
		SELECT NEW.mark_id, k.item_id, NEW.route_id, NEW.operation, NEW.state, NEW.was, NEW.order_id, NEW.at, NEW.id FROM mark k
			WHERE k.id = NEW.mark_id
		ON CONFLICT (mark_id) DO UPDATE SET operation = excluded.operation, state = excluded.state, was = excluded.was,
			order_id = coalesce(excluded.order_id, floor.order_id), since = excluded.since, last_step = excluded.last_step;
	PERFORM pg_notify('floor', NEW.mark_id::text);
	RETURN NULL;
END $$;

-- A change of what is set up waits for the bookings under way, and they for it. A rule counts from when
-- nobody books by the one before any more.
CREATE OR REPLACE FUNCTION change_catalogue() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
BEGIN
	PERFORM pg_advisory_xact_lock(7, 1);
	UPDATE catalogue SET version = nextval('catalogue_version');
	IF TG_TABLE_NAME = 'marking_rule' AND TG_OP <> 'DELETE' THEN
		IF NEW.since >= now() THEN NEW.since := clock_timestamp(); END IF;
	ELSIF TG_TABLE_NAME = 'item' AND TG_OP <> 'DELETE' THEN
		IF NEW.rule_since >= now() THEN NEW.rule_since := clock_timestamp(); END IF;
	END IF;
	RETURN CASE WHEN TG_OP = 'DELETE' THEN OLD ELSE NEW END;
END $$;
