-- What things weigh, how large they are, what they look like, and how they are sent.

-- Of one base unit: kilograms and centimetres. The volumetric weight as given, where it is not worked out.
ALTER TABLE item
	ADD net_weight numeric CHECK (net_weight >= 0),
	ADD gross_weight numeric CHECK (gross_weight >= 0),
	ADD length_cm numeric CHECK (length_cm > 0),
	ADD width_cm numeric CHECK (width_cm > 0),
	ADD height_cm numeric CHECK (height_cm > 0),
	ADD volumetric_weight numeric CHECK (volumetric_weight >= 0),
	ADD picture text REFERENCES stored_file (sha256),
	ADD CHECK (gross_weight >= net_weight);

-- Cubic centimetres that count as a kilogram, where the way of delivery says nothing else.
ALTER TABLE firm ADD weight_divisor integer NOT NULL DEFAULT 5000 CHECK (weight_divisor BETWEEN 3000 AND 6000);

-- A way of delivery: what it counts as a kilogram, and what it asks for one.
CREATE TABLE delivery_way (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^[^[:space:]/?#%]{1,20}$'),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 100),
	divisor integer CHECK (divisor BETWEEN 3000 AND 6000),
	rate numeric CHECK (rate >= 0),
	minimum numeric CHECK (minimum >= 0),
	currency text NOT NULL DEFAULT 'EUR' CHECK (currency ~ '^[A-Z]{3}$'),
	closed_on date
);
ALTER TABLE orders ADD way_id bigint REFERENCES delivery_way;
CREATE INDEX orders_way ON orders (way_id) WHERE way_id IS NOT NULL;
SELECT record_again('item'), record_again('firm'), record_again('orders');

ALTER TABLE setup_change DROP CONSTRAINT setup_change_subject_check,
	ADD CONSTRAINT setup_change_subject_check CHECK (subject IN ('item', 'kind', 'fact', 'pattern', 'policy', 'partner', 'place', 'job', 'station', 'way', 'person', 'token', 'firm'));
-- A row of it is an entry of the ledger.
DO $$ DECLARE is_now text := pg_get_functiondef('covered()'::regprocedure);
BEGIN
	IF position('(''step'', ARRAY[''id'']' IN is_now) = 0 THEN RAISE EXCEPTION 'covered() is another one'; END IF;
	EXECUTE replace(is_now, '(''step'', ARRAY[''id'']', '(''delivery_way'', ARRAY[''id''], ''{}'', ''{}''), (''step'', ARRAY[''id'']');
END $$;
CREATE TRIGGER keep_record AFTER INSERT OR UPDATE OR DELETE ON delivery_way FOR EACH ROW EXECUTE FUNCTION keep_record();
GRANT UPDATE (weight_divisor) ON firm TO earmark_app;
GRANT SELECT, INSERT, UPDATE ON delivery_way TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;
