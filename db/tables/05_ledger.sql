-- The ledger: events, marks, runs, movements, and the balances that follow from them.

CREATE SEQUENCE event_id;

CREATE TABLE event (
	id bigint PRIMARY KEY,
	key text NOT NULL UNIQUE CHECK (length(key) BETWEEN 1 AND 200),
	kind text NOT NULL CHECK (kind IN ('receipt', 'move', 'transfer', 'use', 'output', 'issue', 'repack', 'service', 'shipment', 'return',
		'supplier return', 'scrap', 'adjust', 'count', 'mark', 'begin', 'correct', 'hold', 'quarantine', 'release', 'reject', 'undo')),
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
	prev_hash text,
	hash text,
	job_id bigint REFERENCES job,
	request text CHECK (request ~ '^[0-9a-f]{64}$'),
	-- An event may put right the quantity of another that can no longer be undone.
	mends bigint REFERENCES event,
	CONSTRAINT event_check CHECK ((kind = 'undo') = (undoes IS NOT NULL)),
	CONSTRAINT of_the_former_chain CHECK ((hash IS NULL) = (prev_hash IS NULL))
);
CREATE INDEX event_adjusts ON event (at, id) WHERE kind IN ('adjust', 'scrap', 'count', 'correct');
CREATE INDEX event_document ON event (document) WHERE document IS NOT NULL;
CREATE INDEX event_job ON event (job_id) WHERE job_id IS NOT NULL;
CREATE INDEX event_mends ON event (mends) WHERE mends IS NOT NULL;
CREATE INDEX event_order ON event (order_id) WHERE order_id IS NOT NULL;
CREATE INDEX event_partner ON event (partner_id, at) WHERE partner_id IS NOT NULL;
CREATE INDEX event_recorded ON event (recorded_at, id);

CREATE TABLE mark (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	item_id bigint NOT NULL,
	kind text NOT NULL CHECK (kind IN ('lot', 'serial', 'unmarked')),
	lot_no text,
	serial_no text,
	number text GENERATED ALWAYS AS (coalesce(serial_no, lot_no)) STORED CHECK (length(number) BETWEEN 1 AND 60),
	parent_id bigint,
	supplier_lot text,
	made_on date,
	expires_on date,
	facts jsonb NOT NULL DEFAULT '{}',
	status text NOT NULL DEFAULT 'released' CHECK (status IN ('released', 'held', 'quarantine', 'rejected')),
	event_id bigint,
	-- The supplier's serial beside ours.
	supplier_serial text,
	looks text GENERATED ALWAYS AS (looks(coalesce(serial_no, lot_no))) STORED,
	-- Of marks: how often what is recorded of it changed; and, of those that look the same whatever their item,
	-- which one it is. Two that are made at once get the same place there, so that the second is looked at
	-- again.
	version integer NOT NULL DEFAULT 0,
	lookalike integer NOT NULL DEFAULT 0,
	-- Until when the supplier answers for it.
	supplier_warranty_until date,
	-- Whose a lot or serial is: ours where nobody is named, else a partner's (a customer's unit on our bench,
	-- goods on consignment). A serial is its lot's owner's where it names none itself. It lies at a real place,
	-- is traced and counted, and is never offered. It changes like everything that is recorded of a mark: by an
	-- event that says what it was.
	owner text REFERENCES partner(code),
	CONSTRAINT mark_check CHECK (
CASE kind
    WHEN 'lot' THEN lot_no IS NOT NULL AND serial_no IS NULL AND parent_id IS NULL
    WHEN 'serial' THEN serial_no IS NOT NULL AND lot_no IS NULL
    ELSE lot_no IS NULL AND serial_no IS NULL AND parent_id IS NULL
END)
);
CREATE INDEX mark_event ON mark (event_id);
CREATE INDEX mark_expiry ON mark (expires_on) WHERE expires_on IS NOT NULL;
CREATE INDEX mark_facts ON mark USING gin (facts) WHERE facts <> '{}'::jsonb;
CREATE INDEX mark_item ON mark (item_id, id);
CREATE UNIQUE INDEX mark_looks ON mark (looks, lookalike) WHERE kind <> 'unmarked';
CREATE UNIQUE INDEX mark_lot ON mark (item_id, lot_no) WHERE kind = 'lot';
CREATE INDEX mark_number ON mark (number COLLATE natural_order, id);
CREATE INDEX mark_owner ON mark (owner) WHERE owner IS NOT NULL;
CREATE INDEX mark_parent ON mark (parent_id) WHERE parent_id IS NOT NULL;
CREATE INDEX mark_search ON mark USING gin (lower(number) gin_trgm_ops) WITH (fastupdate='on');
CREATE UNIQUE INDEX mark_serial ON mark (item_id, serial_no) WHERE kind = 'serial';
CREATE INDEX mark_stopped ON mark (status) WHERE status <> 'released';
CREATE INDEX mark_supplier_lot ON mark USING gin (lower(supplier_lot) gin_trgm_ops) WHERE supplier_lot IS NOT NULL;
CREATE INDEX mark_supplier_serial ON mark USING gin (lower(supplier_serial) gin_trgm_ops) WHERE supplier_serial IS NOT NULL;
CREATE UNIQUE INDEX mark_unmarked ON mark (item_id) WHERE kind = 'unmarked';

-- Every change of a recorded fact: what it was, what it is, by which event.
CREATE TABLE mark_change (
	event_id bigint NOT NULL REFERENCES event DEFERRABLE INITIALLY DEFERRED,
	mark_id bigint NOT NULL REFERENCES mark,
	field text NOT NULL CHECK (field IN ('lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'supplier_serial', 'supplier_warranty_until',
		'made_on', 'expires_on', 'facts', 'status', 'owner')),
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
CREATE INDEX mark_alias_number ON mark_alias (number);
CREATE INDEX mark_alias_search ON mark_alias USING gin (lower(number) gin_trgm_ops);

CREATE TABLE run (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 120),
	order_id bigint,
	unit_mark bigint UNIQUE,
	planned numeric CHECK (planned > 0::numeric),
	event_id bigint NOT NULL
);
CREATE INDEX run_event ON run (event_id);
CREATE INDEX run_order ON run (order_id) WHERE order_id IS NOT NULL;

-- A run is closed by a row here; the run itself never changes.
CREATE TABLE run_closing (
	run_id bigint NOT NULL REFERENCES run,
	event_id bigint NOT NULL REFERENCES event DEFERRABLE INITIALLY DEFERRED,
	PRIMARY KEY (run_id, event_id)
);
CREATE INDEX run_closing_event ON run_closing (event_id);

CREATE TABLE movement (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	event_id bigint NOT NULL,
	-- the event's; kept here so that time order needs no join
	at timestamptz NOT NULL,
	mark_id bigint NOT NULL,
	qty numeric NOT NULL CHECK (qty > 0::numeric),
	from_place bigint NOT NULL,
	to_place bigint NOT NULL,
	run_id bigint,
	role text CHECK (role IN ('use', 'make', 'detach')),
	unit_cost numeric,
	order_line_id bigint,
	mirrors bigint,
	-- NULL where nobody said: what was booked before this was asked, and stock without a number.
	evidence text CHECK (evidence IN ('scanned', 'entered', 'accepted', 'reported')),
	CONSTRAINT movement_check CHECK (from_place <> to_place),
	CONSTRAINT movement_check1 CHECK ((run_id IS NULL) = (role IS NULL))
);
CREATE INDEX movement_back ON movement (mark_id, at DESC, id DESC) WHERE from_place = 2;
CREATE INDEX movement_cost ON movement (id) WHERE unit_cost IS NOT NULL;
CREATE INDEX movement_event ON movement (event_id);
CREATE INDEX movement_from ON movement (from_place, id);
CREATE INDEX movement_from_customer ON movement (mark_id) WHERE from_place = 2;
CREATE INDEX movement_line ON movement (order_line_id) WHERE order_line_id IS NOT NULL;
CREATE INDEX movement_make ON movement (mark_id) WHERE role = 'make';
CREATE INDEX movement_mark ON movement (mark_id, at, id);
CREATE UNIQUE INDEX movement_mirrors ON movement (mirrors) WHERE mirrors IS NOT NULL;
CREATE INDEX movement_run ON movement (run_id, role) WHERE run_id IS NOT NULL;
CREATE INDEX movement_since ON movement USING brin (at);
CREATE INDEX movement_to ON movement (to_place, id);
CREATE INDEX movement_use ON movement (at, id) WHERE role = 'use';

-- I3: a real place never goes below zero. I4: a serial is in one real place, or in none. Written only from
-- movements, whose own references hold; its own would be checked twice a piece for nothing.
CREATE TABLE balance (
	mark_id bigint NOT NULL,
	place_id bigint NOT NULL,
	qty numeric NOT NULL,
	serial boolean NOT NULL,
	virtual boolean NOT NULL,
	PRIMARY KEY (mark_id, place_id),
	CONSTRAINT below_zero CHECK (virtual OR qty >= 0::numeric),
	CONSTRAINT serial_is_one CHECK (NOT serial OR (qty = ANY (ARRAY['-1'::integer::numeric, 0::numeric, 1::numeric])))
);
CREATE INDEX balance_hand ON balance (mark_id, place_id) WHERE (qty > (0)::numeric) AND (NOT virtual);
CREATE INDEX balance_place ON balance (place_id, mark_id) WHERE (qty > (0)::numeric) AND (NOT virtual);
CREATE UNIQUE INDEX serial_in_one_place ON balance (mark_id) WHERE serial AND (NOT virtual) AND (qty > (0)::numeric);

-- Events of which marks or movements are written and whose own row is not there yet. A row here that stays
-- until the end of its transaction refers to an event that never came.
CREATE TABLE unfinished_event (
	event_id bigint PRIMARY KEY REFERENCES event DEFERRABLE INITIALLY DEFERRED
);

-- An event may be of several orders: beside its own those whose lines its movements fulfil too.
CREATE TABLE order_event (
	order_id bigint NOT NULL REFERENCES orders,
	event_id bigint NOT NULL REFERENCES event,
	PRIMARY KEY (order_id, event_id)
);
CREATE INDEX order_event_event ON order_event (event_id);
