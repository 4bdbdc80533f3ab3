-- Rules for kinds of items, facts that the firm defines, and where numbers and dates come from.

-- Items of one kind share its marking rule, unless they have one of their own.
CREATE TABLE item_kind (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^[A-Za-z0-9._-]{1,30}$'),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 100),
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now()
);

ALTER TABLE item
	ADD kind_id bigint REFERENCES item_kind,
	ADD own_rule boolean NOT NULL DEFAULT true,
	-- Since when the rule that counts is that of its kind, or its own.
	ADD rule_since timestamptz NOT NULL DEFAULT now(),
	-- A date worked out from the shelf life is put off to the last day of its month.
	ADD end_of_month boolean NOT NULL DEFAULT false,
	-- From shipment on, as an ISO 8601 duration.
	ADD warranty text CHECK (warranty ~ '^P(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$' AND warranty <> 'P'),
	ADD drawn_at text NOT NULL DEFAULT 'sheet' CHECK (drawn_at IN ('sheet', 'release')),
	ADD supplier_number text NOT NULL DEFAULT 'beside' CHECK (supplier_number IN ('beside', 'printed', 'ours')),
	ADD CONSTRAINT rule_of_its_kind CHECK (own_rule OR kind_id IS NOT NULL);
UPDATE item SET rule_since = created_at;
CREATE INDEX item_of_kind ON item (kind_id) WHERE kind_id IS NOT NULL;

ALTER TABLE marking_rule DROP CONSTRAINT marking_rule_pkey;
ALTER TABLE marking_rule
	ALTER item_id DROP NOT NULL,
	ADD kind_id bigint REFERENCES item_kind,
	ADD expiry text NOT NULL DEFAULT 'not asked' CHECK (expiry IN ('not asked', 'asked', 'required')),
	ADD CONSTRAINT of_an_item_or_a_kind CHECK (num_nonnulls(item_id, kind_id) = 1);
CREATE UNIQUE INDEX marking_rule_item ON marking_rule (item_id, step) WHERE item_id IS NOT NULL;
CREATE UNIQUE INDEX marking_rule_kind ON marking_rule (kind_id, step) WHERE kind_id IS NOT NULL;
UPDATE marking_rule r SET expiry = CASE r.step WHEN 'receipt' THEN i.expiry ELSE 'asked' END FROM item i
	WHERE i.id = r.item_id AND i.expiry <> 'not asked' AND (r.step = 'receipt' OR (r.step = 'production output' AND i.shelf_life IS NOT NULL));
ALTER TABLE item DROP COLUMN expiry;

-- What the firm wants to know of a lot or serial besides its numbers and dates.
CREATE TABLE fact (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^[A-Za-z0-9._-]{1,30}$'),
	name text NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 60),
	kind text NOT NULL CHECK (kind IN ('text', 'number', 'date', 'choice', 'file')),
	unit text CHECK (length(unit) BETWEEN 1 AND 20),
	decimals smallint NOT NULL DEFAULT 0 CHECK (decimals BETWEEN 0 AND 6),
	low numeric,
	high numeric,
	choices text[] NOT NULL DEFAULT '{}',
	-- What a value outside its limits means.
	outside text NOT NULL DEFAULT 'reason' CHECK (outside IN ('stop', 'reason', 'note')),
	-- Kept with the lot, where there is one, or with each piece.
	per text NOT NULL DEFAULT 'lot' CHECK (per IN ('lot', 'piece')),
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now(),
	CHECK (kind = 'number' OR (unit IS NULL AND low IS NULL AND high IS NULL)),
	CHECK (low <= high),
	CHECK ((kind = 'choice') = (cardinality(choices) > 0))
);
CREATE TABLE fact_rule (
	item_id bigint REFERENCES item,
	kind_id bigint REFERENCES item_kind,
	fact_id bigint NOT NULL REFERENCES fact,
	step text NOT NULL CHECK (step IN ('receipt', 'customer return', 'production use', 'production output',
		'move', 'transfer', 'shipment', 'supplier return', 'adjustment', 'count')),
	how text NOT NULL CHECK (how IN ('asked', 'required')),
	CHECK (num_nonnulls(item_id, kind_id) = 1)
);
CREATE UNIQUE INDEX fact_rule_item ON fact_rule (item_id, step, fact_id) WHERE item_id IS NOT NULL;
CREATE UNIQUE INDEX fact_rule_kind ON fact_rule (kind_id, step, fact_id) WHERE kind_id IS NOT NULL;

-- The rule that counts for an item: its own, or its kind's; of the numbers that the item carries.
CREATE VIEW item_rule AS
	SELECT i.id AS item_id, r.step, CASE WHEN i.tracking LIKE '%lot%' THEN r.lot ELSE 'not asked' END AS lot,
		CASE WHEN i.tracking LIKE '%serial%' THEN r.serial ELSE 'not asked' END AS serial,
		CASE WHEN i.tracking = 'none' THEN 'not asked' ELSE r.expiry END AS expiry, greatest(r.since, i.rule_since) AS since
	FROM item i JOIN marking_rule r ON r.item_id = i.id WHERE i.own_rule
	UNION ALL
	SELECT i.id, r.step, CASE WHEN i.tracking LIKE '%lot%' THEN r.lot ELSE 'not asked' END,
		CASE WHEN i.tracking LIKE '%serial%' THEN r.serial ELSE 'not asked' END,
		CASE WHEN i.tracking = 'none' THEN 'not asked' ELSE r.expiry END, greatest(r.since, i.rule_since)
	FROM item i JOIN marking_rule r ON r.kind_id = i.kind_id WHERE NOT i.own_rule;
CREATE VIEW item_fact AS
	SELECT i.id AS item_id, f.step, f.fact_id, f.how FROM item i JOIN fact_rule f ON f.item_id = i.id WHERE i.own_rule AND i.tracking <> 'none'
	UNION ALL
	SELECT i.id, f.step, f.fact_id, f.how FROM item i JOIN fact_rule f ON f.kind_id = i.kind_id WHERE NOT i.own_rule AND i.tracking <> 'none';

-- A file is kept once, however many lots and serials it belongs to.
CREATE TABLE stored_file (
	sha256 text PRIMARY KEY CHECK (sha256 ~ '^[0-9a-f]{64}$'),
	type text NOT NULL CHECK (type IN ('application/pdf', 'image/png', 'image/jpeg')),
	content bytea NOT NULL,
	added_by text NOT NULL,
	added_at timestamptz NOT NULL DEFAULT now()
);
INSERT INTO stored_file (sha256, type, content, added_by, added_at)
	SELECT DISTINCT ON (sha256) sha256, type, content, added_by, added_at FROM mark_file ORDER BY sha256, id;
ALTER TABLE mark_file DROP COLUMN content, DROP COLUMN type,
	ADD CONSTRAINT mark_file_stored FOREIGN KEY (sha256) REFERENCES stored_file;
CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON stored_file FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON stored_file FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();

-- How strongly the firm takes what a check finds, where it is not as delivered.
CREATE TABLE check_policy (
	code text PRIMARY KEY,
	strength text NOT NULL CHECK (strength IN ('stop', 'reason', 'note')),
	changed_by text NOT NULL,
	changed_at timestamptz NOT NULL DEFAULT now()
);

-- Numbers drawn when an order is released wait for its line.
ALTER TABLE drawn_number ADD line_id bigint REFERENCES order_line ON DELETE SET NULL;
CREATE INDEX drawn_number_line ON drawn_number (line_id) WHERE line_id IS NOT NULL;

-- Where goods arrive, to be put away from.
ALTER TABLE place ADD dock boolean NOT NULL DEFAULT false;
UPDATE place SET dock = true WHERE code ~ '/DOCK$';

ALTER TABLE print_job ADD label_size text NOT NULL DEFAULT '70 × 35';

-- Places stay for good, so that a movement's two places are looked up a set at a time, where its balances are kept,
-- and not twice a piece: ten thousand pieces move between two places, not between twenty thousand.
CREATE TRIGGER refuse_change BEFORE DELETE OR UPDATE OF id ON place FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON place FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE OR REPLACE FUNCTION keep_balances() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE marks bigint[]; places bigint[]; qtys numeric[]; serials boolean[]; virtuals boolean[]; there boolean[];
BEGIN
	IF EXISTS (SELECT 1 FROM inserted i WHERE NOT EXISTS (SELECT 1 FROM place p WHERE p.id = i.from_place) OR NOT EXISTS (SELECT 1 FROM place p WHERE p.id = i.to_place)) THEN
		RAISE EXCEPTION USING ERRCODE = '23503', MESSAGE = 'a movement names a place that is none';
	END IF;
	SELECT array_agg(t.mark_id), array_agg(t.place_id), array_agg(t.qty), array_agg(k.kind = 'serial'), array_agg(p.virtual),
			array_agg(b.mark_id IS NOT NULL)
		INTO marks, places, qtys, serials, virtuals, there
		FROM (SELECT d.mark_id, d.place_id, sum(d.qty) AS qty
			FROM (SELECT mark_id, to_place AS place_id, qty FROM inserted UNION ALL SELECT mark_id, from_place, -qty FROM inserted) d
			GROUP BY 1, 2 HAVING sum(d.qty) <> 0) t
		JOIN mark k ON k.id = t.mark_id JOIN place p ON p.id = t.place_id
		LEFT JOIN balance b ON b.mark_id = t.mark_id AND b.place_id = t.place_id;
	IF true = ANY (there) THEN
		-- Out before in: a serial has left one place before it stands in another.
		UPDATE balance b SET qty = b.qty + d.qty FROM unnest(marks, places, qtys) d(mark_id, place_id, qty)
			WHERE b.mark_id = d.mark_id AND b.place_id = d.place_id AND d.qty < 0;
		UPDATE balance b SET qty = b.qty + d.qty FROM unnest(marks, places, qtys) d(mark_id, place_id, qty)
			WHERE b.mark_id = d.mark_id AND b.place_id = d.place_id AND d.qty > 0;
	END IF;
	INSERT INTO balance SELECT d.mark_id, d.place_id, d.qty, d.serial, d.virtual
		FROM unnest(marks, places, qtys, serials, virtuals, there) d(mark_id, place_id, qty, serial, virtual, there) WHERE NOT d.there;
	RETURN NULL;
END $$;
ALTER TABLE movement DROP CONSTRAINT movement_from_place_fkey, DROP CONSTRAINT movement_to_place_fkey;

-- The supplier's serial beside ours.
ALTER TABLE mark ADD supplier_serial text;
CREATE INDEX mark_facts ON mark USING gin (facts) WHERE facts <> '{}';
-- For the hash of an event: those of its marks that have more than numbers and dates.
CREATE INDEX mark_more ON mark (event_id) WHERE facts <> '{}' OR supplier_serial IS NOT NULL;
CREATE INDEX mark_supplier_serial ON mark USING gin (lower(supplier_serial) gin_trgm_ops) WHERE supplier_serial IS NOT NULL;
ALTER TABLE mark_change DROP CONSTRAINT mark_change_field_check,
	ADD CONSTRAINT mark_change_field_check CHECK (field IN
		('lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'supplier_serial', 'made_on', 'expires_on', 'facts', 'status'));

CREATE OR REPLACE FUNCTION guard_mark() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE f text; was jsonb; now_is jsonb;
BEGIN
	IF TG_OP = 'DELETE' OR NEW.id <> OLD.id OR NEW.item_id <> OLD.item_id OR NEW.kind <> OLD.kind OR NEW.event_id IS DISTINCT FROM OLD.event_id THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = 'a mark keeps its identity: it is never deleted or made another';
	END IF;
	was := to_jsonb(OLD); now_is := to_jsonb(NEW);
	FOREACH f IN ARRAY ARRAY['lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'supplier_serial', 'made_on', 'expires_on', 'facts', 'status'] LOOP
		IF was -> f IS DISTINCT FROM now_is -> f AND NOT EXISTS (
			SELECT 1 FROM mark_change c WHERE c.mark_id = NEW.id AND c.field = f
				AND c.old IS NOT DISTINCT FROM was ->> f AND c.new IS NOT DISTINCT FROM now_is ->> f
				AND c.event_id = (SELECT last_event + 1 FROM ledger_head)) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = format('%s of a mark changes only by an event that records it', f);
		END IF;
	END LOOP;
	-- The first value is found by what came after it, so there is always something.
	IF (OLD.facts <> '{}' AND NEW.facts = '{}') OR (OLD.supplier_serial IS NOT NULL AND NEW.supplier_serial IS NULL) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM001', MESSAGE = 'a recorded fact is replaced, not taken away';
	END IF;
	RETURN NEW;
END $$;

-- What an event's hash covers, now with the facts and supplier's serials that its new marks were booked with. Events
-- without them keep the text, and so the hash, that they were sealed with.
ALTER FUNCTION event_text(event) RENAME TO event_text_of_stock;
CREATE FUNCTION event_text(e event) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT event_text_of_stock(e) || coalesce((
		SELECT string_agg(json_build_array(n.id, n.facts, n.supplier_serial)::text, ';' ORDER BY n.id) FROM (
			SELECT k.id, coalesce(f.old, k.facts::text) AS facts, CASE WHEN s.mark_id IS NOT NULL THEN s.old ELSE k.supplier_serial END AS supplier_serial
			FROM mark k
			LEFT JOIN LATERAL (SELECT old FROM mark_change WHERE mark_id = k.id AND field = 'facts' ORDER BY event_id LIMIT 1) f ON true
			LEFT JOIN LATERAL (SELECT mark_id, old FROM mark_change WHERE mark_id = k.id AND field = 'supplier_serial' ORDER BY event_id LIMIT 1) s ON true
			WHERE k.event_id = e.id AND (k.facts <> '{}' OR k.supplier_serial IS NOT NULL)) n
		WHERE n.facts <> '{}' OR n.supplier_serial IS NOT NULL), '')
$$;

GRANT SELECT ON item_kind, fact, fact_rule, item_rule, item_fact, stored_file, check_policy TO earmark_app;
GRANT INSERT, UPDATE ON item_kind, fact, fact_rule, check_policy TO earmark_app;
GRANT DELETE ON fact_rule, check_policy TO earmark_app;
GRANT INSERT ON stored_file TO earmark_app;
GRANT UPDATE (supplier_serial) ON mark TO earmark_app;
GRANT UPDATE (line_id) ON drawn_number TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;
