-- The ledger and what it speaks of. Plain SQL, run once, in order, as the owner of the database.
-- The application works as the role earmark_app, which may append to the ledger and never change it.

CREATE EXTENSION IF NOT EXISTS pg_trgm;
-- "A9" before "A10": how people who number things sort.
CREATE COLLATION natural_order (provider = icu, locale = 'en-u-kn-true');

DO $$ BEGIN
	IF NOT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'earmark_app') THEN
		CREATE ROLE earmark_app NOLOGIN;
	END IF;
	EXECUTE format('GRANT earmark_app TO %I', current_user);
EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL; -- two databases of one cluster made at once
END $$;

-- Items, places, partners ---------------------------------------------------------------------

CREATE TABLE item (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 60),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
	unit text NOT NULL CHECK (length(unit) BETWEEN 1 AND 20),
	decimals smallint NOT NULL DEFAULT 0 CHECK (decimals BETWEEN 0 AND 6),
	tracking text NOT NULL CHECK (tracking IN ('none', 'lot', 'serial', 'lot and serial')),
	expiry text NOT NULL DEFAULT 'not asked' CHECK (expiry IN ('not asked', 'asked', 'required')),
	shelf_life text CHECK (shelf_life ~ '^P(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$' AND shelf_life <> 'P'),
	run_mode text NOT NULL DEFAULT 'pooled' CHECK (run_mode IN ('pooled', 'unit')),
	-- How much stuff one unit holds, in a measure shared by bulk and pack (a 30 mL bottle: 0.03 L).
	content_qty numeric CHECK (content_qty > 0),
	content_unit text,
	serials_unique_everywhere boolean NOT NULL DEFAULT false,
	created_at timestamptz NOT NULL DEFAULT now(),
	CHECK ((content_qty IS NULL) = (content_unit IS NULL)),
	CHECK (tracking NOT LIKE '%serial%' OR decimals = 0)
);

CREATE TABLE marking_rule (
	item_id bigint NOT NULL REFERENCES item,
	step text NOT NULL CHECK (step IN ('receipt', 'customer return', 'production use', 'production output',
		'move', 'transfer', 'shipment', 'supplier return', 'adjustment', 'count')),
	lot text NOT NULL CHECK (lot IN ('not asked', 'asked', 'required')),
	serial text NOT NULL CHECK (serial IN ('not asked', 'asked', 'required')),
	since timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (item_id, step)
);

CREATE TABLE part (
	item_id bigint NOT NULL REFERENCES item,
	part_item_id bigint NOT NULL REFERENCES item,
	qty numeric NOT NULL CHECK (qty > 0),
	PRIMARY KEY (item_id, part_item_id),
	CHECK (item_id <> part_item_id)
);

CREATE TABLE place (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^(@[a-z]+|[A-Za-z0-9._-]{1,20}(/[A-Za-z0-9._-]{1,20})?)$'),
	name text NOT NULL,
	site_id bigint REFERENCES place,
	virtual boolean NOT NULL DEFAULT false,
	CHECK (virtual = (code LIKE '@%'))
);
INSERT INTO place (code, name, virtual) VALUES
	('@supplier', 'Supplier', true), ('@customer', 'Customer', true), ('@process', 'In process', true),
	('@scrap', 'Scrapped', true), ('@adjust', 'Adjusted', true);

CREATE TABLE partner (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 60),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
	kind text NOT NULL CHECK (kind IN ('supplier', 'customer', 'both'))
);

-- Orders and drafts ---------------------------------------------------------------------------

CREATE TABLE orders (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 60),
	kind text NOT NULL CHECK (kind IN ('purchase', 'production', 'sale', 'transfer', 'return')),
	partner_id bigint REFERENCES partner,
	place_id bigint REFERENCES place,
	due_on date,
	note text NOT NULL DEFAULT '',
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now(),
	closed_at timestamptz
);
CREATE INDEX orders_open ON orders (kind, due_on) WHERE closed_at IS NULL;

CREATE TABLE order_line (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders,
	no integer NOT NULL,
	role text NOT NULL CHECK (role IN ('goods', 'output', 'component')),
	item_id bigint NOT NULL REFERENCES item,
	qty numeric NOT NULL CHECK (qty > 0),
	UNIQUE (order_id, no)
);

CREATE SEQUENCE order_number;

-- What is typed or scanned into a marking sheet before it is booked. One row is one number, one range or one lot.
CREATE TABLE draft_row (
	id uuid PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	line_id bigint NOT NULL REFERENCES order_line ON DELETE CASCADE,
	data jsonb NOT NULL,
	version integer NOT NULL DEFAULT 1,
	created_at timestamptz NOT NULL DEFAULT clock_timestamp(),
	changed_by text NOT NULL,
	changed_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX draft_row_order ON draft_row (order_id, line_id, created_at);
CREATE INDEX draft_row_mark ON draft_row ((data ->> 'mark')) WHERE data ? 'mark';

-- The ledger ----------------------------------------------------------------------------------

CREATE TABLE ledger_head (
	one boolean PRIMARY KEY DEFAULT true CHECK (one),
	last_event bigint NOT NULL,
	hash text NOT NULL
);
INSERT INTO ledger_head (last_event, hash) VALUES (0, repeat('0', 64));

CREATE TABLE event (
	id bigint PRIMARY KEY,
	key text NOT NULL UNIQUE CHECK (length(key) BETWEEN 1 AND 200),
	kind text NOT NULL CHECK (kind IN ('receipt', 'move', 'transfer', 'use', 'output', 'repack', 'service', 'shipment',
		'return', 'supplier return', 'scrap', 'adjust', 'count', 'mark', 'correct', 'hold', 'release', 'reject', 'undo')),
	at timestamptz NOT NULL,
	recorded_at timestamptz NOT NULL,
	recorded_by text NOT NULL CHECK (recorded_by <> ''),
	source text NOT NULL CHECK (source IN ('screen', 'api', 'station', 'import')),
	order_id bigint REFERENCES orders,
	document text,
	partner_id bigint REFERENCES partner,
	reason text,
	note text,
	undoes bigint UNIQUE REFERENCES event,
	prev_hash text NOT NULL,
	hash text NOT NULL,
	CHECK ((kind = 'undo') = (undoes IS NOT NULL))
);
CREATE INDEX event_order ON event (order_id) WHERE order_id IS NOT NULL;
CREATE INDEX event_document ON event (document) WHERE document IS NOT NULL;

CREATE TABLE mark (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	item_id bigint NOT NULL REFERENCES item,
	kind text NOT NULL CHECK (kind IN ('lot', 'serial', 'unmarked')),
	lot_no text,
	serial_no text,
	number text GENERATED ALWAYS AS (coalesce(serial_no, lot_no)) STORED,
	parent_id bigint REFERENCES mark,
	supplier_lot text,
	made_on date,
	expires_on date,
	facts jsonb NOT NULL DEFAULT '{}',
	status text NOT NULL DEFAULT 'released' CHECK (status IN ('released', 'held', 'quarantine', 'rejected')),
	event_id bigint REFERENCES event DEFERRABLE INITIALLY DEFERRED,
	CHECK (CASE kind
		WHEN 'lot' THEN lot_no IS NOT NULL AND serial_no IS NULL AND parent_id IS NULL
		WHEN 'serial' THEN serial_no IS NOT NULL AND lot_no IS NULL
		ELSE lot_no IS NULL AND serial_no IS NULL AND parent_id IS NULL END),
	CHECK (length(number) BETWEEN 1 AND 60)
);
CREATE UNIQUE INDEX mark_lot ON mark (item_id, lot_no) WHERE kind = 'lot';
CREATE UNIQUE INDEX mark_serial ON mark (item_id, serial_no) WHERE kind = 'serial';
CREATE UNIQUE INDEX mark_unmarked ON mark (item_id) WHERE kind = 'unmarked';
CREATE INDEX mark_parent ON mark (parent_id) WHERE parent_id IS NOT NULL;
CREATE INDEX mark_event ON mark (event_id);
CREATE INDEX mark_number ON mark (number COLLATE natural_order, id) WHERE kind <> 'unmarked';
CREATE INDEX mark_search ON mark USING gin (lower(number) gin_trgm_ops) WITH (fastupdate = on);
CREATE INDEX mark_supplier_lot ON mark USING gin (lower(supplier_lot) gin_trgm_ops) WHERE supplier_lot IS NOT NULL;
CREATE INDEX mark_expiry ON mark (expires_on) WHERE expires_on IS NOT NULL;
CREATE INDEX mark_stopped ON mark (status) WHERE status <> 'released';

-- Every change of a recorded fact: what it was, what it is, by which event.
CREATE TABLE mark_change (
	event_id bigint NOT NULL REFERENCES event DEFERRABLE INITIALLY DEFERRED,
	mark_id bigint NOT NULL REFERENCES mark,
	field text NOT NULL CHECK (field IN ('lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'made_on', 'expires_on', 'facts', 'status')),
	old text,
	new text,
	PRIMARY KEY (event_id, mark_id, field)
);
CREATE INDEX mark_change_mark ON mark_change (mark_id, field, event_id);

-- Earlier numbers stay searchable.
CREATE TABLE mark_alias (
	mark_id bigint NOT NULL REFERENCES mark,
	number text NOT NULL,
	event_id bigint NOT NULL REFERENCES event DEFERRABLE INITIALLY DEFERRED,
	PRIMARY KEY (mark_id, number)
);
CREATE INDEX mark_alias_search ON mark_alias USING gin (lower(number) gin_trgm_ops);

CREATE TABLE run (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 120),
	order_id bigint REFERENCES orders,
	unit_mark bigint UNIQUE REFERENCES mark,
	planned numeric CHECK (planned > 0),
	event_id bigint NOT NULL REFERENCES event DEFERRABLE INITIALLY DEFERRED
);
CREATE INDEX run_order ON run (order_id) WHERE order_id IS NOT NULL;
CREATE INDEX run_event ON run (event_id);

-- A run is closed by a row here; the run itself never changes.
CREATE TABLE run_closing (
	run_id bigint PRIMARY KEY REFERENCES run,
	event_id bigint NOT NULL REFERENCES event DEFERRABLE INITIALLY DEFERRED
);
CREATE INDEX run_closing_event ON run_closing (event_id);

CREATE TABLE movement (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	event_id bigint NOT NULL REFERENCES event DEFERRABLE INITIALLY DEFERRED,
	at timestamptz NOT NULL, -- the event's; kept here so that time order needs no join
	mark_id bigint NOT NULL REFERENCES mark,
	qty numeric NOT NULL CHECK (qty > 0),
	from_place bigint NOT NULL REFERENCES place,
	to_place bigint NOT NULL REFERENCES place,
	run_id bigint REFERENCES run,
	role text CHECK (role IN ('use', 'make', 'detach')),
	unit_cost numeric,
	order_line_id bigint REFERENCES order_line,
	mirrors bigint REFERENCES movement,
	CHECK (from_place <> to_place),
	CHECK ((run_id IS NULL) = (role IS NULL))
);
CREATE INDEX movement_event ON movement (event_id);
CREATE INDEX movement_mark ON movement (mark_id, at, id);
CREATE INDEX movement_run ON movement (run_id, role) WHERE run_id IS NOT NULL;
CREATE INDEX movement_line ON movement (order_line_id) WHERE order_line_id IS NOT NULL;
CREATE UNIQUE INDEX movement_mirrors ON movement (mirrors) WHERE mirrors IS NOT NULL;

-- I3: a real place never goes below zero. I4: a serial is in one real place, or in none.
-- Written only from movements, whose own references hold; its own would be checked twice a piece for nothing.
CREATE TABLE balance (
	mark_id bigint NOT NULL,
	place_id bigint NOT NULL,
	qty numeric NOT NULL,
	serial boolean NOT NULL,
	virtual boolean NOT NULL,
	PRIMARY KEY (mark_id, place_id),
	CONSTRAINT below_zero CHECK (virtual OR qty >= 0),
	CONSTRAINT serial_is_one CHECK (NOT serial OR qty IN (-1, 0, 1))
);
CREATE UNIQUE INDEX serial_in_one_place ON balance (mark_id) WHERE serial AND NOT virtual AND qty > 0;
CREATE INDEX balance_place ON balance (place_id, mark_id) WHERE qty > 0 AND NOT virtual;

-- The effective ledger: without what was undone, and without the undoing.
CREATE VIEW effective_movement AS
	SELECT m.* FROM movement m
	WHERE m.mirrors IS NULL AND NOT EXISTS (SELECT 1 FROM movement x WHERE x.mirrors = m.id);

-- I2: balances follow the movements, whoever writes them.
CREATE FUNCTION keep_balances() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE marks bigint[]; places bigint[]; qtys numeric[]; serials boolean[]; virtuals boolean[]; there boolean[];
BEGIN
	SELECT array_agg(t.mark_id), array_agg(t.place_id), array_agg(t.qty), array_agg(k.kind = 'serial'), array_agg(p.virtual),
			array_agg(b.mark_id IS NOT NULL)
		INTO marks, places, qtys, serials, virtuals, there
		FROM (SELECT d.mark_id, d.place_id, sum(d.qty) AS qty
			FROM (SELECT mark_id, to_place AS place_id, qty FROM inserted UNION ALL SELECT mark_id, from_place, -qty FROM inserted) d
			GROUP BY 1, 2 HAVING sum(d.qty) <> 0) t
		JOIN mark k ON k.id = t.mark_id JOIN place p ON p.id = t.place_id
		LEFT JOIN balance b ON b.mark_id = t.mark_id AND b.place_id = t.place_id;
	IF true = ANY (there) THEN
		-- Out before in: a serial has left one place before it stands in another.
		UPDATE balance b SET qty = b.qty + d.qty FROM unnest(marks, places, qtys) d(mark_id, place_id, qty)
			WHERE b.mark_id = d.mark_id AND b.place_id = d.place_id AND d.qty < 0;
		UPDATE balance b SET qty = b.qty + d.qty FROM unnest(marks, places, qtys) d(mark_id, place_id, qty)
			WHERE b.mark_id = d.mark_id AND b.place_id = d.place_id AND d.qty > 0;
	END IF;
	INSERT INTO balance SELECT d.mark_id, d.place_id, d.qty, d.serial, d.virtual
		FROM unnest(marks, places, qtys, serials, virtuals, there) d(mark_id, place_id, qty, serial, virtual, there) WHERE NOT d.there;
	RETURN NULL;
END $$;
CREATE TRIGGER keep_balances AFTER INSERT ON movement REFERENCING NEW TABLE AS inserted
	FOR EACH STATEMENT EXECUTE FUNCTION keep_balances();

-- I5, second half: some items' serials must be unique over all items.
CREATE FUNCTION refuse_shared_serials() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE hit record;
BEGIN
	IF NOT EXISTS (SELECT 1 FROM item WHERE serials_unique_everywhere) THEN RETURN NULL; END IF;
	SELECT n.serial_no, i.code INTO hit FROM inserted n JOIN item ni ON ni.id = n.item_id
		JOIN mark m ON m.serial_no = n.serial_no AND m.id <> n.id AND m.kind = 'serial' JOIN item i ON i.id = m.item_id
		WHERE n.kind = 'serial' AND (ni.serials_unique_everywhere OR i.serials_unique_everywhere) LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM005', MESSAGE = 'serial used by another item',
			DETAIL = json_build_object('serial', hit.serial_no, 'item', hit.code)::text;
	END IF;
	RETURN NULL;
END $$;
CREATE TRIGGER refuse_shared_serials AFTER INSERT ON mark REFERENCING NEW TABLE AS inserted
	FOR EACH STATEMENT EXECUTE FUNCTION refuse_shared_serials();
CREATE INDEX mark_serial_no ON mark (serial_no) WHERE kind = 'serial';

-- I9: what an event's hash covers, as text. Numbers of marks stand as they were first booked. Free text is quoted
-- as JSON, so that no text can be moved from one field to the next.
CREATE FUNCTION event_text(e event) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT json_build_array(e.id, e.key, e.kind, extract(epoch FROM e.at), extract(epoch FROM e.recorded_at), e.recorded_by, e.source,
			e.order_id, e.document, e.partner_id, e.reason, e.note, e.undoes)::text
		|| coalesce((SELECT string_agg(concat_ws(',', m.id, extract(epoch FROM m.at), m.mark_id, m.qty, m.from_place, m.to_place, coalesce(m.run_id::text, '-'),
			coalesce(m.role, '-'), coalesce(m.unit_cost::text, '-'), coalesce(m.order_line_id::text, '-'), coalesce(m.mirrors::text, '-')), ';' ORDER BY m.id)
			FROM movement m WHERE m.event_id = e.id), '-')
		|| coalesce((SELECT string_agg(json_build_array(k.id, k.item_id, k.kind,
			CASE WHEN c.changed ? 'lot_no' THEN c.changed ->> 'lot_no' ELSE k.lot_no END,
			CASE WHEN c.changed ? 'serial_no' THEN c.changed ->> 'serial_no' ELSE k.serial_no END,
			CASE WHEN c.changed ? 'parent_id' THEN c.changed ->> 'parent_id' ELSE k.parent_id::text END,
			CASE WHEN c.changed ? 'supplier_lot' THEN c.changed ->> 'supplier_lot' ELSE k.supplier_lot END,
			CASE WHEN c.changed ? 'made_on' THEN c.changed ->> 'made_on' ELSE to_char(k.made_on, 'YYYY-MM-DD') END,
			CASE WHEN c.changed ? 'expires_on' THEN c.changed ->> 'expires_on' ELSE to_char(k.expires_on, 'YYYY-MM-DD') END)::text, ';' ORDER BY k.id)
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
CREATE FUNCTION event_hash(e event) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT encode(sha256(convert_to(e.prev_hash || event_text(e), 'UTF8')), 'hex')
$$;

-- The event row is written last; it closes its movements, checks them as a whole and seals the chain.
CREATE FUNCTION seal_event() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE head ledger_head; hit record;
BEGIN
	SELECT * INTO head FROM ledger_head FOR UPDATE;
	IF NEW.id <> head.last_event + 1 THEN
		RAISE EXCEPTION 'event % does not follow event %', NEW.id, head.last_event;
	END IF;
	IF EXISTS (SELECT 1 FROM movement WHERE event_id = NEW.id AND at <> NEW.at) THEN
		RAISE EXCEPTION 'a movement of event % has another time than its event', NEW.id;
	END IF;
	IF NEW.kind NOT IN ('correct', 'hold', 'release', 'reject')
		AND NOT EXISTS (SELECT 1 FROM movement WHERE event_id = NEW.id)
		AND NOT EXISTS (SELECT 1 FROM run_closing WHERE event_id = NEW.id) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM008', MESSAGE = 'an event without movements';
	END IF;

	-- I11: at no time since this event may less than nothing have stood at a real place.
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
	ELSIF EXISTS (SELECT 1 FROM movement WHERE event_id = NEW.id AND mirrors IS NOT NULL) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'only an undo mirrors movements';
	ELSE
		-- What goes through @process goes through a run, in the direction of its role.
		IF EXISTS (SELECT 1 FROM movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place
			WHERE m.event_id = NEW.id AND NOT CASE m.role
				WHEN 'use' THEN t.code = '@process' AND f.code <> '@process'
				WHEN 'make' THEN f.code = '@process' WHEN 'detach' THEN f.code = '@process'
				ELSE f.code <> '@process' AND t.code <> '@process' END) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM008', MESSAGE = 'a movement and its role disagree';
		END IF;
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

	NEW.prev_hash := head.hash;
	NEW.hash := event_hash(NEW);
	UPDATE ledger_head SET last_event = NEW.id, hash = NEW.hash;
	RETURN NEW;
END $$;
CREATE TRIGGER seal_event BEFORE INSERT ON event FOR EACH ROW EXECUTE FUNCTION seal_event();

-- I1: nobody changes history, not even the owner.
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('%s is history: it is never changed or deleted', TG_TABLE_NAME);
END $$;
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['event', 'movement', 'run', 'run_closing', 'mark_change', 'mark_alias'] LOOP
		EXECUTE format('CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON %I FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
		EXECUTE format('CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON %I FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
	END LOOP;
END $$;

-- A mark is never deleted, its item and origin never change, and a recorded fact changes only with a row that says so.
CREATE FUNCTION guard_mark() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE f text; was jsonb; now_is jsonb;
BEGIN
	IF TG_OP = 'DELETE' OR NEW.id <> OLD.id OR NEW.item_id <> OLD.item_id OR NEW.kind <> OLD.kind OR NEW.event_id IS DISTINCT FROM OLD.event_id THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = 'a mark keeps its identity: it is never deleted or made another';
	END IF;
	was := to_jsonb(OLD); now_is := to_jsonb(NEW);
	FOREACH f IN ARRAY ARRAY['lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'made_on', 'expires_on', 'facts', 'status'] LOOP
		IF was -> f IS DISTINCT FROM now_is -> f AND NOT EXISTS (
			SELECT 1 FROM mark_change c WHERE c.mark_id = NEW.id AND c.field = f
				AND c.old IS NOT DISTINCT FROM was ->> f AND c.new IS NOT DISTINCT FROM now_is ->> f
				AND c.event_id = (SELECT last_event + 1 FROM ledger_head)) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('%s of a mark changes only by an event that records it', f);
		END IF;
	END LOOP;
	RETURN NEW;
END $$;
CREATE TRIGGER guard_mark BEFORE UPDATE OR DELETE ON mark FOR EACH ROW EXECUTE FUNCTION guard_mark();
CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON mark FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();

-- People --------------------------------------------------------------------------------------

CREATE TABLE person (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	login text NOT NULL UNIQUE CHECK (login ~ '^[a-z][a-z0-9._-]{0,39}$'),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 100),
	role text NOT NULL CHECK (role IN ('coordinator', 'receiving and shipping', 'assembly', 'quality', 'service', 'auditor', 'administrator')),
	password_hash text NOT NULL,
	active boolean NOT NULL DEFAULT true
);
CREATE TABLE session (
	token_hash text PRIMARY KEY,
	person_id bigint NOT NULL REFERENCES person,
	created_at timestamptz NOT NULL DEFAULT now(),
	expires_at timestamptz NOT NULL
);
CREATE TABLE sign_in_failure (
	login text NOT NULL,
	address text NOT NULL,
	at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sign_in_failure_recent ON sign_in_failure (at);
CREATE TABLE api_token (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 60),
	role text NOT NULL,
	token_hash text NOT NULL UNIQUE,
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now(),
	last_used_at timestamptz,
	revoked_at timestamptz
);

-- What the application may do ------------------------------------------------------------------

GRANT USAGE ON SCHEMA public TO earmark_app;
GRANT SELECT ON ALL TABLES IN SCHEMA public TO earmark_app;
GRANT INSERT ON event, movement, run, run_closing, mark, mark_change, mark_alias TO earmark_app;
GRANT UPDATE (lot_no, serial_no, parent_id, supplier_lot, made_on, expires_on, facts, status) ON mark TO earmark_app;
GRANT UPDATE ON ledger_head TO earmark_app; -- needed to lock it; its guard follows
GRANT INSERT, UPDATE ON item, marking_rule, part, place, partner, orders, order_line, person, session, sign_in_failure, api_token, draft_row TO earmark_app;
GRANT DELETE ON part, draft_row, session, sign_in_failure, order_line, orders TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;

-- The head moves only with the chain: to an event's own id and hash.
CREATE FUNCTION guard_head() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF TG_OP = 'DELETE' OR pg_trigger_depth() < 2 OR NEW.last_event <> OLD.last_event + 1 THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = 'the head of the ledger moves only when an event is sealed';
	END IF;
	RETURN NEW;
END $$;
CREATE TRIGGER guard_head BEFORE UPDATE OR DELETE ON ledger_head FOR EACH ROW EXECUTE FUNCTION guard_head();
