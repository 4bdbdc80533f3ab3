-- The ledger is sealed as certificate logs are (RFC 9162, 2.1): what is booked and what says how it is to be read become
-- entries, canonical JSON (RFC 8785); their hashes are the leaves of a tree that only grows.

-- Entries of what is set up ------------------------------------------------------------------------

-- A text by its UTF-16 code units, by which RFC 8785 orders the members of an object.
CREATE FUNCTION code_units(t text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
	SELECT string_agg(CASE WHEN ascii(c) < 65536 THEN lpad(to_hex(ascii(c)), 4, '0')
		ELSE to_hex(55296 + ((ascii(c) - 65536) >> 10)) || to_hex(56320 + ((ascii(c) - 65536) & 1023)) END, '' ORDER BY n) FROM regexp_split_to_table(t, '') WITH ORDINALITY s(c, n)
$$;
-- JSON as RFC 8785 has it, where numbers stand as decimal text: no reader takes a quantity for a float. Only what holds
-- others is gone into; a row's plain values are written where they stand.
CREATE FUNCTION canonical(j jsonb) RETURNS text LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE AS $$
DECLARE members text;
BEGIN
	IF jsonb_typeof(j) = 'object' THEN
		SELECT CASE WHEN bool_and(m.plain) THEN string_agg(m.text, ',' ORDER BY m.key COLLATE "C") ELSE string_agg(m.text, ',' ORDER BY code_units(m.key) COLLATE "C") END INTO members
			FROM (SELECT e.key, octet_length(e.key) = length(e.key) AS plain, to_json(e.key)::text || ':' || CASE jsonb_typeof(e.value)
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
-- A moment as entries write it.
CREATE FUNCTION entry_time(at timestamptz) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
	SELECT to_char(at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')
$$;

-- A file is what it is named by.
ALTER TABLE stored_file ADD CONSTRAINT named_by_its_content CHECK (sha256 = encode(sha256(content), 'hex'));

-- The tables whose every row is an entry, each time it changes: by which columns a row is known, which of them are left
-- out (what grows by itself, and what has a hash of its own), and which are secrets, of which a hash stands there.
CREATE FUNCTION covered() RETURNS TABLE (of text, keys text[], without text[], hashed text[]) LANGUAGE sql IMMUTABLE AS $$
	VALUES ('item', ARRAY['id'], ARRAY[]::text[], ARRAY[]::text[]), ('item_kind', ARRAY['id'], '{}', '{}'), ('marking_rule', ARRAY['item_id', 'kind_id', 'step'], '{}', '{}'),
		('fact', ARRAY['id'], '{}', '{}'), ('fact_rule', ARRAY['item_id', 'kind_id', 'step', 'fact_id'], '{}', '{}'), ('part', ARRAY['item_id', 'part_item_id'], '{}', '{}'),
		('place', ARRAY['id'], '{}', '{}'), ('partner', ARRAY['id'], '{}', '{}'), ('job', ARRAY['id'], '{}', '{}'), ('firm', ARRAY['one'], '{}', '{}'),
		('check_policy', ARRAY['code'], '{}', '{}'), ('number_pattern', ARRAY['id'], '{}', '{}'), ('person', ARRAY['id'], '{}', ARRAY['password_hash']),
		('api_token', ARRAY['id'], ARRAY['last_used_at'], ARRAY['token_hash']), ('orders', ARRAY['id'], '{}', '{}'), ('order_line', ARRAY['id'], '{}', '{}'),
		('mark_note', ARRAY['id'], '{}', '{}'), ('mark_file', ARRAY['id'], '{}', '{}'), ('stored_file', ARRAY['sha256'], ARRAY['content'], '{}'),
		('setup_change', ARRAY['id'], '{}', '{}')
$$;
-- A row by the columns that it is known by.
CREATE FUNCTION row_key(r jsonb, keys text[]) RETURNS text LANGUAGE sql IMMUTABLE AS $$
	SELECT string_agg(coalesce(r ->> k, '-'), ' ' ORDER BY n) FROM unnest(keys) WITH ORDINALITY u(k, n)
$$;
-- A row as its entry holds it.
CREATE FUNCTION row_state(r jsonb, without text[], hashed text[]) RETURNS text LANGUAGE sql IMMUTABLE AS $$
	SELECT canonical(r - without || coalesce((SELECT jsonb_object_agg(h, encode(sha256(convert_to(r ->> h, 'UTF8')), 'hex')) FROM unnest(hashed) h), '{}'))
$$;

-- What rows were, one after the other; NULL once a row is gone.
CREATE TABLE record (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	of text NOT NULL,
	row text NOT NULL,
	state text,
	at timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE INDEX record_row ON record (of, row, id DESC);

CREATE FUNCTION keep_record() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC' AS $$
DECLARE c record; r jsonb := to_jsonb(CASE WHEN TG_OP = 'DELETE' THEN OLD ELSE NEW END); now_is text; was text;
BEGIN
	SELECT * INTO c FROM covered() WHERE covered.of = TG_TABLE_NAME;
	IF TG_OP <> 'DELETE' THEN now_is := row_state(r, c.without, c.hashed); END IF;
	IF TG_OP = 'UPDATE' THEN
		was := row_state(to_jsonb(OLD), c.without, c.hashed);
		IF was = now_is THEN RETURN NULL; END IF;
	END IF;
	INSERT INTO record (of, row, state) VALUES (TG_TABLE_NAME, row_key(r, c.keys), now_is);
	RETURN NULL;
END $$;

-- The tree -----------------------------------------------------------------------------------------

CREATE TABLE ledger_leaf (
	index bigint PRIMARY KEY CHECK (index >= 0),
	event_id bigint UNIQUE REFERENCES event,
	record_id bigint UNIQUE REFERENCES record,
	-- the exact text that was hashed
	entry text NOT NULL,
	hash bytea NOT NULL,
	sealed_at timestamptz NOT NULL,
	CHECK (num_nonnulls(event_id, record_id) = 1)
);
CREATE INDEX ledger_leaf_day ON ledger_leaf (sealed_at);
-- The nodes over full subtrees: 2^level leaves each.
CREATE TABLE ledger_node (
	level smallint NOT NULL CHECK (level > 0),
	index bigint NOT NULL,
	hash bytea NOT NULL,
	PRIMARY KEY (level, index)
);
-- What waits to be sealed.
CREATE TABLE unsealed (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	event_id bigint UNIQUE,
	record_id bigint UNIQUE,
	weight integer NOT NULL
);
CREATE FUNCTION wait_for_seal() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
	IF TG_TABLE_NAME = 'event' THEN
		INSERT INTO unsealed (event_id, weight) SELECT NEW.id, 1 + count(*) FROM movement m WHERE m.event_id = NEW.id;
	ELSE
		INSERT INTO unsealed (record_id, weight) VALUES (NEW.id, 1);
	END IF;
	RETURN NULL;
END $$;
CREATE TRIGGER wait_for_seal AFTER INSERT ON event FOR EACH ROW EXECUTE FUNCTION wait_for_seal();
CREATE TRIGGER wait_for_seal AFTER INSERT ON record FOR EACH ROW EXECUTE FUNCTION wait_for_seal();
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['record', 'ledger_leaf', 'ledger_node'] LOOP
		EXECUTE format('CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON %I FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
		EXECUTE format('CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON %I FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
	END LOOP;
END $$;

-- How often what is recorded of a mark has changed tells whether its first values have to be looked for.
ALTER TABLE mark DISABLE TRIGGER guard_mark;
UPDATE mark k SET version = c.n FROM (SELECT mark_id, count(DISTINCT event_id) AS n FROM mark_change GROUP BY 1) c WHERE c.mark_id = k.id;
ALTER TABLE mark ENABLE TRIGGER guard_mark;

-- Entries of records, format 1.
CREATE FUNCTION record_entries(ids bigint[]) RETURNS TABLE (record_id bigint, entry text) LANGUAGE sql STABLE AS $$
	SELECT r.id, concat('{"at":"', entry_time(r.at), '","format":1,"kind":"record","of":', to_json(r.of), ',"record":"', r.id, '","row":', to_json(r.row),
		',"state":', coalesce(r.state, 'null'), '}')
	FROM record r WHERE r.id = ANY (ids)
$$;

-- One member of an entry's object, with the comma before it; nothing where there is no value.
CREATE FUNCTION member(name text, value text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
	SELECT coalesce(',"' || name || '":' || to_json(value), '')
$$;
-- The number that a mark had when an event was booked: the one before the first change after it.
CREATE FUNCTION number_then(mark bigint, changed text, booked bigint, now_is text) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT coalesce((SELECT c.old FROM mark_change c WHERE c.mark_id = mark AND c.field = changed AND c.event_id > booked ORDER BY c.event_id LIMIT 1), now_is)
$$;

-- Entries of events, format 1: everything that each wrote, under names that a stranger understands, numbers as they were
-- when it was booked. Members in the order of their names; what there is none of is left out; what is named and is not
-- there any more stands by its id (#17), so that a row that lost what it speaks of differs too.
CREATE FUNCTION event_entries(ids bigint[]) RETURNS TABLE (event_id bigint, entry text) LANGUAGE sql STABLE AS $$
	WITH moved AS (
		SELECT m.event_id, string_agg(concat('{"from":', to_json(coalesce(f.code, '#' || m.from_place)), ',"item":', to_json(coalesce(i.code, '#')),
			CASE WHEN k.lot_no IS NOT NULL THEN member('lot', CASE k.version WHEN 0 THEN k.lot_no ELSE number_then(k.id, 'lot_no', m.event_id, k.lot_no) END) END,
			',"mark":"', m.mark_id, '"', member('mirrors', m.mirrors::text), ',"movement":"', m.id, '"', member('orderLine', m.order_line_id::text),
			',"qty":"', trim_scale(m.qty), '"', member('role', m.role), member('run', coalesce(r.code, '#' || m.run_id)),
			CASE WHEN k.serial_no IS NOT NULL THEN member('serial', CASE k.version WHEN 0 THEN k.serial_no ELSE number_then(k.id, 'serial_no', m.event_id, k.serial_no) END) END,
			',"to":', to_json(coalesce(t.code, '#' || m.to_place)), member('unitCost', trim_scale(m.unit_cost)::text), '}'), ',' ORDER BY m.id) AS list
		FROM movement m LEFT JOIN mark k ON k.id = m.mark_id LEFT JOIN item i ON i.id = k.item_id LEFT JOIN place f ON f.id = m.from_place LEFT JOIN place t ON t.id = m.to_place
			LEFT JOIN run r ON r.id = m.run_id
		WHERE m.event_id = ANY (ids) GROUP BY 1),
	made AS (
		SELECT k.event_id, string_agg(concat('{', ltrim(concat(member('expiresOn', v.expires_on), CASE WHEN v.facts <> '{}' THEN ',"facts":' || canonical(v.facts) END,
			',"item":', to_json(coalesce(i.code, '#' || k.item_id)), ',"kind":"', k.kind, '"', member('lot', v.lot_no), member('madeOn', v.made_on), ',"mark":"', k.id, '"', member('parent', v.parent_id),
			member('serial', v.serial_no), member('supplierLot', v.supplier_lot), member('supplierSerial', v.supplier_serial)), ','), '}'), ',' ORDER BY k.id) AS list
		FROM mark k LEFT JOIN item i ON i.id = k.item_id
		LEFT JOIN LATERAL (SELECT jsonb_object_agg(x.field, x.old) AS was FROM (SELECT DISTINCT ON (c.field) c.field, c.old FROM mark_change c
			WHERE k.version > 0 AND c.mark_id = k.id ORDER BY c.field, c.event_id) x) c ON true
		CROSS JOIN LATERAL (SELECT
			CASE WHEN c.was ? 'lot_no' THEN c.was ->> 'lot_no' ELSE k.lot_no END AS lot_no,
			CASE WHEN c.was ? 'serial_no' THEN c.was ->> 'serial_no' ELSE k.serial_no END AS serial_no,
			CASE WHEN c.was ? 'parent_id' THEN c.was ->> 'parent_id' ELSE k.parent_id::text END AS parent_id,
			CASE WHEN c.was ? 'supplier_lot' THEN c.was ->> 'supplier_lot' ELSE k.supplier_lot END AS supplier_lot,
			CASE WHEN c.was ? 'supplier_serial' THEN c.was ->> 'supplier_serial' ELSE k.supplier_serial END AS supplier_serial,
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
		',"changes":[' || changed.list || ']', ',"closings":[' || closed.list || ']', member('document', e.document), ',"event":"', e.id, '","format":1',
		member('job', coalesce(j.code, '#' || e.job_id)), ',"key":', to_json(e.key), ',"kind":"', e.kind, '"', ',"marks":[' || made.list || ']', ',"movements":[' || moved.list || ']',
		member('note', e.note), member('order', coalesce(o.code, '#' || e.order_id)), member('partner', coalesce(p.code, '#' || e.partner_id)), member('reason', e.reason), ',"recordedAt":"', entry_time(e.recorded_at), '"',
		member('request', e.request), ',"runs":[' || begun.list || ']', ',"source":"', e.source, '"', member('undoes', e.undoes::text), '}')
	FROM event e LEFT JOIN moved ON moved.event_id = e.id LEFT JOIN made ON made.event_id = e.id LEFT JOIN begun ON begun.event_id = e.id
		LEFT JOIN closed ON closed.event_id = e.id LEFT JOIN changed ON changed.event_id = e.id LEFT JOIN renamed ON renamed.event_id = e.id
		LEFT JOIN job j ON j.id = e.job_id LEFT JOIN orders o ON o.id = e.order_id LEFT JOIN partner p ON p.id = e.partner_id
	WHERE e.id = ANY (ids)
$$;

-- The hash of a leaf and of a node (RFC 9162, 2.1.1).
CREATE FUNCTION leaf_hash(entry text) RETURNS bytea LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
	SELECT sha256('\x00'::bytea || convert_to(entry, 'UTF8'))
$$;
CREATE FUNCTION node_hash(l bytea, r bytea) RETURNS bytea LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
	SELECT sha256('\x01'::bytea || l || r)
$$;

-- Seals what waits, some of it at a time: what is set up before what was booked, each in order of its number. One at a
-- time: another one waits, or goes without a row. Says how many leaves there are now, and how many were added.
CREATE FUNCTION seal(most_weight integer, wait boolean) RETURNS TABLE (size bigint, added integer) LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE first bigint; events bigint[]; records bigint[]; lo bigint; hi bigint; lev smallint := 0;
BEGIN
	added := 0;
	IF NOT EXISTS (SELECT 1 FROM unsealed) THEN
		SELECT coalesce(max(l.index) + 1, 0) INTO size FROM ledger_leaf l;
		RETURN NEXT; RETURN;
	END IF;
	IF wait THEN PERFORM pg_advisory_xact_lock(7, 2);
	ELSIF NOT pg_try_advisory_xact_lock(7, 2) THEN RETURN;
	END IF;
	SELECT coalesce(max(l.index) + 1, 0) INTO first FROM ledger_leaf l;
	SELECT array_agg(w.event_id) FILTER (WHERE w.event_id IS NOT NULL), array_agg(w.record_id) FILTER (WHERE w.record_id IS NOT NULL) INTO events, records
		FROM (SELECT u.event_id, u.record_id, sum(u.weight) OVER (ORDER BY u.id) - u.weight AS before FROM (SELECT * FROM unsealed ORDER BY unsealed.id LIMIT 5000) u) w
		WHERE w.before < most_weight;
	size := first; added := 0;
	IF events IS NULL AND records IS NULL THEN RETURN NEXT; RETURN; END IF;
	INSERT INTO ledger_leaf (index, event_id, record_id, entry, hash, sealed_at)
		SELECT first + row_number() OVER (ORDER BY n.record_id NULLS LAST, n.event_id) - 1, n.event_id, n.record_id, n.entry, leaf_hash(n.entry), clock_timestamp()
		FROM (SELECT x.event_id, NULL::bigint AS record_id, x.entry FROM event_entries(events) x UNION ALL SELECT NULL, y.record_id, y.entry FROM record_entries(records) y) n;
	GET DIAGNOSTICS added = ROW_COUNT;
	DELETE FROM unsealed u WHERE u.event_id = ANY (events) OR u.record_id = ANY (records);
	size := first + added;
	-- Each level's new full pairs make the next level's nodes.
	lo := first; hi := size;
	LOOP
		lo := lo / 2; hi := hi / 2;
		EXIT WHEN lo >= hi;
		lev := lev + 1;
		IF lev = 1 THEN
			INSERT INTO ledger_node SELECT 1, i, node_hash(l.hash, r.hash) FROM generate_series(lo, hi - 1) i JOIN ledger_leaf l ON l.index = 2 * i JOIN ledger_leaf r ON r.index = 2 * i + 1;
		ELSE
			INSERT INTO ledger_node SELECT lev, i, node_hash(l.hash, r.hash) FROM generate_series(lo, hi - 1) i
				JOIN ledger_node l ON l.level = lev - 1 AND l.index = 2 * i JOIN ledger_node r ON r.level = lev - 1 AND r.index = 2 * i + 1;
		END IF;
	END LOOP;
	PERFORM pg_notify('sealed', size::text);
	RETURN NEXT;
END $$;

-- All that is there so far is to be sealed: what is set up as it stands, events with the hashes of the former chain.
DO $$ DECLARE c record; BEGIN
	PERFORM set_config('timezone', 'UTC', true);
	FOR c IN SELECT * FROM covered() LOOP
		EXECUTE format('INSERT INTO record (of, row, state) SELECT %L, row_key(to_jsonb(t), %L), row_state(to_jsonb(t), %L, %L) FROM %I t', c.of, c.keys, c.without, c.hashed, c.of);
		EXECUTE format('CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON %I FOR EACH ROW EXECUTE FUNCTION keep_record()', c.of);
	END LOOP;
END $$;
INSERT INTO unsealed (event_id, weight) SELECT e.id, 1 + (SELECT count(*) FROM movement m WHERE m.event_id = e.id) FROM event e ORDER BY e.id;

GRANT SELECT ON record, ledger_leaf, ledger_node, unsealed TO earmark_app;
DO $$ DECLARE f text; BEGIN
	FOREACH f IN ARRAY ARRAY['seal(integer, boolean)', 'hold_runs(bigint[])', 'hold_balances(bigint[], bigint[])'] LOOP
		EXECUTE format('REVOKE EXECUTE ON FUNCTION %s FROM PUBLIC; GRANT EXECUTE ON FUNCTION %s TO earmark_app', f, f);
	END LOOP;
END $$;
