-- A password that somebody else gave is known to two people: the next sign-in with it asks for one's own. Sessions that are
-- open go on as they are.
ALTER TABLE person ADD password_given boolean NOT NULL DEFAULT true;
ALTER TABLE person ALTER password_given SET DEFAULT false;
-- The language that the person reads dates in.
ALTER TABLE person ADD dates text NOT NULL DEFAULT 'en' CHECK (dates ~ '^[a-z]{2}$');
SELECT record_again('person');
ALTER TABLE session
	ADD id bigint GENERATED ALWAYS AS IDENTITY UNIQUE,
	ADD address text NOT NULL DEFAULT '',
	ADD browser text NOT NULL DEFAULT '' CHECK (length(browser) <= 300),
	ADD asks_password boolean NOT NULL DEFAULT false;
CREATE INDEX session_person ON session (person_id);
