-- What everything rests on: the trigram index, an order of numbers, and the role that the application works as.

CREATE EXTENSION IF NOT EXISTS pg_trgm;
-- "A9" before "A10": how people who number things sort.
CREATE COLLATION natural_order (provider = icu, locale = 'en-u-kn-true');

-- The application may append to the ledger and never change it. Roles belong to the server: another database may have made it.
DO $$ BEGIN
	IF NOT EXISTS (SELECT 1 FROM pg_roles WHERE rolname = 'earmark_app') THEN
		CREATE ROLE earmark_app NOLOGIN;
	END IF;
	EXECUTE format('GRANT earmark_app TO %I', current_user);
EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL; -- two databases of one server made at once
END $$;
