-- What came back from a customer is no new one: it is offered last, and some customers get none of it.
ALTER TABLE partner ADD new_only boolean;
ALTER TABLE firm ADD new_only boolean NOT NULL DEFAULT false;
GRANT UPDATE (new_only) ON firm TO earmark_app;
SELECT record_again(t) FROM unnest(ARRAY['partner', 'firm']) t;

-- Serials that came back from a customer since they were received or made last; few of all that ever moved.
DO $$ DECLARE customer bigint; BEGIN
	SELECT id INTO STRICT customer FROM place WHERE code = '@customer';
	EXECUTE format('CREATE INDEX movement_back ON movement (mark_id, at DESC, id DESC) WHERE from_place = %s', customer);
	EXECUTE format('CREATE VIEW came_back AS SELECT k.id AS mark_id FROM mark k WHERE k.kind = ''serial''
		AND EXISTS (SELECT 1 FROM movement m WHERE m.mark_id = k.id AND m.from_place = %s AND m.mirrors IS NULL AND NOT EXISTS (SELECT 1 FROM movement x WHERE x.mirrors = m.id)
			AND NOT EXISTS (SELECT 1 FROM effective_movement n JOIN place f ON f.id = n.from_place
				WHERE n.mark_id = k.id AND (f.code = ''@supplier'' OR n.role = ''make'') AND (n.at > m.at OR n.at = m.at AND n.id > m.id)))', customer);
END $$;
GRANT SELECT ON came_back TO earmark_app;
