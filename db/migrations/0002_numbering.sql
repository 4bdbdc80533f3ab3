-- How new numbers are made up, and who drew which; what a scanner said; what was printed.

CREATE TABLE number_pattern (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^[A-Za-z0-9._-]{1,30}$'),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 100),
	blocks jsonb NOT NULL,
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now()
);

-- One counter for each period (and item, site or line, where the number names them).
CREATE TABLE number_counter (
	pattern_id bigint NOT NULL REFERENCES number_pattern,
	scope text NOT NULL,
	last bigint NOT NULL CHECK (last >= 0),
	PRIMARY KEY (pattern_id, scope)
);

-- Every number drawn, whatever became of it.
CREATE TABLE drawn_number (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	pattern_id bigint NOT NULL REFERENCES number_pattern,
	item_id bigint NOT NULL REFERENCES item,
	kind text NOT NULL CHECK (kind IN ('lot', 'serial')),
	number text NOT NULL,
	scope text NOT NULL,
	sequence bigint NOT NULL,
	order_id bigint REFERENCES orders ON DELETE SET NULL,
	drawn_by text NOT NULL,
	drawn_at timestamptz NOT NULL DEFAULT now(),
	UNIQUE (item_id, kind, number),
	UNIQUE (pattern_id, scope, sequence)
);
CREATE INDEX drawn_number_order ON drawn_number (order_id) WHERE order_id IS NOT NULL;
CREATE INDEX drawn_number_recent ON drawn_number (drawn_at DESC, id DESC);

ALTER TABLE item
	ADD lot_pattern_id bigint REFERENCES number_pattern,
	ADD serial_pattern_id bigint REFERENCES number_pattern,
	-- What a number that does not fit its pattern means: it cannot be booked, wants a reason, or is only noted.
	ADD misfit text NOT NULL DEFAULT 'stop' CHECK (misfit IN ('stop', 'reason', 'note')),
	-- How much of its life must be left when it arrives, as an ISO 8601 duration.
	ADD least_left text CHECK (least_left ~ '^P(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$' AND least_left <> 'P'),
	ADD gtin text UNIQUE CHECK (gtin ~ '^\d{14}$');

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

-- Labels: what was sent to the printer, by whom, and the state of the printer that stands in for one.
CREATE TABLE print_job (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	title text NOT NULL,
	symbol text NOT NULL CHECK (symbol IN ('GS1 DataMatrix', 'QR code', 'Code 128')),
	dpi integer NOT NULL CHECK (dpi IN (203, 300, 600)),
	labels jsonb NOT NULL,
	size integer NOT NULL CHECK (size BETWEEN 1 AND 5000),
	printed integer NOT NULL DEFAULT 0,
	cancelled_at timestamptz,
	reprint_of bigint REFERENCES print_job,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	CHECK (printed BETWEEN 0 AND size)
);
CREATE INDEX print_job_waiting ON print_job (id) WHERE printed < size AND cancelled_at IS NULL;
-- How often the label of a lot, serial or place was printed.
CREATE TABLE label_print (
	job_id bigint NOT NULL REFERENCES print_job,
	position integer NOT NULL,
	subject text NOT NULL,
	printed_at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (job_id, position)
);
CREATE INDEX label_print_subject ON label_print (subject);
CREATE TABLE printer (
	one boolean PRIMARY KEY DEFAULT true CHECK (one),
	online boolean NOT NULL DEFAULT true,
	paper integer NOT NULL DEFAULT 500 CHECK (paper >= 0)
);
INSERT INTO printer DEFAULT VALUES;

GRANT SELECT, INSERT ON number_pattern, drawn_number, label_print TO earmark_app;
GRANT UPDATE (code, name, blocks) ON number_pattern TO earmark_app;
GRANT SELECT, INSERT, UPDATE ON number_counter, scan, print_job, printer TO earmark_app;
GRANT UPDATE (order_id) ON drawn_number TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;

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
	qty numeric NOT NULL CHECK (qty > 0),
	expires_on date,
	made_on date,
	PRIMARY KEY (notice_id, no)
);
CREATE INDEX notice_row_pallet ON notice_row (pallet) WHERE pallet IS NOT NULL;
GRANT SELECT, INSERT ON notice, notice_row TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;

-- What people add to a lot or serial later: notes and files, each with who and when; never changed.
CREATE TABLE mark_note (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	mark_id bigint NOT NULL REFERENCES mark,
	text text NOT NULL CHECK (length(text) BETWEEN 1 AND 4000),
	written_by text NOT NULL,
	written_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX mark_note_mark ON mark_note (mark_id);
CREATE TABLE mark_file (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	mark_id bigint NOT NULL REFERENCES mark,
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
	type text NOT NULL CHECK (type IN ('application/pdf', 'image/png', 'image/jpeg')),
	sha256 text NOT NULL,
	content bytea NOT NULL,
	added_by text NOT NULL,
	added_at timestamptz NOT NULL DEFAULT now(),
	UNIQUE (mark_id, sha256)
);
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['mark_note', 'mark_file'] LOOP
		EXECUTE format('CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON %I FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
		EXECUTE format('CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON %I FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
	END LOOP;
END $$;
GRANT SELECT, INSERT ON mark_note, mark_file TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;
