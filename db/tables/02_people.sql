-- Who may do what.

CREATE TABLE person (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	login text NOT NULL UNIQUE CHECK (login ~ '^[a-z][a-z0-9._-]{0,39}$'),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 100),
	role text NOT NULL CHECK (role IN ('coordinator', 'receiving and shipping', 'assembly', 'quality', 'service', 'auditor',
		'administrator')),
	password_hash text NOT NULL,
	active boolean NOT NULL DEFAULT true,
	-- A password that somebody else gave is known to two people: the next sign-in with it asks for one's own.
	-- Sessions that are open go on as they are.
	password_given boolean NOT NULL DEFAULT false,
	-- The language that the person reads dates in.
	dates text NOT NULL DEFAULT 'en' CHECK (dates ~ '^[a-z]{2}$')
);

CREATE TABLE session (
	token_hash text PRIMARY KEY,
	person_id bigint NOT NULL REFERENCES person,
	created_at timestamptz NOT NULL DEFAULT now(),
	expires_at timestamptz NOT NULL,
	id bigint GENERATED ALWAYS AS IDENTITY UNIQUE,
	address text NOT NULL DEFAULT '',
	browser text NOT NULL DEFAULT '' CHECK (length(browser) <= 300),
	asks_password boolean NOT NULL DEFAULT false
);
CREATE INDEX session_person ON session (person_id);

CREATE TABLE sign_in_failure (
	login text NOT NULL,
	address text NOT NULL,
	at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sign_in_failure_login ON sign_in_failure (login, at);
CREATE INDEX sign_in_failure_recent ON sign_in_failure (at);

-- Where a person has signed in before: there others' wrong tries at the same name slow nobody down.
CREATE TABLE sign_in_known (
	login text NOT NULL,
	address text NOT NULL,
	at timestamptz NOT NULL DEFAULT now(),
	PRIMARY KEY (login, address)
);

CREATE TABLE api_token (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 60),
	role text NOT NULL,
	token_hash text NOT NULL UNIQUE,
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now(),
	last_used_at timestamptz,
	revoked_at timestamptz,
	-- What a program may do here may end by itself: after this day, where the firm is.
	ends_on date
);

CREATE TABLE list_choice (
	login text NOT NULL,
	list text NOT NULL CHECK (length(list) BETWEEN 1 AND 40),
	columns text[] NOT NULL CHECK (cardinality(columns) >= 1 AND cardinality(columns) <= 60),
	PRIMARY KEY (login, list)
);
