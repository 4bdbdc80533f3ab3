-- Each change of what is set up gets a version of its own, also one that is taken back: whoever has read by a version may
-- keep what was read by it, and never mistakes it for what another change made.
CREATE SEQUENCE catalogue_version;
SELECT setval('catalogue_version', (SELECT version FROM catalogue));
CREATE OR REPLACE FUNCTION change_catalogue() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
	PERFORM pg_advisory_xact_lock(7, 1);
	UPDATE catalogue SET version = nextval('catalogue_version');
	IF TG_TABLE_NAME = 'marking_rule' AND TG_OP <> 'DELETE' THEN
		IF NEW.since >= now() THEN NEW.since := clock_timestamp(); END IF;
	ELSIF TG_TABLE_NAME = 'item' AND TG_OP <> 'DELETE' THEN
		IF NEW.rule_since >= now() THEN NEW.rule_since := clock_timestamp(); END IF;
	END IF;
	RETURN CASE WHEN TG_OP = 'DELETE' THEN OLD ELSE NEW END;
END $$;
