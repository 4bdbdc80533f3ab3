-- What comes out of a batch beside what it is made for: off-cuts, by-products; so much of each for one of the item.
CREATE TABLE byproduct (
	item_id bigint NOT NULL REFERENCES item,
	out_item_id bigint NOT NULL REFERENCES item,
	qty numeric NOT NULL CHECK (qty > 0),
	PRIMARY KEY (item_id, out_item_id),
	CHECK (item_id <> out_item_id)
);
ALTER TABLE order_line DROP CONSTRAINT order_line_role_check,
	ADD CONSTRAINT order_line_role_check CHECK (role IN ('goods', 'output', 'byproduct', 'component'));

-- A row of it is an entry of the ledger.
DO $$ DECLARE is_now text := pg_get_functiondef('covered()'::regprocedure);
BEGIN
	IF position('(''route'', ARRAY[' IN is_now) = 0 THEN RAISE EXCEPTION 'covered() is another one'; END IF;
	EXECUTE replace(is_now, '(''route'', ARRAY[', '(''byproduct'', ARRAY[''item_id'', ''out_item_id''], ''{}'', ''{}''), (''route'', ARRAY[');
END $$;
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON byproduct FOR EACH ROW EXECUTE FUNCTION keep_record();

GRANT SELECT, INSERT, DELETE ON byproduct TO earmark_app;

-- What a batch gave back was not used of it: the last that went in comes out first. A use that was given back whole stands as
-- one that was.
CREATE OR REPLACE VIEW pairing AS
	SELECT u.id, u.at, u.event_id, u.run_id, u.mark_id AS part_id, coalesce(r.unit_mark, o.mark_id) AS made_id,
		CASE WHEN b.back < u.qty THEN u.qty - b.back ELSE u.qty END AS qty, u.evidence,
		b.back >= u.qty OR (SELECT sum(CASE x.role WHEN 'use' THEN x.qty ELSE -x.qty END) <= 0 FROM effective_movement x
			WHERE x.run_id = u.run_id AND x.mark_id = u.mark_id AND x.role IN ('use', 'detach')) AS formerly
	FROM effective_movement u JOIN run r ON r.id = u.run_id
	LEFT JOIN LATERAL (SELECT DISTINCT k.mark_id FROM effective_movement k WHERE k.run_id = r.id AND k.role = 'make' AND r.unit_mark IS NULL) o ON true
	CROSS JOIN LATERAL (SELECT CASE WHEN r.unit_mark IS NULL AND EXISTS (SELECT 1 FROM movement d WHERE d.run_id = u.run_id AND d.role = 'detach' AND d.mark_id = u.mark_id)
		THEN (SELECT greatest(sum(CASE WHEN x.role = 'detach' THEN x.qty WHEN (x.at, x.id) > (u.at, u.id) THEN -x.qty ELSE 0 END), 0) FROM effective_movement x
			WHERE x.run_id = u.run_id AND x.mark_id = u.mark_id AND x.role IN ('use', 'detach')) ELSE 0 END AS back) b
	WHERE u.role = 'use';
