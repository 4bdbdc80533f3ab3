-- Documents, their lines and their drafts.

CREATE SEQUENCE order_number;

CREATE TABLE orders (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 60),
	kind text NOT NULL CHECK (kind IN ('purchase', 'production', 'sale', 'counter', 'issue', 'repack', 'transfer', 'return',
		'supplier-return', 'adjust-in', 'adjust-out', 'count', 'numbering')),
	partner_id bigint REFERENCES partner,
	place_id bigint REFERENCES place,
	due_on date,
	note text NOT NULL DEFAULT '',
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now(),
	closed_at timestamptz,
	job_id bigint REFERENCES job,
	review boolean NOT NULL DEFAULT false,
	way_id bigint REFERENCES delivery_way,
	-- An order that is closed before all of it is booked, with why. It stays closed whatever is undone of it, until it is opened again.
	closed_short text CHECK (length(closed_short) BETWEEN 1 AND 1000),
	-- Where it goes to.
	to_place_id bigint REFERENCES place,
	-- Adjustments are documents like every other, and each has one.
	reason_id bigint REFERENCES reason,
	-- What is delivered may stay the property of the partner that brings it.
	theirs boolean NOT NULL DEFAULT false,
	CONSTRAINT orders_check CHECK (closed_short IS NULL OR closed_at IS NOT NULL),
	CONSTRAINT orders_check1 CHECK ((kind = 'transfer') = (to_place_id IS NOT NULL)),
	CONSTRAINT orders_check2 CHECK (kind = 'purchase' AND partner_id IS NOT NULL OR NOT theirs),
	CONSTRAINT orders_reason_check CHECK ((kind IN ('return', 'supplier-return', 'adjust-in', 'adjust-out')) = (reason_id IS NOT NULL))
);
CREATE INDEX orders_kind ON orders (kind, closed_at);
CREATE INDEX orders_open ON orders (kind, due_on) WHERE closed_at IS NULL;
CREATE INDEX orders_way ON orders (way_id) WHERE way_id IS NOT NULL;

CREATE TABLE order_line (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders,
	no integer NOT NULL,
	role text NOT NULL CHECK (role IN ('goods', 'output', 'byproduct', 'component')),
	item_id bigint NOT NULL REFERENCES item,
	qty numeric NOT NULL CHECK (qty > 0::numeric),
	-- What is bought for a customer is promised to it as it arrives.
	for_partner_id bigint REFERENCES partner,
	-- A line that a scan added is as long as what was scanned for it.
	scanned boolean NOT NULL DEFAULT false,
	-- What is agreed of a line: a warranty other than the item's, and its price as it is written.
	warranty text CHECK (warranty ~ '^P(?=\d)(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$'),
	price text NOT NULL DEFAULT '' CHECK (length(price) <= 40),
	CONSTRAINT order_line_order_id_no_key UNIQUE (order_id, no)
);

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
CREATE INDEX draft_row_mark ON draft_row (((data ->> 'mark'))) WHERE data ? 'mark';
CREATE INDEX draft_row_order ON draft_row (order_id, line_id, created_at);
CREATE INDEX draft_row_serial ON draft_row (order_id, ((data ->> 'serial'))) WHERE data ? 'serial';
CREATE INDEX draft_row_several ON draft_row (order_id) WHERE (data ->> 'count') <> '1';
CREATE INDEX draft_row_supplier_serial ON draft_row (order_id, ((data ->> 'supplierSerial'))) WHERE data ? 'supplierSerial';
CREATE INDEX draft_row_unit ON draft_row (order_id, ((data ->> 'unit'))) WHERE data ? 'unit';

-- Every scan on a document: what it said, what it did, and what the row held before.
CREATE TABLE scan (
	id uuid PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	text text NOT NULL,
	taken boolean NOT NULL,
	said text NOT NULL,
	row_id uuid,
	before jsonb,
	after jsonb,
	scanned_by text NOT NULL,
	scanned_at timestamptz NOT NULL DEFAULT clock_timestamp(),
	undone_at timestamptz
);
CREATE INDEX scan_order ON scan (order_id, scanned_at DESC);

-- What stays to be done of a document after its goods have come or gone.
CREATE TABLE todo (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	what text NOT NULL CHECK (length(what) BETWEEN 1 AND 200),
	made_by text NOT NULL,
	done_at timestamptz,
	done_by text,
	said text NOT NULL DEFAULT '' CHECK (length(said) <= 200),
	CONSTRAINT todo_check CHECK ((done_at IS NULL) = (done_by IS NULL))
);
CREATE INDEX todo_open ON todo (order_id) WHERE done_at IS NULL;
CREATE INDEX todo_order ON todo (order_id);

-- What a supplier announced: the newest notice of an order counts, earlier ones stay readable.
CREATE TABLE notice (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	name text NOT NULL,
	taken_by text NOT NULL,
	taken_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX notice_order ON notice (order_id, id DESC);

CREATE TABLE notice_row (
	notice_id bigint NOT NULL REFERENCES notice ON DELETE CASCADE,
	no integer NOT NULL,
	line_id bigint NOT NULL REFERENCES order_line ON DELETE CASCADE,
	pallet text CHECK (pallet ~ '^\d{18}$'),
	lot text,
	serial text,
	count integer NOT NULL DEFAULT 1,
	qty numeric NOT NULL CHECK (qty > 0::numeric),
	expires_on date,
	made_on date,
	PRIMARY KEY (notice_id, no)
);
CREATE INDEX notice_row_pallet ON notice_row (pallet) WHERE pallet IS NOT NULL;

-- What programs of others did of an order: an invoice of so much of its lines, or a payment. What was noted wrongly is withdrawn.
CREATE TABLE noted (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	key text NOT NULL UNIQUE CHECK (length(key) BETWEEN 1 AND 200),
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	what text NOT NULL CHECK (what IN ('payment', 'invoice')),
	number text NOT NULL CHECK (length(number) BETWEEN 1 AND 60),
	dated date NOT NULL,
	noted_by text NOT NULL,
	noted_at timestamptz NOT NULL DEFAULT now(),
	withdrawn_by text,
	withdrawn_at timestamptz,
	CONSTRAINT noted_check CHECK ((withdrawn_by IS NULL) = (withdrawn_at IS NULL))
);
CREATE INDEX noted_order ON noted (order_id);

CREATE TABLE noted_line (
	noted_id bigint NOT NULL REFERENCES noted ON DELETE CASCADE,
	order_line_id bigint NOT NULL REFERENCES order_line,
	qty numeric NOT NULL CHECK (qty > 0::numeric),
	PRIMARY KEY (noted_id, order_line_id)
);
CREATE INDEX noted_line_line ON noted_line (order_line_id);
