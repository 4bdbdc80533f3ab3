-- Tags of units on the floor, and what their readers did. A tag is a thing: this is its memory, as a reader finds it. It is no
-- part of the ledger; what a unit did is its steps.

-- Digits of the firm's GS1 company prefix: a GTIN does not say where it ends, and a tag does.
ALTER TABLE firm ADD prefix_digits smallint NOT NULL DEFAULT 7 CHECK (prefix_digits BETWEEN 6 AND 12);
SELECT record_again('firm');

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
GRANT UPDATE (prefix_digits) ON firm TO earmark_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON tag TO earmark_app;
GRANT SELECT, INSERT ON tag_use TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;
