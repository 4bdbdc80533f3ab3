-- Numbers that Earmark assigns.

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
	-- Numbers drawn when an order is released wait for its line.
	line_id bigint REFERENCES order_line ON DELETE SET NULL,
	CONSTRAINT drawn_number_item_id_kind_number_key UNIQUE (item_id, kind, number),
	CONSTRAINT drawn_number_pattern_id_scope_sequence_key UNIQUE (pattern_id, scope, sequence)
);
CREATE INDEX drawn_number_line ON drawn_number (line_id) WHERE line_id IS NOT NULL;
CREATE INDEX drawn_number_number ON drawn_number (number);
CREATE INDEX drawn_number_order ON drawn_number (order_id) WHERE order_id IS NOT NULL;
CREATE INDEX drawn_number_recent ON drawn_number (drawn_at DESC, id DESC);
