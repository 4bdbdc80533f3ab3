-- What was signed stays as it was signed: whom and which lines the terms were agreed for. What was signed before this was kept
-- is read from its order.
ALTER TABLE signature ADD agreed jsonb,
	ADD CONSTRAINT signature_agreed CHECK ((meaning = 'terms') = (agreed IS NOT NULL)) NOT VALID;
SELECT record_again('signature');
