-- What ten thousand numbers of one event refer to is looked up once, not once for each: the event, and their item.

-- Events of which marks or movements are written and whose own row is not there yet. A row here that stays until the end
-- of its transaction refers to an event that never came.
CREATE TABLE event_begun (
	event_id bigint PRIMARY KEY REFERENCES event DEFERRABLE INITIALLY DEFERRED
);
ALTER TABLE movement DROP CONSTRAINT movement_event_id_fkey;
ALTER TABLE mark DROP CONSTRAINT mark_event_id_fkey, DROP CONSTRAINT mark_item_id_fkey;

-- An event that is there is whole: its row is written last, and nothing is added to it. What is written before it begins it.
CREATE OR REPLACE FUNCTION refuse_late() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE events bigint[]; hit bigint;
BEGIN
	SELECT array_agg(DISTINCT event_id) INTO events FROM inserted WHERE event_id IS NOT NULL;
	SELECT e.id INTO hit FROM event e WHERE e.id = ANY (events) LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('event %s is whole: nothing is added to it', hit);
	END IF;
	IF TG_TABLE_NAME IN ('mark', 'movement') THEN
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

-- A mark is of an item that is there, and an item with marks is not deleted.
CREATE FUNCTION mark_of_item() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF EXISTS (SELECT 1 FROM (SELECT DISTINCT item_id FROM inserted) n WHERE NOT EXISTS (SELECT 1 FROM item i WHERE i.id = n.item_id)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a mark names an item that is none';
	END IF;
	RETURN NULL;
END $$;
CREATE TRIGGER mark_of_item AFTER INSERT ON mark REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION mark_of_item();
CREATE FUNCTION keep_item() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF EXISTS (SELECT 1 FROM mark WHERE item_id = OLD.id) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = format('item %s has lots or serials: it stays', OLD.code);
	END IF;
	RETURN OLD;
END $$;
CREATE TRIGGER keep_item BEFORE DELETE ON item FOR EACH ROW EXECUTE FUNCTION keep_item();
