-- What an event of two movements costs besides its rows: each look at them, and each function that is entered, is most of it.

-- One look at what movements name tells whether anything has to be looked up: most move between places and name no more.
DROP TRIGGER movement_names ON movement;
DROP TRIGGER refuse_late ON movement;
DROP FUNCTION movement_names();
CREATE FUNCTION movements_came() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE events bigint[]; of_run boolean; of_line boolean; mirror boolean; hit bigint;
BEGIN
	SELECT array_agg(DISTINCT event_id), bool_or(run_id IS NOT NULL), bool_or(order_line_id IS NOT NULL), bool_or(mirrors IS NOT NULL)
		INTO events, of_run, of_line, mirror FROM inserted;
	-- An event that is there is whole. What is written before it begins it.
	SELECT e.id INTO hit FROM event e WHERE e.id = ANY (events) LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('event %s is whole: nothing is added to it', hit);
	END IF;
	INSERT INTO event_begun SELECT unnest(events) ON CONFLICT DO NOTHING;
	IF of_run AND EXISTS (SELECT 1 FROM (SELECT DISTINCT run_id FROM inserted WHERE run_id IS NOT NULL) n LEFT JOIN run r ON r.id = n.run_id WHERE r.id IS NULL)
		OR of_line AND EXISTS (SELECT 1 FROM (SELECT DISTINCT order_line_id FROM inserted WHERE order_line_id IS NOT NULL) n WHERE NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = n.order_line_id)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement names a run or a line that is none';
	END IF;
	IF mirror AND EXISTS (SELECT 1 FROM inserted n WHERE n.mirrors IS NOT NULL AND NOT EXISTS (SELECT 1 FROM movement m WHERE m.id = n.mirrors)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement mirrors one that is none';
	END IF;
	RETURN NULL;
END $$;
CREATE TRIGGER movements_came AFTER INSERT ON movement REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION movements_came();

-- What comes with an event is one function: it is begun no more, and waits for the seal.
DROP TRIGGER wait_for_seal ON event;
CREATE OR REPLACE FUNCTION wait_for_seal() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
	INSERT INTO unsealed (record_id, weight) VALUES (NEW.id, 1);
	RETURN NULL;
END $$;
CREATE OR REPLACE FUNCTION event_came() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
	DELETE FROM event_begun WHERE event_id = NEW.id;
	INSERT INTO unsealed (event_id, weight) SELECT NEW.id, 1 + count(*) FROM movement m WHERE m.event_id = NEW.id;
	RETURN NULL;
END $$;

-- Balances are held as they are; only where one is not there yet it is made, and all are held again. Those that are made are
-- held by being made, in the same order for everybody.
CREATE OR REPLACE FUNCTION hold_balances(marks bigint[], places bigint[]) RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE held integer;
BEGIN
	PERFORM FROM balance b WHERE (b.mark_id, b.place_id) IN (SELECT * FROM unnest(marks, places)) ORDER BY b.mark_id, b.place_id FOR UPDATE;
	GET DIAGNOSTICS held = ROW_COUNT;
	-- The same one may be named twice: then it is looked for once in vain.
	IF held = cardinality(marks) THEN RETURN; END IF;
	INSERT INTO balance SELECT DISTINCT w.mark_id, w.place_id, 0, false, p.virtual
		FROM unnest(marks, places) w(mark_id, place_id) JOIN mark k ON k.id = w.mark_id AND k.kind <> 'serial' JOIN place p ON p.id = w.place_id
		WHERE NOT EXISTS (SELECT 1 FROM balance b WHERE b.mark_id = w.mark_id AND b.place_id = w.place_id)
		ORDER BY 1, 2 ON CONFLICT DO NOTHING;
	PERFORM FROM balance b WHERE (b.mark_id, b.place_id) IN (SELECT * FROM unnest(marks, places)) ORDER BY b.mark_id, b.place_id FOR UPDATE;
END $$;
