-- Goods are sold over the counter too. What is agreed, paid and invoiced of an order stands beside it, with who signed for what.
ALTER TABLE orders DROP CONSTRAINT orders_kind_check,
	ADD CONSTRAINT orders_kind_check CHECK (kind IN ('purchase', 'production', 'sale', 'counter', 'issue', 'repack', 'transfer', 'return', 'supplier-return', 'adjust-in', 'adjust-out', 'count', 'numbering'));
-- What is agreed of a line: a warranty other than the item's, and its price as it is written.
ALTER TABLE order_line ADD warranty text CHECK (warranty ~ '^P(?=\d)(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$'),
	ADD price text NOT NULL DEFAULT '' CHECK (length(price) <= 40);
GRANT UPDATE (warranty, price) ON order_line TO earmark_app;
-- What customers agree to.
ALTER TABLE firm ADD terms text NOT NULL DEFAULT '' CHECK (length(terms) <= 20000);
GRANT UPDATE (terms) ON firm TO earmark_app;

-- Who signed: to the terms, before anything goes, or for what was handed over by an event.
ALTER TABLE stored_file DROP CONSTRAINT stored_file_type_check,
	ADD CONSTRAINT stored_file_type_check CHECK (type IN ('application/pdf', 'image/png', 'image/jpeg', 'image/svg+xml'));
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
	CHECK ((meaning = 'receipt') = (event_id IS NOT NULL)),
	CHECK ((meaning = 'terms') = (terms IS NOT NULL))
);
CREATE UNIQUE INDEX signature_terms ON signature (order_id) WHERE meaning = 'terms';
CREATE INDEX signature_order ON signature (order_id);

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
	CHECK ((withdrawn_by IS NULL) = (withdrawn_at IS NULL))
);
CREATE INDEX noted_order ON noted (order_id);
CREATE TABLE noted_line (
	noted_id bigint NOT NULL REFERENCES noted ON DELETE CASCADE,
	order_line_id bigint NOT NULL REFERENCES order_line,
	qty numeric NOT NULL CHECK (qty > 0),
	PRIMARY KEY (noted_id, order_line_id)
);
CREATE INDEX noted_line_line ON noted_line (order_line_id);

-- A paper may be of an order before anything has gone: what was agreed.
ALTER TABLE paper DROP CONSTRAINT paper_kind_check,
	ADD CONSTRAINT paper_kind_check CHECK (kind IN ('packing list', 'delivery note', 'terms')),
	ALTER event_id DROP NOT NULL, ADD CHECK ((kind = 'terms') = (event_id IS NULL));
CREATE UNIQUE INDEX paper_order ON paper (order_id, kind, content) WHERE event_id IS NULL;

-- An event may be of several orders: beside its own those whose lines its movements fulfil too.
CREATE TABLE order_event (
	order_id bigint NOT NULL REFERENCES orders,
	event_id bigint NOT NULL REFERENCES event,
	PRIMARY KEY (order_id, event_id)
);
CREATE INDEX order_event_event ON order_event (event_id);
CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON order_event FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON order_event FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
GRANT SELECT, INSERT ON order_event TO earmark_app;

DO $$ DECLARE is_now text := pg_get_functiondef('covered()'::regprocedure);
BEGIN
	IF position('(''reason'', ARRAY[''id'']' IN is_now) = 0 THEN RAISE EXCEPTION 'covered() is another one'; END IF;
	EXECUTE replace(is_now, '(''reason'', ARRAY[''id'']', '(''signature'', ARRAY[''id''], ''{}'', ''{}''), (''noted'', ARRAY[''id''], ''{}'', ''{}''), (''noted_line'', ARRAY[''noted_id'', ''order_line_id''], ''{}'', ''{}''), (''reason'', ARRAY[''id'']');
END $$;
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['signature', 'noted', 'noted_line'] LOOP
		EXECUTE format('CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON %I FOR EACH ROW EXECUTE FUNCTION keep_record()', t);
	END LOOP;
END $$;
CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON signature FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON signature FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
SELECT record_again(t) FROM unnest(ARRAY['firm', 'orders', 'order_line']) t;
GRANT SELECT, INSERT ON signature, noted, noted_line TO earmark_app;
GRANT UPDATE (withdrawn_by, withdrawn_at) ON noted TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;

-- What comes back on a line that sells is another number's turn: it counts against what went.
CREATE OR REPLACE VIEW line_done AS
	SELECT m.order_line_id, m.mark_id, m.event_id, CASE
		WHEN m.role = 'detach' THEN -m.qty
		WHEN f.code = '@customer' THEN (SELECT CASE WHEN o.kind IN ('sale', 'counter') THEN -m.qty ELSE m.qty END FROM order_line l JOIN orders o ON o.id = l.order_id WHERE l.id = m.order_line_id)
		WHEN f.virtual OR t.virtual AND NOT f.transit THEN m.qty
		WHEN t.virtual THEN 0
		ELSE (SELECT CASE WHEN d.id IS NULL THEN 0 WHEN NOT f.transit THEN m.qty WHEN coalesce(t.site_id, t.id) = coalesce(d.site_id, d.id) THEN 0 ELSE -m.qty END
			FROM order_line l JOIN orders o ON o.id = l.order_id LEFT JOIN place d ON d.id = o.to_place_id WHERE l.id = m.order_line_id) END AS qty
	FROM effective_movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place WHERE m.order_line_id IS NOT NULL;
