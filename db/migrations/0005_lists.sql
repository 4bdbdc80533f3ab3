-- What a person has chosen to see of a list.

CREATE TABLE list_choice (
	login text NOT NULL,
	list text NOT NULL CHECK (length(list) BETWEEN 1 AND 40),
	columns text[] NOT NULL CHECK (cardinality(columns) BETWEEN 1 AND 60),
	PRIMARY KEY (login, list)
);
GRANT SELECT, INSERT, UPDATE, DELETE ON list_choice TO earmark_app;
