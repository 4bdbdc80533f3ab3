-- Why stock is put in or taken out: the firm's own list. Each reason is for one act; what is scrapped goes another way than
-- what is missing.
CREATE TABLE reason (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	name text NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 100),
	act text NOT NULL CHECK (act IN ('put in', 'take out', 'scrap')),
	closed_on date
);
INSERT INTO reason (name, act) VALUES ('Found', 'put in'), ('Was there before Earmark', 'put in'), ('Missing', 'take out'), ('Damaged', 'scrap'), ('Past its life', 'scrap');
-- Adjustments are documents like every other, and each has one.
ALTER TABLE orders ADD reason_id bigint REFERENCES reason,
	DROP CONSTRAINT orders_kind_check,
	ADD CONSTRAINT orders_kind_check CHECK (kind IN ('purchase', 'production', 'sale', 'issue', 'repack', 'transfer', 'return', 'adjust-in', 'adjust-out')),
	ADD CHECK ((kind IN ('adjust-in', 'adjust-out')) = (reason_id IS NOT NULL));

ALTER TABLE setup_change DROP CONSTRAINT setup_change_subject_check,
	ADD CONSTRAINT setup_change_subject_check CHECK (subject IN ('item', 'kind', 'fact', 'pattern', 'policy', 'partner', 'place', 'job', 'station', 'way', 'reason', 'person', 'token', 'firm'));
-- A row of it is an entry of the ledger.
DO $$ DECLARE is_now text := pg_get_functiondef('covered()'::regprocedure);
BEGIN
	IF position('(''step'', ARRAY[''id'']' IN is_now) = 0 THEN RAISE EXCEPTION 'covered() is another one'; END IF;
	EXECUTE replace(is_now, '(''step'', ARRAY[''id'']', '(''reason'', ARRAY[''id''], ''{}'', ''{}''), (''step'', ARRAY[''id'']');
END $$;
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON reason FOR EACH ROW EXECUTE FUNCTION keep_record();
SELECT record_again(t) FROM unnest(ARRAY['reason', 'orders']) t;
GRANT SELECT, INSERT, UPDATE ON reason TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;

-- What changed without coming from anybody or going to anybody, for an auditor: adjustments, counts and corrections, one row for each
-- number and place, or for each field.
CREATE INDEX event_adjusts ON event (at, id) WHERE kind IN ('adjust', 'scrap', 'count', 'correct');
CREATE VIEW adjusted AS
	SELECT e.id AS event_id, m.id AS line, m.mark_id, s.id AS place_id, CASE WHEN f.virtual THEN m.qty ELSE -m.qty END AS change,
		CASE WHEN e.kind = 'correct' THEN 'corrected' WHEN e.kind = 'count' THEN 'counted' WHEN f.virtual THEN 'put in' WHEN t.code = '@scrap' THEN 'scrapped' ELSE 'taken out' END AS act,
		NULL::text AS field, NULL::text AS old, NULL::text AS new
	FROM event e JOIN movement m ON m.event_id = e.id JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place
	JOIN place s ON s.id = CASE WHEN f.virtual THEN t.id ELSE f.id END
	WHERE e.kind IN ('adjust', 'scrap', 'count', 'correct') AND f.virtual <> t.virtual
	-- What is recorded for the first time beside a number corrects nothing.
	UNION ALL SELECT e.id, hashtext(x.key)::bigint - 4294967296, c.mark_id, NULL, NULL, 'corrected', x.field, x.old, x.new
	FROM event e JOIN mark_change c ON c.event_id = e.id CROSS JOIN LATERAL (
		SELECT c.field AS key, c.field, c.old, c.new WHERE c.field <> 'facts'
		UNION ALL SELECT 'facts ' || o.key, coalesce(d.name, o.key), o.value, n.value FROM jsonb_each_text(CASE WHEN c.field = 'facts' THEN c.old::jsonb END) o
		LEFT JOIN jsonb_each_text(CASE WHEN c.field = 'facts' THEN c.new::jsonb END) n ON n.key = o.key LEFT JOIN fact d ON d.code = o.key WHERE n.value IS DISTINCT FROM o.value) x
	WHERE e.kind = 'correct';
GRANT SELECT ON adjusted TO earmark_app;
