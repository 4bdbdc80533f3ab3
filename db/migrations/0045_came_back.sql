-- Whether a serial came back is asked of every piece that lies there: first its few movements from a customer, and only where
-- there is one the number itself. One that came back twice stands here twice.
DO $$ DECLARE customer bigint; BEGIN
	SELECT id INTO STRICT customer FROM place WHERE code = '@customer';
	EXECUTE format('CREATE OR REPLACE VIEW came_back AS SELECT m.mark_id FROM movement m WHERE m.from_place = %s AND m.mirrors IS NULL
		AND NOT EXISTS (SELECT 1 FROM movement x WHERE x.mirrors = m.id)
		AND EXISTS (SELECT 1 FROM mark k WHERE k.id = m.mark_id AND k.kind = ''serial'')
		AND NOT EXISTS (SELECT 1 FROM effective_movement n JOIN place f ON f.id = n.from_place
			WHERE n.mark_id = m.mark_id AND (f.code = ''@supplier'' OR n.role = ''make'') AND (n.at > m.at OR n.at = m.at AND n.id > m.id))', customer);
END $$;
