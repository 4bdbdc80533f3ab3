-- Which part goes into which unit, before it is booked: stations, work cards, what was scanned, what waits for review.

-- What is made of it waits for a review before it is booked.
ALTER TABLE item ADD review boolean NOT NULL DEFAULT false;
ALTER TABLE orders ADD review boolean NOT NULL DEFAULT false;
SELECT record_again('item'), record_again('orders');

-- Where parts are put into units. What carries no number is taken from its place.
CREATE TABLE station (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^[^[:space:]/?#%]{1,20}$'),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 100),
	place_id bigint NOT NULL REFERENCES place,
	review boolean NOT NULL DEFAULT false,
	closed_on date
);
ALTER TABLE setup_change DROP CONSTRAINT setup_change_subject_check,
	ADD CONSTRAINT setup_change_subject_check CHECK (subject IN ('item', 'kind', 'fact', 'pattern', 'policy', 'partner', 'place', 'job', 'station', 'person', 'token', 'firm'));
CREATE OR REPLACE FUNCTION covered() RETURNS TABLE (of text, keys text[], without text[], hashed text[]) LANGUAGE sql IMMUTABLE AS $$
	VALUES ('item', ARRAY['id'], ARRAY[]::text[], ARRAY[]::text[]), ('item_kind', ARRAY['id'], '{}', '{}'), ('marking_rule', ARRAY['item_id', 'kind_id', 'step'], '{}', '{}'),
		('fact', ARRAY['id'], '{}', '{}'), ('fact_rule', ARRAY['item_id', 'kind_id', 'step', 'fact_id'], '{}', '{}'), ('part', ARRAY['item_id', 'part_item_id'], '{}', '{}'),
		('place', ARRAY['id'], '{}', '{}'), ('partner', ARRAY['id'], '{}', '{}'), ('job', ARRAY['id'], '{}', '{}'), ('firm', ARRAY['one'], '{}', '{}'),
		('check_policy', ARRAY['code'], '{}', '{}'), ('number_pattern', ARRAY['id'], '{}', '{}'), ('person', ARRAY['id'], '{}', ARRAY['password_hash']),
		('api_token', ARRAY['id'], ARRAY['last_used_at'], ARRAY['token_hash']), ('orders', ARRAY['id'], '{}', '{}'), ('order_line', ARRAY['id'], '{}', '{}'),
		('mark_note', ARRAY['id'], '{}', '{}'), ('mark_file', ARRAY['id'], '{}', '{}'), ('stored_file', ARRAY['sha256'], ARRAY['content'], '{}'),
		('setup_change', ARRAY['id'], '{}', '{}'), ('station', ARRAY['id'], '{}', '{}')
$$;
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON station FOR EACH ROW EXECUTE FUNCTION keep_record();

-- A finished serial that is being put together: its parts stand in draft_row, one row a part, under its serial.
CREATE TABLE unit_work (
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	serial text NOT NULL CHECK (length(serial) BETWEEN 1 AND 60),
	-- open: parts are missing; ready: all are in; back: sent back by the review
	state text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'ready', 'back')),
	-- somebody who may review has to book it
	review boolean NOT NULL DEFAULT false,
	-- where it was before a person last; none: entered at a desk
	station_id bigint REFERENCES station,
	-- how its own number became known
	evidence text NOT NULL CHECK (evidence IN ('scanned', 'entered')),
	-- why it was sent back, or what stood in the way of booking it
	said text NOT NULL DEFAULT '',
	opened_at timestamptz NOT NULL DEFAULT clock_timestamp(),
	changed_by text NOT NULL,
	changed_at timestamptz NOT NULL DEFAULT clock_timestamp(),
	PRIMARY KEY (order_id, serial)
);
CREATE INDEX unit_work_ready ON unit_work (order_id, serial COLLATE natural_order) WHERE state = 'ready';
CREATE INDEX unit_work_serial ON unit_work (serial);
CREATE INDEX drawn_number_number ON drawn_number (number);
CREATE INDEX draft_row_unit ON draft_row (order_id, (data ->> 'unit')) WHERE data ? 'unit';

-- Everything that was scanned at a station, what came of it, and what was answered: the same scan sent again gets the same.
CREATE TABLE station_scan (
	id uuid PRIMARY KEY,
	station_id bigint NOT NULL REFERENCES station,
	order_id bigint REFERENCES orders ON DELETE SET NULL,
	unit text,
	text text NOT NULL,
	taken boolean NOT NULL,
	answer jsonb NOT NULL,
	-- the part's row, where it put one in
	row_id uuid,
	scanned_by text NOT NULL,
	scanned_at timestamptz NOT NULL DEFAULT clock_timestamp(),
	undone_at timestamptz
);
CREATE INDEX station_scan_unit ON station_scan (order_id, unit, scanned_at DESC) WHERE order_id IS NOT NULL;
CREATE INDEX station_scan_row ON station_scan (row_id) WHERE row_id IS NOT NULL;

-- Each printing of a work card as a sheet; no serial: the order's own. Labels are counted with all labels.
CREATE TABLE card_print (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	serial text,
	printed_by text NOT NULL,
	printed_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX card_print_order ON card_print (order_id, serial);

GRANT SELECT, INSERT, UPDATE ON station, unit_work, station_scan TO earmark_app;
GRANT DELETE ON unit_work TO earmark_app;
GRANT SELECT, INSERT ON card_print TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;
