-- What an event of many thousand movements costs besides their rows.

-- What comes to a place where some of it stands already is looked for only where there is such: of ten thousand serials that
-- are used up there is none.
DO $$ DECLARE is_now text := pg_get_functiondef('keep_balances()'::regprocedure);
BEGIN
	IF position('AND (d.qty > 0 OR NOT true = ANY (serials));' IN is_now) = 0 THEN RAISE EXCEPTION 'keep_balances() is another one'; END IF;
END $$;
CREATE OR REPLACE FUNCTION keep_balances() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE marks bigint[]; places bigint[]; qtys numeric[]; serials boolean[]; virtuals boolean[]; there boolean[]; strange boolean; goes boolean; comes boolean; fresh boolean;
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

-- Movements come as columns, each the text of an array: of many thousand that is read several times as fast as objects, and
-- twice as short. Balances of serials are not held beforehand: where one stands, it is taken once, and who comes second finds
-- that it is gone.
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
	IF NOT hold_marks(coalesce((held ->> 'marks')::bigint[], '{}'), coalesce((held ->> 'versions')::integer[], '{}'), e ? 'changes' OR held ? 'arriving') THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'a lot or serial changed meanwhile';
	END IF;
	IF held ? 'arriving' AND EXISTS (SELECT 1 FROM jsonb_to_recordset(held -> 'arriving') a(mark bigint, last bigint)
		WHERE a.last IS DISTINCT FROM (SELECT m.id FROM effective_movement m WHERE m.mark_id = a.mark ORDER BY m.at DESC, m.id DESC LIMIT 1)) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'a serial moved meanwhile';
	END IF;
	IF held ? 'balances' THEN PERFORM hold_balances((held #>> '{balances,marks}')::bigint[], (held #>> '{balances,places}')::bigint[]); END IF;

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
	IF e ? 'movements' THEN
		INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, unit_cost, order_line_id, evidence)
			SELECT number, (e ->> 'at')::timestamptz, CASE WHEN m.mark < 0 THEN fresh[-m.mark] ELSE m.mark END, m.qty, m.source, m.target,
				CASE WHEN m.run < 0 THEN runs[-m.run] ELSE m.run END, m.role, m.cost, m.line, m.evidence
			FROM unnest((e #>> '{movements,mark}')::bigint[], (e #>> '{movements,qty}')::numeric[], (e #>> '{movements,from}')::bigint[], (e #>> '{movements,to}')::bigint[],
				(e #>> '{movements,run}')::bigint[], (e #>> '{movements,role}')::text[], (e #>> '{movements,unitCost}')::numeric[], (e #>> '{movements,orderLine}')::bigint[],
				(e #>> '{movements,evidence}')::text[]) WITH ORDINALITY m(mark, qty, source, target, run, role, cost, line, evidence, i) ORDER BY m.i;
	END IF;
	GET DIAGNOSTICS made = ROW_COUNT;
	PERFORM close_event(number, e);
	RETURN QUERY SELECT number, e ->> 'request', made, false;
END $$;

-- Where a mark stands comes as plain text ("place quantity code", with commas between), without joining the places for each
-- one of many thousand.
DROP FUNCTION named_marks(bigint[], text[], bigint[], text[], bigint[], bigint[]);
DROP VIEW mark_standing;
CREATE VIEW mark_standing AS
	SELECT m.id, m.item_id, m.kind, m.lot_no, m.serial_no, m.parent_id, m.supplier_lot, m.supplier_serial, m.supplier_warranty_until, m.facts, m.made_on, m.expires_on, m.status, m.version,
		(SELECT string_agg(b.place_id || ' ' || trim_scale(b.qty) || ' ' || p.code, ',' ORDER BY p.code)
			FROM balance b CROSS JOIN LATERAL (SELECT code FROM place p WHERE p.id = b.place_id OFFSET 0) p WHERE b.mark_id = m.id AND b.qty > 0 AND NOT b.virtual) AS standing
	FROM mark m;
GRANT SELECT ON mark_standing TO earmark_app;

-- A number and its lot are found in one statement.
CREATE FUNCTION named_marks(serial_items bigint[], serials text[], lot_items bigint[], lots text[], bare_items bigint[], ids bigint[])
	RETURNS SETOF mark_standing LANGUAGE plpgsql STABLE SET plan_cache_mode = force_generic_plan AS $$
BEGIN
	IF cardinality(serials) > 0 THEN
		RETURN QUERY WITH f AS MATERIALIZED (SELECT v.* FROM unnest(serial_items, serials) w(item, number)
				JOIN mark_standing v ON v.item_id = w.item AND v.serial_no = w.number AND v.kind = 'serial')
			SELECT * FROM f UNION ALL SELECT v.* FROM (SELECT DISTINCT f.parent_id FROM f WHERE f.parent_id IS NOT NULL) p JOIN mark_standing v ON v.id = p.parent_id;
	END IF;
	IF cardinality(lots) > 0 THEN
		RETURN QUERY SELECT v.* FROM unnest(lot_items, lots) w(item, number) JOIN mark_standing v ON v.item_id = w.item AND v.lot_no = w.number AND v.kind = 'lot';
	END IF;
	IF cardinality(bare_items) > 0 THEN
		RETURN QUERY SELECT v.* FROM unnest(bare_items) w(item) JOIN mark_standing v ON v.item_id = w.item AND v.kind = 'unmarked';
	END IF;
	IF cardinality(ids) > 0 THEN
		RETURN QUERY WITH f AS MATERIALIZED (SELECT v.* FROM unnest(ids) w(id) JOIN mark_standing v ON v.id = w.id)
			SELECT * FROM f UNION ALL SELECT v.* FROM (SELECT DISTINCT f.parent_id FROM f WHERE f.parent_id IS NOT NULL) p JOIN mark_standing v ON v.id = p.parent_id;
	END IF;
END $$;

-- What movements mirror is looked up once for all of them too.
ALTER TABLE movement DROP CONSTRAINT movement_mirrors_fkey;
CREATE OR REPLACE FUNCTION movement_names() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF EXISTS (SELECT 1 FROM (SELECT DISTINCT run_id FROM inserted WHERE run_id IS NOT NULL) n LEFT JOIN run r ON r.id = n.run_id WHERE r.id IS NULL)
		OR EXISTS (SELECT 1 FROM (SELECT DISTINCT order_line_id FROM inserted WHERE order_line_id IS NOT NULL) n WHERE NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = n.order_line_id)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement names a run or a line that is none';
	END IF;
	IF EXISTS (SELECT 1 FROM inserted n WHERE n.mirrors IS NOT NULL AND NOT EXISTS (SELECT 1 FROM movement m WHERE m.id = n.mirrors)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement mirrors one that is none';
	END IF;
	RETURN NULL;
END $$;
