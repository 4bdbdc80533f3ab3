-- Stations, routes, units in process, radio tags.

-- Where parts are put into units. What carries no number is taken from its place.
CREATE TABLE station (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^[^[:space:]/?#%]{1,20}$'),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 100),
	place_id bigint NOT NULL REFERENCES place,
	review boolean NOT NULL DEFAULT false,
	closed_on date
);

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
CREATE INDEX station_scan_row ON station_scan (row_id) WHERE row_id IS NOT NULL;
CREATE INDEX station_scan_unit ON station_scan (order_id, unit, scanned_at DESC) WHERE order_id IS NOT NULL;

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

-- The operations of an item, in order. A changed route is another row: it counts for units released after it.
CREATE TABLE route (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	item_id bigint NOT NULL REFERENCES item,
	operations jsonb NOT NULL CHECK (jsonb_array_length(operations) >= 1 AND jsonb_array_length(operations) <= 50),
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
	was text,
	order_id bigint REFERENCES orders,
	station_id bigint REFERENCES station,
	evidence text NOT NULL CHECK (evidence IN ('scanned', 'entered', 'reported')),
	reason text,
	done_by text NOT NULL CHECK (done_by <> ''),
	source text NOT NULL CHECK (source IN ('screen', 'api', 'station', 'import')),
	recorded_at timestamptz NOT NULL DEFAULT clock_timestamp(),
	CONSTRAINT step_check CHECK ((was IS NOT NULL) = (state = 'held')),
	CONSTRAINT step_check1 CHECK ((act = 'release') = (from_operation IS NULL) AND (from_operation IS NULL) = (from_state IS NULL))
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

CREATE TABLE tag (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	-- printed on it, for people
	name text NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 40),
	-- its EPC memory, in hexadecimal, and its user memory; empty: blank
	epc text NOT NULL DEFAULT '' CHECK (epc ~ '^[0-9A-F]{0,60}$'),
	memory text NOT NULL DEFAULT '' CHECK (length(memory) <= 300),
	-- before which reader it lies; none: out of range
	station_id bigint REFERENCES station,
	-- it is taken away before the next write is confirmed
	leaves boolean NOT NULL DEFAULT false
);
CREATE INDEX tag_station ON tag (station_id) WHERE station_id IS NOT NULL;

-- What a reader did last: read, wrote, lost.
CREATE TABLE tag_use (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	station_id bigint NOT NULL REFERENCES station,
	tag_id bigint NOT NULL REFERENCES tag ON DELETE CASCADE,
	did text NOT NULL CHECK (did IN ('read', 'wrote', 'lost')),
	epc text NOT NULL,
	memory text NOT NULL,
	at timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE INDEX tag_use_station ON tag_use (station_id, id DESC);

-- Each printing of a work card as a sheet; no serial: the order's own. Labels are counted with all labels.
CREATE TABLE card_print (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	serial text,
	printed_by text NOT NULL,
	printed_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX card_print_order ON card_print (order_id, serial);
