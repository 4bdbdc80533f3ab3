-- Work in process: routes, the steps that units take on them, and where each is.

-- The operations of an item, in order. A changed route is another row: it counts for units released after it.
CREATE TABLE route (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	item_id bigint NOT NULL REFERENCES item,
	operations jsonb NOT NULL CHECK (jsonb_array_length(operations) BETWEEN 1 AND 50),
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE INDEX route_item ON route (item_id, id DESC);

-- Everything that was done to a unit on the floor, for good.
CREATE TABLE step (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	key text NOT NULL UNIQUE,
	-- what was asked under the key
	request text NOT NULL,
	at timestamptz NOT NULL,
	mark_id bigint NOT NULL REFERENCES mark,
	route_id bigint NOT NULL REFERENCES route,
	act text NOT NULL CHECK (act IN ('release', 'read', 'hold', 'release hold', 'rework', 'out of rework', 'scrap')),
	from_operation text,
	from_state text CHECK (from_state IN ('queued', 'in process', 'complete', 'held', 'rework', 'scrapped')),
	operation text NOT NULL,
	state text NOT NULL CHECK (state IN ('queued', 'in process', 'complete', 'held', 'rework', 'scrapped')),
	-- of one that is held: the state that it had
	was text CHECK ((was IS NOT NULL) = (state = 'held')),
	order_id bigint REFERENCES orders,
	station_id bigint REFERENCES station,
	evidence text NOT NULL CHECK (evidence IN ('scanned', 'entered', 'reported')),
	reason text,
	done_by text NOT NULL CHECK (done_by <> ''),
	source text NOT NULL CHECK (source IN ('screen', 'api', 'station', 'import')),
	recorded_at timestamptz NOT NULL DEFAULT clock_timestamp(),
	CHECK ((act = 'release') = (from_operation IS NULL) AND (from_operation IS NULL) = (from_state IS NULL))
);
CREATE INDEX step_mark ON step (mark_id, id DESC);
CREATE INDEX step_time ON step (at, id);

-- Where each unit is: its last step.
CREATE TABLE floor (
	mark_id bigint PRIMARY KEY REFERENCES mark,
	item_id bigint NOT NULL REFERENCES item,
	route_id bigint NOT NULL REFERENCES route,
	operation text NOT NULL,
	state text NOT NULL,
	was text,
	order_id bigint,
	-- since when it is so
	since timestamptz NOT NULL,
	last_step bigint NOT NULL
);
CREATE INDEX floor_at_work ON floor (item_id, operation, state, since) WHERE state NOT IN ('complete', 'scrapped');

-- A step begins where the one before it ended, and no earlier.
CREATE FUNCTION keep_floor() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE now_is floor;
BEGIN
	SELECT * INTO now_is FROM floor WHERE mark_id = NEW.mark_id FOR UPDATE;
	IF NEW.from_operation IS DISTINCT FROM now_is.operation OR NEW.from_state IS DISTINCT FROM now_is.state
		OR now_is.route_id IS NOT NULL AND now_is.route_id <> NEW.route_id OR NEW.at < now_is.since THEN
		RAISE EXCEPTION USING ERRCODE = 'EM040', MESSAGE = 'the unit moved meanwhile';
	END IF;
	INSERT INTO floor (mark_id, item_id, route_id, operation, state, was, order_id, since, last_step)
		SELECT NEW.mark_id, k.item_id, NEW.route_id, NEW.operation, NEW.state, NEW.was, NEW.order_id, NEW.at, NEW.id FROM mark k WHERE k.id = NEW.mark_id
		ON CONFLICT (mark_id) DO UPDATE SET operation = excluded.operation, state = excluded.state, was = excluded.was,
			order_id = coalesce(excluded.order_id, floor.order_id), since = excluded.since, last_step = excluded.last_step;
	PERFORM pg_notify('floor', NEW.mark_id::text);
	RETURN NULL;
END $$;
CREATE TRIGGER keep_floor AFTER INSERT ON step FOR EACH ROW EXECUTE FUNCTION keep_floor();
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['route', 'step'] LOOP
		EXECUTE format('CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON %I FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
		EXECUTE format('CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON %I FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
	END LOOP;
END $$;

-- A row of both is an entry of the ledger.
CREATE OR REPLACE FUNCTION covered() RETURNS TABLE (of text, keys text[], without text[], hashed text[]) LANGUAGE sql IMMUTABLE AS $$
	VALUES ('item', ARRAY['id'], ARRAY[]::text[], ARRAY[]::text[]), ('item_kind', ARRAY['id'], '{}', '{}'), ('marking_rule', ARRAY['item_id', 'kind_id', 'step'], '{}', '{}'),
		('fact', ARRAY['id'], '{}', '{}'), ('fact_rule', ARRAY['item_id', 'kind_id', 'step', 'fact_id'], '{}', '{}'), ('part', ARRAY['item_id', 'part_item_id'], '{}', '{}'),
		('place', ARRAY['id'], '{}', '{}'), ('partner', ARRAY['id'], '{}', '{}'), ('job', ARRAY['id'], '{}', '{}'), ('firm', ARRAY['one'], '{}', '{}'),
		('check_policy', ARRAY['code'], '{}', '{}'), ('number_pattern', ARRAY['id'], '{}', '{}'), ('person', ARRAY['id'], '{}', ARRAY['password_hash']),
		('api_token', ARRAY['id'], ARRAY['last_used_at'], ARRAY['token_hash']), ('orders', ARRAY['id'], '{}', '{}'), ('order_line', ARRAY['id'], '{}', '{}'),
		('mark_note', ARRAY['id'], '{}', '{}'), ('mark_file', ARRAY['id'], '{}', '{}'), ('stored_file', ARRAY['sha256'], ARRAY['content'], '{}'),
		('setup_change', ARRAY['id'], '{}', '{}'), ('station', ARRAY['id'], '{}', '{}'), ('route', ARRAY['id'], '{}', '{}'), ('step', ARRAY['id'], '{}', '{}')
$$;
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON route FOR EACH ROW EXECUTE FUNCTION keep_record();
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON step FOR EACH ROW EXECUTE FUNCTION keep_record();

-- A unit that is released to the floor is known from then on, and nothing is in stock by that: an event that makes a number
-- and moves nothing.
ALTER TABLE event DROP CONSTRAINT event_kind_check,
	ADD CONSTRAINT event_kind_check CHECK (kind IN ('receipt', 'move', 'transfer', 'use', 'output', 'issue', 'repack', 'service', 'shipment',
		'return', 'supplier return', 'scrap', 'adjust', 'count', 'mark', 'begin', 'correct', 'hold', 'quarantine', 'release', 'reject', 'undo'));
DO $$ DECLARE is_now text := pg_get_functiondef('check_event()'::regprocedure);
BEGIN
	IF position('(''correct'', ''hold''' IN is_now) = 0 THEN RAISE EXCEPTION 'check_event() is another one'; END IF;
	EXECUTE replace(is_now, '(''correct'', ''hold''', '(''begin'', ''correct'', ''hold''');
END $$;

GRANT SELECT ON route, step, floor TO earmark_app;
GRANT INSERT ON route, step TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;
