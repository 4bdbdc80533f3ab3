-- Brings a database from the last of the former migrations (0047) to the baseline. Functions, views, triggers and rights are
-- made anew afterwards, by the same files as in a new database; rows and what they prove stay as they are.

-- Triggers and rights go: db/guards.sql makes them.
DO $$ DECLARE o record; BEGIN
	FOR o IN SELECT t.tgname, c.relname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid
		WHERE NOT t.tgisinternal AND c.relnamespace = 'public'::regnamespace LOOP
		EXECUTE format('DROP TRIGGER %I ON %I', o.tgname, o.relname);
	END LOOP;
	REVOKE ALL ON ALL TABLES IN SCHEMA public FROM earmark_app;
	FOR o IN SELECT a.attname, c.relname FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid
		WHERE a.attacl IS NOT NULL AND c.relnamespace = 'public'::regnamespace LOOP
		EXECUTE format('REVOKE ALL (%I) ON %I FROM earmark_app', o.attname, o.relname);
	END LOOP;
	FOR o IN SELECT relname FROM pg_class WHERE relkind = 'v' AND relnamespace = 'public'::regnamespace
		AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = pg_class.oid AND d.deptype = 'e') LOOP
		EXECUTE format('DROP VIEW IF EXISTS %I CASCADE', o.relname);
	END LOOP;
END $$;

-- Names that a newcomer would look for.
ALTER TABLE record RENAME TO row_version;
ALTER TABLE unsealed RENAME TO seal_queue;
ALTER TABLE event_begun RENAME TO unfinished_event;
ALTER TABLE ledger_leaf RENAME record_id TO row_version_id;
ALTER TABLE seal_queue RENAME record_id TO row_version_id;
ALTER TABLE mark RENAME twin TO lookalike;

CREATE TABLE sealed_table (
	name text PRIMARY KEY,
	keys text[] NOT NULL,
	without text[] NOT NULL,
	hashed text[] NOT NULL
);

-- Indexes, constraints and sequences by the names of their tables.
DO $$ DECLARE o record; was text; is_now text; BEGIN
	FOR was, is_now IN VALUES ('record', 'row_version'), ('unsealed', 'seal_queue'), ('event_begun', 'unfinished_event') LOOP
		FOR o IN SELECT c.relname, c.relkind FROM pg_class c WHERE c.relnamespace = 'public'::regnamespace
			AND c.relname ~ ('^' || was || '_') AND c.relkind IN ('i', 'S') LOOP
			EXECUTE format('ALTER %s %I RENAME TO %I', CASE o.relkind WHEN 'i' THEN 'INDEX' ELSE 'SEQUENCE' END,
				o.relname, replace(regexp_replace(o.relname, '^' || was, is_now), 'record_id', 'row_version_id'));
		END LOOP;
		FOR o IN SELECT x.conname, x.conrelid::regclass AS of FROM pg_constraint x WHERE x.connamespace = 'public'::regnamespace
			AND x.conname ~ ('^' || was || '_') LOOP
			EXECUTE format('ALTER TABLE %s RENAME CONSTRAINT %I TO %I', o.of,
				o.conname, replace(regexp_replace(o.conname, '^' || was, is_now), 'record_id', 'row_version_id'));
		END LOOP;
	END LOOP;
END $$;
ALTER TABLE ledger_leaf RENAME CONSTRAINT ledger_leaf_record_id_key TO ledger_leaf_row_version_id_key;
ALTER TABLE ledger_leaf RENAME CONSTRAINT ledger_leaf_record_id_fkey TO ledger_leaf_row_version_id_fkey;
ALTER TABLE former_chain RENAME CONSTRAINT ledger_head_pkey TO former_chain_pkey;
ALTER TABLE former_chain RENAME CONSTRAINT ledger_head_one_check TO former_chain_one_check;
