-- A quantity as lists show it inside a text. The firm's decimal sign is given to it, so that a statement reads it once: a
-- function that reads a table is called anew for every line of every order, which took most of the time of sorting by them.
DROP FUNCTION shown_qty(numeric);
CREATE FUNCTION shown_qty(qty numeric, sign text) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT translate(rtrim(to_char(qty, 'FM999,999,999,990.999999'), '.'), ',.', CASE sign WHEN ',' THEN '.,' ELSE ',.' END)
$$;
