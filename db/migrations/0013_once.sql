-- What ten thousand numbers of one event refer to is looked up once, not once for each: the event, their item, run and order.

-- Events of which marks or movements are written and whose own row is not there yet. A row here that stays until the end
-- of its transaction refers to an event that never came.
CREATE TABLE event_begun (
	event_id bigint PRIMARY KEY REFERENCES event DEFERRABLE INITIALLY DEFERRED
);
ALTER TABLE movement DROP CONSTRAINT movement_event_id_fkey, DROP CONSTRAINT movement_run_id_fkey, DROP CONSTRAINT movement_order_line_id_fkey;
ALTER TABLE mark DROP CONSTRAINT mark_event_id_fkey, DROP CONSTRAINT mark_item_id_fkey, DROP CONSTRAINT mark_parent_id_fkey;
ALTER TABLE run DROP CONSTRAINT run_event_id_fkey, DROP CONSTRAINT run_unit_mark_fkey, DROP CONSTRAINT run_order_id_fkey;

-- An event that is there is whole: its row is written last, and nothing is added to it. What is written before it begins it.
CREATE OR REPLACE FUNCTION refuse_late() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE events bigint[]; hit bigint;
BEGIN
	SELECT array_agg(DISTINCT event_id) INTO events FROM inserted WHERE event_id IS NOT NULL;
	SELECT e.id INTO hit FROM event e WHERE e.id = ANY (events) LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('event %s is whole: nothing is added to it', hit);
	END IF;
	IF TG_TABLE_NAME IN ('mark', 'movement', 'run') THEN
		INSERT INTO event_begun SELECT unnest(events) ON CONFLICT DO NOTHING;
	END IF;
	RETURN NULL;
END $$;
CREATE FUNCTION event_came() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
	DELETE FROM event_begun WHERE event_id = NEW.id;
	RETURN NULL;
END $$;
CREATE TRIGGER event_came AFTER INSERT ON event FOR EACH ROW EXECUTE FUNCTION event_came();

-- What marks, runs and movements name is there.
CREATE FUNCTION mark_names() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF EXISTS (SELECT 1 FROM (SELECT DISTINCT item_id FROM inserted) n WHERE NOT EXISTS (SELECT 1 FROM item i WHERE i.id = n.item_id))
		OR EXISTS (SELECT 1 FROM (SELECT DISTINCT parent_id FROM inserted WHERE parent_id IS NOT NULL) n WHERE NOT EXISTS (SELECT 1 FROM mark k WHERE k.id = n.parent_id)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a mark names an item or a lot that is none';
	END IF;
	RETURN NULL;
END $$;
CREATE TRIGGER mark_names AFTER INSERT ON mark REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION mark_names();
CREATE FUNCTION run_names() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF EXISTS (SELECT 1 FROM (SELECT DISTINCT order_id FROM inserted WHERE order_id IS NOT NULL) n WHERE NOT EXISTS (SELECT 1 FROM orders o WHERE o.id = n.order_id))
		OR EXISTS (SELECT 1 FROM inserted n LEFT JOIN mark k ON k.id = n.unit_mark WHERE n.unit_mark IS NOT NULL AND k.id IS NULL) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a run names an order or a unit that is none';
	END IF;
	RETURN NULL;
END $$;
CREATE TRIGGER run_names AFTER INSERT ON run REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION run_names();
CREATE FUNCTION movement_names() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF EXISTS (SELECT 1 FROM (SELECT DISTINCT run_id FROM inserted WHERE run_id IS NOT NULL) n LEFT JOIN run r ON r.id = n.run_id WHERE r.id IS NULL)
		OR EXISTS (SELECT 1 FROM (SELECT DISTINCT order_line_id FROM inserted WHERE order_line_id IS NOT NULL) n WHERE NOT EXISTS (SELECT 1 FROM order_line l WHERE l.id = n.order_line_id)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement names a run or a line that is none';
	END IF;
	RETURN NULL;
END $$;
CREATE TRIGGER movement_names AFTER INSERT ON movement REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION movement_names();

-- And what they name stays: marks and runs for good, an item, an order, a line as long as anything names it.
CREATE FUNCTION keep_named() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE held boolean;
BEGIN
	CASE TG_TABLE_NAME
		WHEN 'item' THEN SELECT EXISTS (SELECT 1 FROM mark WHERE item_id = OLD.id) INTO held;
		WHEN 'orders' THEN SELECT EXISTS (SELECT 1 FROM run WHERE order_id = OLD.id) INTO held;
		WHEN 'order_line' THEN SELECT EXISTS (SELECT 1 FROM movement WHERE order_line_id = OLD.id) INTO held;
	END CASE;
	IF held THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = format('%s %s is named in the ledger: it stays', TG_TABLE_NAME, OLD.id);
	END IF;
	RETURN OLD;
END $$;
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['item', 'orders', 'order_line'] LOOP
		EXECUTE format('CREATE TRIGGER keep_named BEFORE DELETE ON %I FOR EACH ROW EXECUTE FUNCTION keep_named()', t);
	END LOOP;
END $$;

-- A balance that is not there yet is made first, so that it can be locked like the others; that of a serial need not be:
-- whoever moves it has to hold the one where it stands.
CREATE OR REPLACE FUNCTION hold_balances(marks bigint[], places bigint[]) RETURNS void LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
	INSERT INTO balance SELECT DISTINCT w.mark_id, w.place_id, 0, false, p.virtual
		FROM unnest(marks, places) w(mark_id, place_id) JOIN mark k ON k.id = w.mark_id AND k.kind <> 'serial' JOIN place p ON p.id = w.place_id
		WHERE NOT EXISTS (SELECT 1 FROM balance b WHERE b.mark_id = w.mark_id AND b.place_id = w.place_id)
		ORDER BY 1, 2 ON CONFLICT DO NOTHING;
	PERFORM FROM balance b WHERE (b.mark_id, b.place_id) IN (SELECT * FROM unnest(marks, places)) ORDER BY b.mark_id, b.place_id FOR UPDATE;
END $$;
