-- Whose a lot or serial is: ours where nobody is named, else a partner's (a customer's unit on our bench, goods on
-- consignment). A serial is its lot's owner's where it names none itself. It lies at a real place, is traced and counted,
-- and is never offered. It changes like everything that is recorded of a mark: by an event that says what it was.
ALTER TABLE mark ADD owner text REFERENCES partner (code);
CREATE INDEX mark_owner ON mark (owner) WHERE owner IS NOT NULL;
GRANT UPDATE (owner) ON mark TO earmark_app;
ALTER TABLE mark_change DROP CONSTRAINT mark_change_field_check,
	ADD CONSTRAINT mark_change_field_check CHECK (field IN
		('lot_no', 'serial_no', 'parent_id', 'supplier_lot', 'supplier_serial', 'supplier_warranty_until', 'made_on', 'expires_on', 'facts', 'status', 'owner'));

CREATE OR REPLACE VIEW mark_now AS
	SELECT k.id, k.item_id, k.kind, k.lot_no, k.serial_no, k.number, k.parent_id, k.supplier_lot, k.supplier_serial, k.made_on, k.event_id, k.facts, l.facts AS lot_facts,
		coalesce(l.facts, '{}') || k.facts AS facts_in_force, l.lot_no AS of_lot, k.status AS own_status, worse_status(k.status, l.status) AS status,
		k.expires_on AS own_expires_on, coalesce(k.expires_on, l.expires_on) AS expires_on, k.owner AS own_owner, coalesce(k.owner, l.owner) AS owner
	FROM mark k LEFT JOIN mark l ON l.id = k.parent_id;
CREATE OR REPLACE VIEW mark_standing AS
	SELECT m.id, m.item_id, m.kind, m.lot_no, m.serial_no, m.parent_id, m.supplier_lot, m.supplier_serial, m.supplier_warranty_until, m.facts, m.made_on, m.expires_on, m.status, m.version,
		(SELECT string_agg(b.place_id || ' ' || trim_scale(b.qty) || ' ' || p.code, ',' ORDER BY p.code)
			FROM balance b CROSS JOIN LATERAL (SELECT code FROM place p WHERE p.id = b.place_id OFFSET 0) p WHERE b.mark_id = m.id AND b.qty > 0 AND NOT b.virtual) AS standing,
		m.owner
	FROM mark m;

-- What writes, guards and seals a mark takes its owner with it. Entries of numbers that came as somebody's are of format 3.
DO $$
DECLARE patch record; is_now text;
BEGIN
	FOR patch IN SELECT * FROM (VALUES
		('guard_mark()', '''facts'', ''status''] LOOP', '''facts'', ''status'', ''owner''] LOOP'),
		('change_marks(bigint, jsonb)', 'status = CASE WHEN', 'owner = CASE WHEN n.f ? ''owner'' THEN n.f ->> ''owner'' ELSE k.owner END,' || chr(10) || chr(9) || chr(9) || 'status = CASE WHEN'),
		('book_event(jsonb)', 'made_on, expires_on, event_id, twin)', 'made_on, expires_on, owner, event_id, twin)'),
		('book_event(jsonb)', 'm."madeOn", m."expiresOn", number,', 'm."madeOn", m."expiresOn", m.owner, number,'),
		('book_event(jsonb)', '"madeOn" date, "expiresOn" date, twins integer))', '"madeOn" date, "expiresOn" date, owner text, twins integer))'),
		('book_event(jsonb)', '"madeOn", "expiresOn", twins, i)', '"madeOn", "expiresOn", owner, twins, i)'),
		('event_entries(bigint[])', 'k.facts END AS facts) v', 'k.facts END AS facts,' || chr(10) || chr(9) || chr(9) || chr(9) || 'CASE WHEN c.was ? ''owner'' THEN c.was ->> ''owner'' ELSE k.owner END AS owner) v'),
		('event_entries(bigint[])', 'bool_or(v.supplier_warranty_until IS NOT NULL) AS later,', 'bool_or(v.supplier_warranty_until IS NOT NULL) AS later, bool_or(v.owner IS NOT NULL) AS owned,'),
		('event_entries(bigint[])', 'member(''parent'', v.parent_id)', 'member(''owner'', v.owner), member(''parent'', v.parent_id)'),
		('event_entries(bigint[])', 'CASE WHEN moved.later', 'CASE WHEN made.owned THEN 3 WHEN moved.later')
	) p(of, was, is_to_be) LOOP
		is_now := pg_get_functiondef(patch.of::regprocedure);
		IF position(patch.was IN is_now) = 0 THEN RAISE EXCEPTION '% is another one: %', patch.of, patch.was; END IF;
		EXECUTE replace(is_now, patch.was, patch.is_to_be);
	END LOOP;
END $$;

-- What is delivered may stay the property of the partner that brings it.
ALTER TABLE orders ADD theirs boolean NOT NULL DEFAULT false CHECK (kind = 'purchase' AND partner_id IS NOT NULL OR NOT theirs);
SELECT record_again('orders');

-- What one of something cost, where it was noted as it came in: the last of an item is proposed for what is put in.
CREATE INDEX movement_cost ON movement (id) WHERE unit_cost IS NOT NULL;
