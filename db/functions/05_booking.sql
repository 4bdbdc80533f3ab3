-- How an event is written: one call books it whole.

-- Holds an event's key, so that one of two under the same key is the first, and its order; says what was booked under it.
CREATE OR REPLACE FUNCTION open_event(new_key text, of_order bigint) RETURNS TABLE(id bigint, request text, movements integer)
	LANGUAGE plpgsql
AS $$
BEGIN
	PERFORM pg_advisory_xact_lock_shared(7, 1);
	PERFORM pg_advisory_xact_lock(hashtextextended(new_key, 9));
	RETURN QUERY SELECT e.id, e.request, (SELECT count(*)::integer FROM movement m WHERE m.event_id = e.id) FROM event e
		WHERE e.key = new_key;
	IF NOT FOUND AND of_order IS NOT NULL THEN
		PERFORM FROM orders o WHERE o.id = of_order FOR UPDATE;
	END IF;
END $$;

-- Marks that are only moved are held against change; those that change, or come in from outside, against
-- being moved too. Says whether each is of the version that it was read by; NULL stands for any.
CREATE OR REPLACE FUNCTION lock_marks(marks bigint[], versions integer[], alone boolean) RETURNS boolean
	LANGUAGE plpgsql
AS $$
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

CREATE OR REPLACE FUNCTION lock_runs(runs bigint[]) RETURNS void
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
BEGIN
	PERFORM FROM run WHERE id = ANY (runs) ORDER BY id FOR UPDATE;
END $$;
REVOKE EXECUTE ON FUNCTION lock_runs(runs bigint[]) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION lock_runs(runs bigint[]) TO earmark_app;

-- Balances are held as they are; only where one is not there yet it is made, and all are held again. Those
-- that are made are held by being made, in the same order for everybody.
CREATE OR REPLACE FUNCTION lock_balances(marks bigint[], places bigint[]) RETURNS void
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
DECLARE held integer;
BEGIN
	PERFORM FROM balance b WHERE (b.mark_id, b.place_id) IN (SELECT * FROM unnest(marks, places))
		ORDER BY b.mark_id, b.place_id FOR UPDATE;
	GET DIAGNOSTICS held = ROW_COUNT;
	-- The same one may be named twice: then it is looked for once in vain.
	IF held = cardinality(marks) THEN RETURN; END IF;
	INSERT INTO balance SELECT DISTINCT w.mark_id, w.place_id, 0, false, p.virtual
		FROM unnest(marks, places) w(mark_id, place_id) JOIN mark k ON k.id = w.mark_id AND k.kind <> 'serial'
			JOIN place p ON p.id = w.place_id
		WHERE NOT EXISTS (SELECT 1 FROM balance b WHERE b.mark_id = w.mark_id AND b.place_id = w.place_id)
		ORDER BY 1, 2 ON CONFLICT DO NOTHING;
	PERFORM FROM balance b WHERE (b.mark_id, b.place_id) IN (SELECT * FROM unnest(marks, places))
		ORDER BY b.mark_id, b.place_id FOR UPDATE;
END $$;
REVOKE EXECUTE ON FUNCTION lock_balances(marks bigint[], places bigint[]) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION lock_balances(marks bigint[], places bigint[]) TO earmark_app;

-- Changes what is recorded of marks, with what it was before; a number that is changed stays findable.
CREATE OR REPLACE FUNCTION change_marks(in_event bigint, changes jsonb) RETURNS void
	LANGUAGE plpgsql
AS $$
BEGIN
	PERFORM lock_marks(ARRAY(SELECT c.mark FROM jsonb_to_recordset(changes) c(mark bigint)), NULL, true);
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
		supplier_warranty_until = CASE WHEN n.f ? 'supplier_warranty_until' THEN (n.f ->> 'supplier_warranty_until')::date
			ELSE k.supplier_warranty_until END,
		made_on = CASE WHEN n.f ? 'made_on' THEN (n.f ->> 'made_on')::date ELSE k.made_on END,
		expires_on = CASE WHEN n.f ? 'expires_on' THEN (n.f ->> 'expires_on')::date ELSE k.expires_on END,
		facts = CASE WHEN n.f ? 'facts' THEN (n.f ->> 'facts')::jsonb ELSE k.facts END,
		owner = CASE WHEN n.f ? 'owner' THEN n.f ->> 'owner' ELSE k.owner END,
		status = CASE WHEN n.f ? 'status' THEN n.f ->> 'status' ELSE k.status END
	FROM (SELECT c.mark, jsonb_object_agg(c.field, c.value) AS f FROM jsonb_to_recordset(changes) c(mark bigint, field text, value text)
		GROUP BY 1) n
	WHERE k.id = n.mark;
END $$;

-- Writes an event's row, its last: what it consists of is there.
CREATE OR REPLACE FUNCTION close_event(new_id bigint, e jsonb) RETURNS void
	LANGUAGE plpgsql
AS $$
BEGIN
	INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, order_id, document, partner_id, job_id, reason, note, undoes,
		mends, request)
	VALUES (new_id, e ->> 'key', e ->> 'kind', (e ->> 'at')::timestamptz, clock_timestamp(), e ->> 'by', e ->> 'source',
		(e ->> 'order')::bigint,
		e ->> 'document', (SELECT id FROM partner WHERE code = e ->> 'partner'), (SELECT id FROM job WHERE code = e ->> 'job'),
		e ->> 'reason', e ->> 'note', (SELECT id FROM event WHERE key = e ->> 'undoes'), (SELECT id FROM event WHERE key = e ->> 'mends'),
			e ->> 'request');
END $$;

-- Movements come as columns, each the text of an array: of many thousand that is read several times as fast
-- as objects, and twice as short. Balances of serials are not held beforehand: where one stands, it is taken
-- once, and who comes second finds that it is gone.
CREATE OR REPLACE FUNCTION book_event(e jsonb) RETURNS TABLE(id bigint, request text, movements integer, again boolean)
	LANGUAGE plpgsql SET plan_cache_mode = force_generic_plan
AS $$
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
		PERFORM lock_runs(ARRAY(SELECT r.id FROM jsonb_to_recordset(held -> 'runs') r(id bigint)));
		IF EXISTS (SELECT 1 FROM jsonb_to_recordset(held -> 'runs') r(id bigint, last bigint, closed boolean)
			WHERE r.last IS DISTINCT FROM (SELECT max(m.id) FROM movement m WHERE m.run_id = r.id)
				OR r.closed <> EXISTS (SELECT 1 FROM run_closing c
					WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id))) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'a run changed meanwhile';
		END IF;
	END IF;
	IF NOT lock_marks(coalesce((held ->> 'marks')::bigint[], '{}'), coalesce((held ->> 'versions')::integer[], '{}'), e ? 'changes'
		OR held ? 'arriving' OR held ? 'promises') THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'a lot or serial changed meanwhile';
	END IF;
	IF held ? 'arriving' AND EXISTS (SELECT 1 FROM jsonb_to_recordset(held -> 'arriving') a(mark bigint, last bigint)
		WHERE a.last IS DISTINCT FROM (SELECT m.id FROM effective_movement m WHERE m.mark_id = a.mark
			ORDER BY m.at DESC, m.id DESC LIMIT 1)) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'a serial moved meanwhile';
	END IF;
	IF held ? 'balances' THEN PERFORM lock_balances((held #>> '{balances,marks}')::bigint[], (held #>> '{balances,places}')::bigint[]);
		END IF;

	IF held ? 'leaving' AND coalesce((held ->> 'promises')::bigint[], '{}') <> ARRAY(SELECT p.id FROM promise p
		WHERE p.mark_id = ANY ((held ->> 'leaving')::bigint[]) AND p.released_at IS NULL AND p.taken < p.qty ORDER BY p.id) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'something was promised meanwhile';
	END IF;
	IF e ? 'taken' THEN
		UPDATE promise p SET taken = p.taken + t.qty, taken_by = e ->> 'by', taken_at = clock_timestamp(), taken_for = e ->> 'document',
			taken_reason = e ->> 'reason'
			FROM jsonb_to_recordset(e -> 'taken') t(id bigint, qty numeric) WHERE p.id = t.id;
		-- Whoever has the sheet of such an order open sees it at once.
		PERFORM pg_notify('order', json_build_object('code', n.code, 'by', '')::text)
			FROM (SELECT DISTINCT o.code FROM jsonb_to_recordset(e -> 'taken') t(id bigint)
			JOIN promise p ON p.id = t.id JOIN order_line l ON l.id = p.order_line_id JOIN orders o ON o.id = l.order_id) n;
	END IF;

	-- Drawn now, so that of two events of one mark the later has the higher number.
	number := nextval('event_id');
	IF e ? 'marks' THEN
		SELECT array_agg(n.id ORDER BY n.i) INTO fresh FROM (
			SELECT i, nextval('mark_id_seq') AS id FROM generate_series(1, jsonb_array_length(e -> 'marks')) i) n;
		INSERT INTO mark (id, item_id, kind, lot_no, serial_no, parent_id, supplier_lot, supplier_serial, supplier_warranty_until, facts,
			made_on, expires_on, owner, event_id, lookalike)
			OVERRIDING SYSTEM VALUE
			SELECT fresh[m.i], m.item, m.kind, m.lot, m.serial, CASE WHEN m.parent < 0 THEN fresh[-m.parent] ELSE m.parent END, m."supplierLot",
				m."supplierSerial", m."supplierWarrantyUntil",
				coalesce(m.facts, '{}'), m."madeOn", m."expiresOn", m.owner, number,
				coalesce(m.lookalikes, 0) + row_number() OVER (PARTITION BY looks(coalesce(m.serial, m.lot)) ORDER BY m.i) - 1
			FROM ROWS FROM (jsonb_to_recordset(e -> 'marks') AS (item bigint, kind text, lot text, serial text, parent bigint,
				"supplierLot" text,
				"supplierSerial" text, "supplierWarrantyUntil" date, facts jsonb, "madeOn" date, "expiresOn" date, owner text,
					lookalikes integer)) WITH ORDINALITY
				m(item, kind, lot, serial, parent, "supplierLot", "supplierSerial", "supplierWarrantyUntil", facts, "madeOn", "expiresOn", owner,
					lookalikes, i);
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
			FROM ROWS FROM (jsonb_to_recordset(e -> 'runs') AS (code text, unit bigint, planned numeric)) WITH ORDINALITY r(code, unit, planned,
				i);
	END IF;
	IF e ? 'closing' THEN
		INSERT INTO run_closing (run_id, event_id) SELECT CASE WHEN r.id < 0 THEN runs[-r.id] ELSE r.id END, number
			FROM (SELECT jsonb_array_elements_text(e -> 'closing')::bigint AS id) r;
	END IF;
	IF e ? 'movements' THEN
		INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place, run_id, role, unit_cost, order_line_id, evidence)
			SELECT number, (e ->> 'at')::timestamptz, CASE WHEN m.mark < 0 THEN fresh[-m.mark] ELSE m.mark END, m.qty, m.source, m.target,
				CASE WHEN m.run < 0 THEN runs[-m.run] ELSE m.run END, m.role, m.cost, m.line, m.evidence
			FROM unnest((e #>> '{movements,mark}')::bigint[], (e #>> '{movements,qty}')::numeric[], (e #>> '{movements,from}')::bigint[],
				(e #>> '{movements,to}')::bigint[],
				(e #>> '{movements,run}')::bigint[], (e #>> '{movements,role}')::text[], (e #>> '{movements,unitCost}')::numeric[],
					(e #>> '{movements,orderLine}')::bigint[],
				(e #>> '{movements,evidence}')::text[]) WITH ORDINALITY m(mark, qty, source, target, run, role, cost, line, evidence, i)
					ORDER BY m.i;
	END IF;
	GET DIAGNOSTICS made = ROW_COUNT;
	IF held ? 'promises' AND EXISTS (SELECT 1 FROM (SELECT n.mark_id, sum(n.rest) AS rest FROM promise_now n
			WHERE n.mark_id = ANY ((held ->> 'leaving')::bigint[]) AND NOT own_promise(n, (e ->> 'order')::bigint, e ->> 'partner')
				GROUP BY n.mark_id) n
		WHERE n.rest > (SELECT coalesce(sum(b.qty), 0) FROM balance b WHERE b.mark_id = n.mark_id AND NOT b.virtual)) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'what is promised was taken meanwhile';
	END IF;
	PERFORM close_event(number, e);
	RETURN QUERY SELECT number, e ->> 'request', made, false;
END $$;
