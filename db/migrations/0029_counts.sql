-- Stock is counted by a document: what is to be counted is written down as it is made, who counted what is only added to, and
-- what it came to is kept with it.
ALTER TABLE reason DROP CONSTRAINT reason_act_check,
	ADD CONSTRAINT reason_act_check CHECK (act IN ('put in', 'take out', 'scrap', 'take back', 'send back', 'count'));
INSERT INTO reason (name, act) VALUES ('Moved and not booked', 'count'), ('Booked wrongly before', 'count'), ('Cause not found', 'count') ON CONFLICT DO NOTHING;
ALTER TABLE orders DROP CONSTRAINT orders_kind_check,
	ADD CONSTRAINT orders_kind_check CHECK (kind IN ('purchase', 'production', 'sale', 'issue', 'repack', 'transfer', 'return', 'supplier-return', 'adjust-in', 'adjust-out', 'count'));
-- A difference above so much of what was expected, in per cent, is counted a second time by another person; null: never.
ALTER TABLE firm ADD count_limit numeric DEFAULT 10 CHECK (count_limit >= 0 AND count_limit <= 1000);
GRANT UPDATE (count_limit) ON firm TO earmark_app;

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
	expected numeric NOT NULL CHECK (expected >= 0),
	counted numeric CHECK (counted >= 0),
	evidence text NOT NULL CHECK (evidence IN ('scanned', 'entered')),
	made_by text NOT NULL,
	at timestamptz NOT NULL DEFAULT clock_timestamp(),
	CHECK ((mark_id IS NULL) = (item_id IS NOT NULL AND number IS NOT NULL))
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
CREATE INDEX counted_mark ON counted (mark_id, place_id, at);
CREATE INDEX counted_at ON counted (at);

DO $$ DECLARE is_now text := pg_get_functiondef('covered()'::regprocedure);
BEGIN
	IF position('(''reason'', ARRAY[''id'']' IN is_now) = 0 THEN RAISE EXCEPTION 'covered() is another one'; END IF;
	EXECUTE replace(is_now, '(''reason'', ARRAY[''id'']', '(''count_entry'', ARRAY[''id''], ''{}'', ''{}''), (''counted'', ARRAY[''order_id'', ''place_id'', ''mark_id''], ''{}'', ''{}''), (''reason'', ARRAY[''id'']');
END $$;
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON count_entry FOR EACH ROW EXECUTE FUNCTION keep_record();
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON counted FOR EACH ROW EXECUTE FUNCTION keep_record();
SELECT record_again(t) FROM unnest(ARRAY['reason', 'firm', 'orders']) t;
GRANT SELECT, INSERT ON count_list, count_entry, counted TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;

-- What was counted last of each mark at each place of a count, and who counted it before that.
CREATE FUNCTION count_rows(of bigint) RETURNS TABLE (place_id bigint, mark_id bigint, item_id bigint, number text, listed boolean, entry_id bigint, expected numeric, counted numeric,
		evidence text, made_by text, at timestamptz, before_by text) LANGUAGE sql STABLE AS $$
	SELECT coalesce(l.place_id, e.place_id), coalesce(l.mark_id, e.mark_id), e.item_id, e.number, l.mark_id IS NOT NULL, e.id, e.expected, e.counted, e.evidence, e.made_by, e.at,
		(SELECT b.made_by FROM count_entry b WHERE b.order_id = of AND b.place_id = e.place_id AND b.mark_id IS NOT DISTINCT FROM e.mark_id AND b.item_id IS NOT DISTINCT FROM e.item_id
			AND b.number IS NOT DISTINCT FROM e.number AND b.id < e.id AND b.counted IS NOT NULL AND b.made_by <> e.made_by ORDER BY b.id DESC LIMIT 1)
	FROM (SELECT * FROM count_list WHERE order_id = of) l
	FULL JOIN (SELECT DISTINCT ON (place_id, mark_id, item_id, number) * FROM count_entry WHERE order_id = of ORDER BY place_id, mark_id, item_id, number, id DESC) e
		ON e.place_id = l.place_id AND e.mark_id = l.mark_id
$$;
GRANT EXECUTE ON FUNCTION count_rows(bigint) TO earmark_app;
