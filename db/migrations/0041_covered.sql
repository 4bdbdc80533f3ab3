-- Papers that are kept, counters, and numbers that were drawn are entries of the ledger too: what was printed and what was given
-- out is looked up when a number comes back.
DO $$ DECLARE is_now text := pg_get_functiondef('covered()'::regprocedure);
BEGIN
	IF position('(''reason'', ARRAY[''id'']' IN is_now) = 0 THEN RAISE EXCEPTION 'covered() is another one'; END IF;
	EXECUTE replace(is_now, '(''reason'', ARRAY[''id'']', '(''paper'', ARRAY[''id''], ''{}'', ''{}''), (''number_counter'', ARRAY[''pattern_id'', ''scope''], ''{}'', ''{}''), (''reason'', ARRAY[''id'']');
END $$;
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON paper FOR EACH ROW EXECUTE FUNCTION keep_record();
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON number_counter FOR EACH ROW EXECUTE FUNCTION keep_record();
SELECT record_again(t) FROM unnest(ARRAY['paper', 'number_counter']) t;

-- Ten thousand numbers are drawn at once: one entry holds all of a draw, by its ids and a hash over what it drew. Which order
-- they wait for is no part of it.
CREATE FUNCTION drawn_text(d drawn_number) RETURNS text LANGUAGE sql IMMUTABLE AS $$
	SELECT concat_ws('|', d.id, d.pattern_id, d.item_id, d.kind, d.number, d.scope, d.sequence, d.drawn_by, entry_time(d.drawn_at))
$$;
CREATE FUNCTION keep_draw() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC' AS $$
BEGIN
	INSERT INTO record (of, row, state)
		SELECT 'draw', min(d.id)::text, canonical(jsonb_build_object('ids', range_agg(int8range(d.id, d.id, '[]'))::text,
			'sha256', encode(sha256(convert_to(string_agg(drawn_text(d.*::drawn_number), chr(10) ORDER BY d.id), 'UTF8')), 'hex')))
		FROM drawn d HAVING count(*) > 0;
	RETURN NULL;
END $$;
CREATE TRIGGER keep_draw AFTER INSERT ON drawn_number REFERENCING NEW TABLE AS drawn FOR EACH STATEMENT EXECUTE FUNCTION keep_draw();
INSERT INTO record (of, row, state)
	SELECT 'draw', min(d.id)::text, canonical(jsonb_build_object('ids', range_agg(int8range(d.id, d.id, '[]'))::text,
		'sha256', encode(sha256(convert_to(string_agg(drawn_text(d), chr(10) ORDER BY d.id), 'UTF8')), 'hex')))
	FROM drawn_number d HAVING count(*) > 0;

-- Which numbers stand on a paper: one entry a paper.
CREATE FUNCTION keep_paper_marks() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp SET timezone = 'UTC' AS $$
BEGIN
	INSERT INTO record (of, row, state)
		SELECT 'paper_marks', p.paper_id::text, canonical(jsonb_build_object('count', count(*), 'sha256', encode(sha256(convert_to(string_agg(p.mark_id::text, ',' ORDER BY p.mark_id), 'UTF8')), 'hex')))
		FROM paper_mark p WHERE p.paper_id IN (SELECT paper_id FROM printed) GROUP BY p.paper_id;
	RETURN NULL;
END $$;
CREATE TRIGGER keep_paper_marks AFTER INSERT ON paper_mark REFERENCING NEW TABLE AS printed FOR EACH STATEMENT EXECUTE FUNCTION keep_paper_marks();
INSERT INTO record (of, row, state)
	SELECT 'paper_marks', p.paper_id::text, canonical(jsonb_build_object('count', count(*), 'sha256', encode(sha256(convert_to(string_agg(p.mark_id::text, ',' ORDER BY p.mark_id), 'UTF8')), 'hex')))
	FROM paper_mark p GROUP BY p.paper_id;

-- A row in the queue that names nothing, or what is sealed already, is passed by; verify names it.
DO $$ DECLARE is_now text := pg_get_functiondef('seal(integer, boolean)'::regprocedure);
	was text := 'FROM (SELECT * FROM unsealed ORDER BY unsealed.id LIMIT 5000) u) w';
BEGIN
	IF position(was IN is_now) = 0 THEN RAISE EXCEPTION 'seal() is another one'; END IF;
	EXECUTE replace(is_now, was, 'FROM (SELECT * FROM unsealed q WHERE CASE WHEN q.event_id IS NOT NULL
				THEN EXISTS (SELECT 1 FROM event e WHERE e.id = q.event_id) AND NOT EXISTS (SELECT 1 FROM ledger_leaf l WHERE l.event_id = q.event_id)
				ELSE EXISTS (SELECT 1 FROM record r WHERE r.id = q.record_id) AND NOT EXISTS (SELECT 1 FROM ledger_leaf l WHERE l.record_id = q.record_id) END
			ORDER BY q.id LIMIT 5000) u) w');
END $$;
