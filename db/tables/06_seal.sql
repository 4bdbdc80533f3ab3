-- What makes the ledger provable: entries of the tree, and the versions of rows that are covered.

-- What rows were, one after the other; NULL once a row is gone.
CREATE TABLE row_version (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	of text NOT NULL,
	row text NOT NULL,
	state text,
	at timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE INDEX row_version_row ON row_version (of, row, id DESC);

CREATE TABLE sealed_table (
	name text PRIMARY KEY,
	-- The columns that name a row, those that are no part of its entry, and those of which the entry has only a hash.
	keys text[] NOT NULL,
	without text[] NOT NULL,
	hashed text[] NOT NULL
);

-- What waits to be sealed.
CREATE TABLE seal_queue (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	event_id bigint UNIQUE,
	row_version_id bigint UNIQUE,
	weight integer NOT NULL
);

CREATE TABLE ledger_leaf (
	index bigint PRIMARY KEY CHECK (index >= 0),
	event_id bigint UNIQUE REFERENCES event,
	row_version_id bigint UNIQUE REFERENCES row_version,
	-- the exact text that was hashed
	entry text NOT NULL,
	hash bytea NOT NULL,
	sealed_at timestamptz NOT NULL,
	CONSTRAINT ledger_leaf_check CHECK (num_nonnulls(event_id, row_version_id) = 1)
);
CREATE INDEX ledger_leaf_day ON ledger_leaf (sealed_at);

-- The nodes over full subtrees: 2^level leaves each.
CREATE TABLE ledger_node (
	level smallint NOT NULL CHECK (level > 0),
	index bigint NOT NULL,
	hash bytea NOT NULL,
	PRIMARY KEY (level, index)
);

CREATE TABLE former_chain (
	one boolean DEFAULT true PRIMARY KEY CHECK (one),
	last_event bigint NOT NULL,
	hash text NOT NULL
);
INSERT INTO former_chain (last_event, hash) VALUES (0, repeat('0', 64));
