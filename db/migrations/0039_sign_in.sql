-- Where a person has signed in before: there others' wrong tries at the same name slow nobody down.
CREATE TABLE sign_in_known (
	login text NOT NULL,
	address text NOT NULL,
	at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (login, address)
);
GRANT SELECT, INSERT, UPDATE, DELETE ON sign_in_known TO earmark_app;
CREATE INDEX sign_in_failure_login ON sign_in_failure (login, at);
