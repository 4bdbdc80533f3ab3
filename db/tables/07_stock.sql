-- Promises, counts, returns.

-- What is promised to a line of an order, or to a customer for whom it was bought: so much of a lot, or a
-- serial. Nothing moves by it. It counts until it is released, its day has passed, its order is closed, or
-- all of it has gone out on its line, or to that customer. What somebody took over of it, with a reason,
-- stands beside it.
CREATE TABLE promise (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	-- what asked for it; one act may promise several numbers
	key text NOT NULL CHECK (length(key) BETWEEN 1 AND 200),
	request text NOT NULL CHECK (request ~ '^[0-9a-f]{64}$'),
	order_line_id bigint REFERENCES order_line,
	partner_id bigint REFERENCES partner,
	-- the receipt that brought it, where it was bought for a customer: undone, nothing is promised
	arrived bigint REFERENCES event,
	mark_id bigint NOT NULL REFERENCES mark,
	qty numeric NOT NULL CHECK (qty > 0::numeric),
	-- its last day, at the site of the order
	until date,
	-- why, where it was taken over from another order
	reason text,
	-- the last event that there was: what had gone out by then does not count against it
	since bigint NOT NULL,
	made_by text NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	-- how much of it was taken over, and who did so last, when, for what and why
	taken numeric NOT NULL DEFAULT 0,
	taken_by text,
	taken_at timestamptz,
	taken_for text,
	taken_reason text,
	released_by text,
	released_at timestamptz,
	CONSTRAINT promise_key_mark_id_key UNIQUE (key, mark_id),
	CONSTRAINT promise_check CHECK (num_nonnulls(order_line_id, partner_id) = 1),
	CONSTRAINT promise_check1 CHECK (arrived IS NULL OR partner_id IS NOT NULL),
	CONSTRAINT promise_check2 CHECK (taken >= 0::numeric AND taken <= qty),
	CONSTRAINT promise_check3 CHECK ((taken > 0::numeric) = (taken_by IS NOT NULL) AND (taken > 0::numeric) = (taken_at IS NOT NULL)),
	CONSTRAINT promise_check4 CHECK ((released_by IS NULL) = (released_at IS NULL))
);
CREATE INDEX promise_line ON promise (order_line_id);
CREATE INDEX promise_mark ON promise (mark_id) WHERE (released_at IS NULL) AND (taken < qty);

CREATE TABLE count_list (
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	place_id bigint NOT NULL REFERENCES place,
	mark_id bigint NOT NULL REFERENCES mark,
	PRIMARY KEY (order_id, place_id, mark_id)
);
CREATE INDEX count_list_mark ON count_list (mark_id, place_id);

-- The last of one mark at one place counts; null: it was taken back. A number that nobody knows stands with its item.
CREATE TABLE count_entry (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	key text NOT NULL UNIQUE CHECK (length(key) BETWEEN 1 AND 60),
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	place_id bigint NOT NULL REFERENCES place,
	mark_id bigint REFERENCES mark,
	item_id bigint REFERENCES item,
	number text CHECK (length(number) BETWEEN 1 AND 60),
	expected numeric NOT NULL CHECK (expected >= 0::numeric),
	counted numeric CHECK (counted >= 0::numeric),
	evidence text NOT NULL CHECK (evidence IN ('scanned', 'entered')),
	made_by text NOT NULL,
	at timestamptz NOT NULL DEFAULT clock_timestamp(),
	CONSTRAINT count_entry_check CHECK ((mark_id IS NULL) = (item_id IS NOT NULL AND number IS NOT NULL))
);
CREATE INDEX count_entry_order ON count_entry (order_id, place_id, mark_id, id);

CREATE TABLE counted (
	order_id bigint NOT NULL REFERENCES orders,
	place_id bigint NOT NULL REFERENCES place,
	mark_id bigint NOT NULL REFERENCES mark,
	expected numeric NOT NULL,
	counted numeric NOT NULL,
	counted_by text NOT NULL,
	-- who counted it before, where it was counted a second time
	before_by text,
	at timestamptz NOT NULL,
	reason_id bigint REFERENCES reason,
	PRIMARY KEY (order_id, place_id, mark_id)
);
CREATE INDEX counted_at ON counted (at);
CREATE INDEX counted_mark ON counted (mark_id, place_id, at);

-- What was found when something that came back was looked over, and what became of it.
CREATE TABLE returned (
	event_id bigint NOT NULL REFERENCES event,
	mark_id bigint NOT NULL REFERENCES mark,
	goes text NOT NULL CHECK (goes IN ('stock', 'hold', 'scrap')),
	found text NOT NULL DEFAULT '' CHECK (length(found) <= 200),
	PRIMARY KEY (event_id, mark_id, goes)
);
CREATE INDEX returned_mark ON returned (mark_id);
