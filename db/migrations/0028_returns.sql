-- Goods that come back from customers, and goods that go back to suppliers, are documents like every other, each with a reason.
ALTER TABLE reason DROP CONSTRAINT reason_act_check,
	ADD CONSTRAINT reason_act_check CHECK (act IN ('put in', 'take out', 'scrap', 'take back', 'send back'));
INSERT INTO reason (name, act) VALUES ('Faulty', 'take back'), ('Damaged on the way', 'take back'), ('Wrong goods sent', 'take back'), ('Not needed', 'take back'),
	('Faulty on arrival', 'send back'), ('Wrong goods received', 'send back'), ('More than was ordered', 'send back')
	ON CONFLICT DO NOTHING;
DO $$ DECLARE c name; BEGIN
	SELECT conname INTO STRICT c FROM pg_constraint WHERE conrelid = 'orders'::regclass AND contype = 'c' AND pg_get_constraintdef(oid) LIKE '%reason_id IS NOT NULL%';
	EXECUTE format('ALTER TABLE orders DROP CONSTRAINT %I', c);
END $$;
ALTER TABLE orders DROP CONSTRAINT orders_kind_check,
	ADD CONSTRAINT orders_kind_check CHECK (kind IN ('purchase', 'production', 'sale', 'issue', 'repack', 'transfer', 'return', 'supplier-return', 'adjust-in', 'adjust-out')),
	ADD CONSTRAINT orders_reason_check CHECK ((kind IN ('return', 'supplier-return', 'adjust-in', 'adjust-out')) = (reason_id IS NOT NULL));
-- A line that a scan added is as long as what was scanned for it.
ALTER TABLE order_line ADD scanned boolean NOT NULL DEFAULT false;

-- What was found when something that came back was looked over, and what became of it.
CREATE TABLE returned (
	event_id bigint NOT NULL REFERENCES event,
	mark_id bigint NOT NULL REFERENCES mark,
	goes text NOT NULL CHECK (goes IN ('stock', 'hold', 'scrap')),
	found text NOT NULL DEFAULT '' CHECK (length(found) <= 200),
	PRIMARY KEY (event_id, mark_id, goes)
);
CREATE INDEX returned_mark ON returned (mark_id);
-- What stays to be done of a document after its goods have come or gone.
CREATE TABLE todo (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	order_id bigint NOT NULL REFERENCES orders ON DELETE CASCADE,
	what text NOT NULL CHECK (length(what) BETWEEN 1 AND 200),
	made_by text NOT NULL,
	done_at timestamptz,
	done_by text,
	said text NOT NULL DEFAULT '' CHECK (length(said) <= 200),
	CHECK ((done_at IS NULL) = (done_by IS NULL))
);
CREATE INDEX todo_order ON todo (order_id);
CREATE INDEX todo_open ON todo (order_id) WHERE done_at IS NULL;

-- A row of either is an entry of the ledger.
DO $$ DECLARE is_now text := pg_get_functiondef('covered()'::regprocedure);
BEGIN
	IF position('(''reason'', ARRAY[''id'']' IN is_now) = 0 THEN RAISE EXCEPTION 'covered() is another one'; END IF;
	EXECUTE replace(is_now, '(''reason'', ARRAY[''id'']', '(''returned'', ARRAY[''event_id'', ''mark_id'', ''goes''], ''{}'', ''{}''), (''todo'', ARRAY[''id''], ''{}'', ''{}''), (''reason'', ARRAY[''id'']');
END $$;
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON returned FOR EACH ROW EXECUTE FUNCTION keep_record();
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON todo FOR EACH ROW EXECUTE FUNCTION keep_record();
SELECT record_again(t) FROM unnest(ARRAY['reason', 'orders', 'order_line']) t;
GRANT SELECT, INSERT ON returned TO earmark_app;
GRANT SELECT, INSERT, UPDATE (done_at, done_by, said) ON todo TO earmark_app;
GRANT UPDATE (qty) ON order_line TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;

-- What each customer has: shipped to it, less what came back from it.
CREATE VIEW customer_has AS
	SELECT e.partner_id, m.mark_id, sum(CASE WHEN t.code = '@customer' THEN m.qty ELSE -m.qty END) AS qty, max(m.at) FILTER (WHERE t.code = '@customer') AS shipped_at
	FROM effective_movement m JOIN event e ON e.id = m.event_id JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place
	WHERE (t.code = '@customer') <> (f.code = '@customer') GROUP BY 1, 2;
GRANT SELECT ON customer_has TO earmark_app;
-- What went to one customer is found without reading everybody's.
CREATE INDEX event_partner ON event (partner_id, at) WHERE partner_id IS NOT NULL;
