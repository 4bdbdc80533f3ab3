-- Entries of the ledger: what of an event and of a row is hashed, and the tree over them.

-- Each change of a row of a sealed table is a version of it.
CREATE OR REPLACE FUNCTION keep_row_version() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC'
AS $$
DECLARE c sealed_table; r jsonb := to_jsonb(CASE WHEN TG_OP = 'DELETE' THEN OLD ELSE NEW END); now_is text; was text;
BEGIN
	SELECT * INTO STRICT c FROM sealed_table s WHERE s.name = TG_TABLE_NAME;
	IF TG_OP <> 'DELETE' THEN now_is := row_state(r, c.without, c.hashed); END IF;
	IF TG_OP = 'UPDATE' THEN
		was := row_state(to_jsonb(OLD), c.without, c.hashed);
		IF was = now_is THEN RETURN NULL; END IF;
	END IF;
	INSERT INTO row_version (of, row, state) VALUES (TG_TABLE_NAME, row_key(r, c.keys), now_is);
	RETURN NULL;
END $$;

-- Rows that are not as they were last recorded get a version: rows of a table that is sealed from now on, and of one that got
-- a column. A migration that changes a sealed table calls it.
CREATE OR REPLACE FUNCTION keep_row_versions(table_name text) RETURNS void
	LANGUAGE plpgsql SET timezone = 'UTC'
AS $$
DECLARE c sealed_table;
BEGIN
	SELECT * INTO STRICT c FROM sealed_table s WHERE s.name = table_name;
	EXECUTE format('INSERT INTO row_version (of, row, state)
		SELECT %L, n.row, n.state FROM (SELECT row_key(to_jsonb(t), %L) AS row, row_state(to_jsonb(t), %L, %L) AS state FROM %I t) n
		LEFT JOIN (SELECT DISTINCT ON (v.row) v.row, v.state FROM row_version v WHERE v.of = %L ORDER BY v.row, v.id DESC) l
			ON l.row = n.row
		WHERE l.state IS DISTINCT FROM n.state', c.name, c.keys, c.without, c.hashed, c.name, c.name);
END $$;

-- A table whose rows are appended and never changed, by nobody.
CREATE OR REPLACE FUNCTION make_append_only(table_name text) RETURNS void
	LANGUAGE plpgsql
AS $$
BEGIN
	EXECUTE format('CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON %I FOR EACH ROW EXECUTE FUNCTION refuse_change()', table_name);
	EXECUTE format('CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON %I FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', table_name);
END $$;

-- Makes each version of a table's rows an entry of the ledger. A migration calls it for a new table; functions, triggers,
-- rights and what verify checks follow from it.
--   keys: the columns that name a row            app: what the application may do, as in GRANT
--   append_only: no row ever changes             without: columns that are no part of the entry
--   hashed: columns of which the entry has only a hash
CREATE OR REPLACE FUNCTION seal_table(table_name text, keys text[], app text, append_only boolean DEFAULT false,
	without text[] DEFAULT '{}', hashed text[] DEFAULT '{}') RETURNS void
	LANGUAGE plpgsql
AS $$
BEGIN
	INSERT INTO sealed_table VALUES (table_name, keys, without, hashed);
	EXECUTE format('CREATE TRIGGER keep_row_version AFTER INSERT OR UPDATE OR DELETE ON %I
		FOR EACH ROW EXECUTE FUNCTION keep_row_version()', table_name);
	IF append_only THEN PERFORM make_append_only(table_name); END IF;
	EXECUTE format('GRANT %s ON %I TO earmark_app', app, table_name);
	EXECUTE format('GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app');
	PERFORM keep_row_versions(table_name);
END $$;

-- Ten thousand numbers are drawn at once: one entry holds all of a draw, by its ids and a hash over what it
-- drew. Which order they wait for is no part of it.
CREATE OR REPLACE FUNCTION drawn_text(d drawn_number) RETURNS text
	LANGUAGE sql IMMUTABLE
AS $$
	SELECT concat_ws('|', d.id, d.pattern_id, d.item_id, d.kind, d.number, d.scope, d.sequence, d.drawn_by, entry_time(d.drawn_at))
$$;

CREATE OR REPLACE FUNCTION keep_draw() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC'
AS $$
BEGIN
	INSERT INTO row_version (of, row, state)
		SELECT 'draw', min(d.id)::text, canonical(jsonb_build_object('ids', range_agg(int8range(d.id, d.id, '[]'))::text,
			'sha256', encode(sha256(convert_to(string_agg(drawn_text(d.*::drawn_number), chr(10) ORDER BY d.id), 'UTF8')), 'hex')))
		FROM drawn d HAVING count(*) > 0;
	RETURN NULL;
END $$;

-- Which numbers stand on a paper: one entry a paper.
CREATE OR REPLACE FUNCTION keep_paper_marks() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC'
AS $$
BEGIN
	INSERT INTO row_version (of, row, state)
		SELECT 'paper_marks', p.paper_id::text, canonical(jsonb_build_object('count', count(*), 'sha256',
			encode(sha256(convert_to(string_agg(p.mark_id::text, ',' ORDER BY p.mark_id), 'UTF8')), 'hex')))
		FROM paper_mark p WHERE p.paper_id IN (SELECT paper_id FROM printed) GROUP BY p.paper_id;
	RETURN NULL;
END $$;

CREATE OR REPLACE FUNCTION wait_for_seal() RETURNS trigger
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
BEGIN
	INSERT INTO seal_queue (row_version_id, weight) VALUES (NEW.id, 1);
	RETURN NULL;
END $$;

-- Entries of events. Format 2 is format 1 with what came since: how each number became known, until when a
-- supplier answers for it, which event one mends. An event without any of these keeps the entry that it has:
-- everything that each wrote, under names that a stranger understands, numbers as they were when it was
-- booked. Members in the order of their names; what there is none of is left out; what is named and is not
-- there any more stands by its id (#17), so that a row that lost what it speaks of differs too. What many
-- movements say, a mark, an item, a place, is written once and put where it stands; what a constraint holds
-- to plain words needs no escape.
CREATE OR REPLACE FUNCTION event_entries(ids bigint[]) RETURNS TABLE(event_id bigint, entry text)
	LANGUAGE sql STABLE
AS $$
	WITH m AS MATERIALIZED (SELECT * FROM movement WHERE movement.event_id = ANY (ids)),
	named AS MATERIALIZED (
		SELECT k.id, ',"item":' || to_json(coalesce(i.code, '#')) AS item, CASE k.version WHEN 0 THEN member('lot', k.lot_no) || ',"mark":"'
			|| k.id || '"' END AS lot_mark,
			CASE k.version WHEN 0 THEN member('serial', k.serial_no) END AS serial, k.lot_no, k.serial_no
		FROM mark k LEFT JOIN item i ON i.id = k.item_id WHERE k.id IN (SELECT m.mark_id FROM m)),
	moved AS (
		SELECT m.event_id, bool_or(m.evidence IS NOT NULL) AS later,
			string_agg(concat('{', CASE WHEN m.evidence IS NOT NULL THEN '"evidence":"' || m.evidence || '",' END,
			'"from":', coalesce(f.code, '"#' || m.from_place || '"'), coalesce(k.item, ',"item":"#"'),
			coalesce(k.lot_mark, concat(CASE WHEN k.lot_no IS NOT NULL THEN member('lot', number_then(k.id, 'lot_no', m.event_id, k.lot_no)) END,
				',"mark":"', m.mark_id, '"')),
			',"mirrors":"' || m.mirrors || '"', ',"movement":"', m.id, '"', ',"orderLine":"' || m.order_line_id || '"',
			',"qty":"', trim_scale(m.qty), '"', ',"role":"' || m.role || '"',
			CASE WHEN m.run_id IS NOT NULL THEN member('run', coalesce((SELECT r.code FROM run r WHERE r.id = m.run_id), '#' || m.run_id)) END,
			coalesce(k.serial, CASE WHEN k.serial_no IS NOT NULL
				THEN member('serial', number_then(k.id, 'serial_no', m.event_id, k.serial_no)) END),
			',"to":', coalesce(t.code, '"#' || m.to_place || '"'), ',"unitCost":"' || trim_scale(m.unit_cost) || '"', '}'), ','
				ORDER BY m.id) AS list
		FROM m LEFT JOIN named k ON k.id = m.mark_id
			LEFT JOIN (SELECT id, to_json(code)::text AS code FROM place OFFSET 0) f ON f.id = m.from_place
			LEFT JOIN (SELECT id, to_json(code)::text AS code FROM place OFFSET 0) t ON t.id = m.to_place GROUP BY 1),
	made AS (
		SELECT k.event_id, bool_or(v.supplier_warranty_until IS NOT NULL) AS later, bool_or(v.owner IS NOT NULL) AS owned,
			string_agg(concat('{', ltrim(concat(member('expiresOn', v.expires_on), CASE WHEN v.facts <> '{}' THEN ',"facts":'
			|| canonical(v.facts) END,
			',"item":', to_json(coalesce(i.code, '#' || k.item_id)), ',"kind":"', k.kind, '"', member('lot', v.lot_no),
				member('madeOn', v.made_on), ',"mark":"', k.id, '"', member('owner', v.owner), member('parent', v.parent_id),
			member('serial', v.serial_no), member('supplierLot', v.supplier_lot), member('supplierSerial', v.supplier_serial),
				member('supplierWarrantyUntil', v.supplier_warranty_until)), ','), '}'), ',' ORDER BY k.id) AS list
		FROM mark k LEFT JOIN item i ON i.id = k.item_id
		CROSS JOIN LATERAL (SELECT CASE WHEN k.version > 0 THEN (SELECT jsonb_object_agg(x.field, x.old) FROM
			(SELECT DISTINCT ON (c.field) c.field, c.old FROM mark_change c WHERE c.mark_id = k.id ORDER BY c.field, c.event_id) x)
				END AS was OFFSET 0) c
		CROSS JOIN LATERAL (SELECT
			CASE WHEN c.was ? 'lot_no' THEN c.was ->> 'lot_no' ELSE k.lot_no END AS lot_no,
			CASE WHEN c.was ? 'serial_no' THEN c.was ->> 'serial_no' ELSE k.serial_no END AS serial_no,
			CASE WHEN c.was ? 'parent_id' THEN c.was ->> 'parent_id' ELSE k.parent_id::text END AS parent_id,
			CASE WHEN c.was ? 'supplier_lot' THEN c.was ->> 'supplier_lot' ELSE k.supplier_lot END AS supplier_lot,
			CASE WHEN c.was ? 'supplier_serial' THEN c.was ->> 'supplier_serial' ELSE k.supplier_serial END AS supplier_serial,
			CASE WHEN c.was ? 'supplier_warranty_until' THEN c.was ->> 'supplier_warranty_until'
				ELSE to_char(k.supplier_warranty_until, 'YYYY-MM-DD') END AS supplier_warranty_until,
			CASE WHEN c.was ? 'made_on' THEN c.was ->> 'made_on' ELSE to_char(k.made_on, 'YYYY-MM-DD') END AS made_on,
			CASE WHEN c.was ? 'expires_on' THEN c.was ->> 'expires_on' ELSE to_char(k.expires_on, 'YYYY-MM-DD') END AS expires_on,
			CASE WHEN c.was ? 'facts' THEN (c.was ->> 'facts')::jsonb ELSE k.facts END AS facts,
			CASE WHEN c.was ? 'owner' THEN c.was ->> 'owner' ELSE k.owner END AS owner) v
		WHERE k.event_id = ANY (ids) GROUP BY 1),
	begun AS (
		SELECT r.event_id, string_agg(concat('{"code":', to_json(r.code), member('order', coalesce(o.code, '#' || r.order_id)),
			member('planned', trim_scale(r.planned)::text), ',"run":"', r.id, '"',
			member('unit', r.unit_mark::text), '}'), ',' ORDER BY r.id) AS list
		FROM run r LEFT JOIN orders o ON o.id = r.order_id WHERE r.event_id = ANY (ids) GROUP BY 1),
	closed AS (
		SELECT c.event_id, string_agg(to_json(coalesce(r.code, '#' || c.run_id))::text, ',' ORDER BY c.run_id) AS list FROM run_closing c
			LEFT JOIN run r ON r.id = c.run_id WHERE c.event_id = ANY (ids) GROUP BY 1),
	changed AS (
		SELECT c.event_id, string_agg(concat('{"field":"', c.field, '","item":', to_json(coalesce(i.code, '#')), ',"mark":"', c.mark_id, '"',
			member('new', c.new), member('old', c.old), '}'), ','
			ORDER BY c.mark_id, c.field) AS list
		FROM mark_change c LEFT JOIN mark k ON k.id = c.mark_id LEFT JOIN item i ON i.id = k.item_id WHERE c.event_id = ANY (ids) GROUP BY 1),
	renamed AS (
		SELECT a.event_id, string_agg(concat('{"mark":"', a.mark_id, '","number":', to_json(a.number), '}'), ','
			ORDER BY a.mark_id, a.number COLLATE "C") AS list
		FROM mark_alias a WHERE a.event_id = ANY (ids) GROUP BY 1)
	SELECT e.id, concat('{', '"aliases":[' || renamed.list || '],', '"at":"', entry_time(e.at), '","by":', to_json(e.recorded_by),
		member('chain', e.hash),
		',"changes":[' || changed.list || ']', ',"closings":[' || closed.list || ']', member('document', e.document), ',"event":"', e.id,
			'","format":', CASE WHEN made.owned THEN 3 WHEN moved.later OR made.later OR e.mends IS NOT NULL THEN 2 ELSE 1 END,
		member('job', coalesce(j.code, '#' || e.job_id)), ',"key":', to_json(e.key), ',"kind":"', e.kind, '"', ',"marks":[' || made.list
			|| ']', member('mends', e.mends::text), ',"movements":[' || moved.list || ']',
		member('note', e.note), member('order', coalesce(o.code, '#' || e.order_id)),
			member('partner', coalesce(p.code, '#' || e.partner_id)), member('reason', e.reason), ',"recordedAt":"', entry_time(e.recorded_at),
			'"',
		member('request', e.request), ',"runs":[' || begun.list || ']', ',"source":"', e.source, '"', member('undoes', e.undoes::text), '}')
	FROM event e LEFT JOIN moved ON moved.event_id = e.id LEFT JOIN made ON made.event_id = e.id LEFT JOIN begun ON begun.event_id = e.id
		LEFT JOIN closed ON closed.event_id = e.id LEFT JOIN changed ON changed.event_id = e.id LEFT JOIN renamed ON renamed.event_id = e.id
		LEFT JOIN job j ON j.id = e.job_id LEFT JOIN orders o ON o.id = e.order_id LEFT JOIN partner p ON p.id = e.partner_id
	WHERE e.id = ANY (ids)
$$;

-- Entries of records, format 1.
CREATE OR REPLACE FUNCTION row_version_entries(ids bigint[]) RETURNS TABLE(row_version_id bigint, entry text)
	LANGUAGE sql STABLE
AS $$
	SELECT r.id, concat('{"at":"', entry_time(r.at), '","format":1,"kind":"record","of":', to_json(r.of), ',"record":"', r.id, '","row":',
		to_json(r.row),
		',"state":', coalesce(r.state, 'null'), '}')
	FROM row_version r WHERE r.id = ANY (ids)
$$;

-- Seals what waits, some of it at a time: what is set up before what was booked, each in order of its number.
-- One at a time: another one waits, or goes without a row. Says how many leaves there are now, and how many
-- were added.
CREATE OR REPLACE FUNCTION seal(most_weight integer, wait boolean) RETURNS TABLE(size bigint, added integer)
	LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp
AS $$
DECLARE first bigint; events bigint[]; records bigint[]; lo bigint; hi bigint; lev smallint := 0;
BEGIN
	added := 0;
	IF NOT EXISTS (SELECT 1 FROM seal_queue) THEN
		SELECT coalesce(max(l.index) + 1, 0) INTO size FROM ledger_leaf l;
		RETURN NEXT; RETURN;
	END IF;
	IF wait THEN PERFORM pg_advisory_xact_lock(7, 2);
	ELSIF NOT pg_try_advisory_xact_lock(7, 2) THEN RETURN;
	END IF;
	SELECT coalesce(max(l.index) + 1, 0) INTO first FROM ledger_leaf l;
	SELECT array_agg(w.event_id) FILTER (WHERE w.event_id IS NOT NULL),
		array_agg(w.row_version_id) FILTER (WHERE w.row_version_id IS NOT NULL) INTO events, records
		FROM (SELECT u.event_id, u.row_version_id, sum(u.weight) OVER (ORDER BY u.id) - u.weight AS before
			FROM (SELECT * FROM seal_queue q WHERE CASE WHEN q.event_id IS NOT NULL
				THEN EXISTS (SELECT 1 FROM event e WHERE e.id = q.event_id)
					AND NOT EXISTS (SELECT 1 FROM ledger_leaf l WHERE l.event_id = q.event_id)
				ELSE EXISTS (SELECT 1 FROM row_version r WHERE r.id = q.row_version_id)
					AND NOT EXISTS (SELECT 1 FROM ledger_leaf l WHERE l.row_version_id = q.row_version_id) END
			ORDER BY q.id LIMIT 5000) u) w
		WHERE w.before < most_weight;
	size := first; added := 0;
	IF events IS NULL AND records IS NULL THEN RETURN NEXT; RETURN; END IF;
	INSERT INTO ledger_leaf (index, event_id, row_version_id, entry, hash, sealed_at)
		SELECT first + row_number() OVER (ORDER BY n.row_version_id NULLS LAST, n.event_id) - 1, n.event_id, n.row_version_id, n.entry,
			leaf_hash(n.entry), clock_timestamp()
		FROM (SELECT x.event_id, NULL::bigint AS row_version_id, x.entry FROM event_entries(events) x UNION ALL
			SELECT NULL, y.row_version_id, y.entry FROM row_version_entries(records) y) n;
	GET DIAGNOSTICS added = ROW_COUNT;
	DELETE FROM seal_queue u WHERE u.event_id = ANY (events) OR u.row_version_id = ANY (records);
	size := first + added;
	-- Each level's new full pairs make the next level's nodes.
	lo := first; hi := size;
	LOOP
		lo := lo / 2; hi := hi / 2;
		EXIT WHEN lo >= hi;
		lev := lev + 1;
		IF lev = 1 THEN
			INSERT INTO ledger_node SELECT 1, i, node_hash(l.hash, r.hash) FROM generate_series(lo, hi - 1) i
				JOIN ledger_leaf l ON l.index = 2 * i JOIN ledger_leaf r ON r.index = 2 * i + 1;
		ELSE
			INSERT INTO ledger_node SELECT lev, i, node_hash(l.hash, r.hash) FROM generate_series(lo, hi - 1) i
				JOIN ledger_node l ON l.level = lev - 1 AND l.index = 2 * i JOIN ledger_node r ON r.level = lev - 1 AND r.index = 2 * i + 1;
		END IF;
	END LOOP;
	PERFORM pg_notify('sealed', size::text);
	RETURN NEXT;
END $$;
REVOKE EXECUTE ON FUNCTION seal(most_weight integer, wait boolean) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION seal(most_weight integer, wait boolean) TO earmark_app;
