-- What stands before decimals where the firm's people read and type numbers. What is kept is written with a point.

ALTER TABLE firm ADD decimal_sign text NOT NULL DEFAULT '.' CHECK (decimal_sign IN ('.', ','));
GRANT UPDATE (decimal_sign) ON firm TO earmark_app;
-- A quantity as lists show it inside a text: grouped, by the firm's sign.
CREATE FUNCTION shown_qty(qty numeric) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT translate(rtrim(to_char(qty, 'FM999,999,999,990.999999'), '.'), ',.',
		CASE (SELECT decimal_sign FROM firm) WHEN ',' THEN '.,' ELSE ',.' END)
$$;
