-- Files, papers, labels, mail.

-- A file is kept once, however many lots and serials it belongs to.
CREATE TABLE stored_file (
	sha256 text PRIMARY KEY CHECK (sha256 ~ '^[0-9a-f]{64}$'),
	type text NOT NULL CHECK (type IN ('application/pdf', 'image/png', 'image/jpeg', 'image/svg+xml')),
	content bytea NOT NULL,
	added_by text NOT NULL,
	added_at timestamptz NOT NULL DEFAULT now(),
	CONSTRAINT named_by_its_content CHECK (sha256 = encode(sha256(content), 'hex'))
);

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
	sha256 text NOT NULL,
	added_by text NOT NULL,
	added_at timestamptz NOT NULL DEFAULT now(),
	CONSTRAINT mark_file_mark_id_sha256_key UNIQUE (mark_id, sha256),
	CONSTRAINT mark_file_stored FOREIGN KEY (sha256) REFERENCES stored_file(sha256)
);

-- What was printed stays as it was printed: the file, of which order, which numbers stand on it, under which
-- head of the ledger. The same content is the same paper, however often it is printed.
CREATE TABLE paper (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	kind text NOT NULL CHECK (kind IN ('packing list', 'delivery note', 'terms')),
	order_id bigint NOT NULL REFERENCES orders,
	event_id bigint REFERENCES event,
	-- SHA-256 of what stands on it, without the head and the time
	content text NOT NULL CHECK (content ~ '^[0-9a-f]{64}$'),
	sha256 text NOT NULL REFERENCES stored_file,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	CONSTRAINT paper_event_id_kind_content_key UNIQUE (event_id, kind, content),
	CONSTRAINT paper_check CHECK ((kind = 'terms') = (event_id IS NULL))
);
CREATE UNIQUE INDEX paper_order ON paper (order_id, kind, content) WHERE event_id IS NULL;

CREATE TABLE paper_mark (
	paper_id bigint NOT NULL REFERENCES paper,
	mark_id bigint NOT NULL REFERENCES mark,
	PRIMARY KEY (paper_id, mark_id)
);
CREATE INDEX paper_mark_mark ON paper_mark (mark_id);

CREATE TABLE signature (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders,
	event_id bigint UNIQUE REFERENCES event,
	meaning text NOT NULL CHECK (meaning IN ('terms', 'receipt')),
	signer text NOT NULL CHECK (length(signer) BETWEEN 1 AND 100),
	-- the terms as they stood then
	terms text CHECK (length(terms) BETWEEN 1 AND 20000),
	-- no number was promised to it yet, and that was said
	without_number boolean NOT NULL DEFAULT false,
	sha256 text NOT NULL REFERENCES stored_file,
	taken_by text NOT NULL,
	at timestamptz NOT NULL,
	-- What was signed stays as it was signed: whom and which lines the terms were agreed for. What was signed
	-- before this was kept is read from its order.
	agreed jsonb,
	CONSTRAINT signature_check CHECK ((meaning = 'receipt') = (event_id IS NOT NULL)),
	CONSTRAINT signature_check1 CHECK ((meaning = 'terms') = (terms IS NOT NULL))
);
-- What was signed before this was kept has none.
ALTER TABLE signature ADD CONSTRAINT signature_agreed CHECK ((meaning = 'terms') = (agreed IS NOT NULL)) NOT VALID;
CREATE INDEX signature_order ON signature (order_id);
CREATE UNIQUE INDEX signature_terms ON signature (order_id) WHERE meaning = 'terms';

-- Labels: what was sent to the printer, by whom, and the state of the printer that stands in for one.
CREATE TABLE print_job (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	title text NOT NULL,
	symbol text NOT NULL CHECK (symbol IN ('GS1 DataMatrix', 'QR code', 'Code 128')),
	dpi integer NOT NULL CHECK (dpi = ANY (ARRAY[203, 300, 600])),
	labels jsonb NOT NULL,
	size integer NOT NULL CHECK (size BETWEEN 1 AND 5000),
	printed integer NOT NULL DEFAULT 0,
	cancelled_at timestamptz,
	reprint_of bigint REFERENCES print_job,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	label_size text NOT NULL DEFAULT '70 × 35',
	CONSTRAINT print_job_check CHECK (printed >= 0 AND printed <= size)
);
CREATE INDEX print_job_waiting ON print_job (id) WHERE (printed < size) AND (cancelled_at IS NULL);

-- How often the label of a lot, serial or place was printed.
CREATE TABLE label_print (
	job_id bigint NOT NULL REFERENCES print_job,
	position integer NOT NULL,
	subject text NOT NULL,
	printed_at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (job_id, "position")
);
CREATE INDEX label_print_subject ON label_print (subject);

CREATE TABLE printer (
	one boolean DEFAULT true PRIMARY KEY CHECK (one),
	online boolean NOT NULL DEFAULT true,
	paper integer NOT NULL DEFAULT 500 CHECK (paper >= 0)
);
INSERT INTO printer DEFAULT VALUES;

-- What is to be sent, and what became of it.
CREATE TABLE mail (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	-- what it is about: the same is sent once
	about text NOT NULL UNIQUE,
	recipient text NOT NULL,
	subject text NOT NULL,
	body text NOT NULL,
	attachments jsonb NOT NULL DEFAULT '[]',
	-- of one with a head of the ledger: how many entries that has
	ledger_size bigint,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	tries integer NOT NULL DEFAULT 0,
	next_try timestamptz DEFAULT now(),
	sent_at timestamptz,
	fault text
);
CREATE INDEX mail_waiting ON mail (next_try) WHERE (sent_at IS NULL) AND (next_try IS NOT NULL);

-- The mail server that stands in for one: how it answers, and what it took.
CREATE TABLE mailbox (
	one boolean DEFAULT true PRIMARY KEY CHECK (one),
	answers text NOT NULL DEFAULT 'takes' CHECK (answers IN ('takes', 'slow', 'refuses'))
);
INSERT INTO mailbox DEFAULT VALUES;

CREATE TABLE mailbox_message (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	recipient text NOT NULL,
	subject text NOT NULL,
	content bytea NOT NULL,
	received_at timestamptz NOT NULL DEFAULT now()
);

-- References to what is made later.
ALTER TABLE job ADD FOREIGN KEY (partner_id) REFERENCES partner;
ALTER TABLE item ADD FOREIGN KEY (lot_pattern_id) REFERENCES number_pattern;
ALTER TABLE item ADD FOREIGN KEY (picture) REFERENCES stored_file;
ALTER TABLE item ADD FOREIGN KEY (serial_pattern_id) REFERENCES number_pattern;
