-- An order that is closed before all of it is booked, with why. It stays closed whatever is undone of it, until it is opened again.
ALTER TABLE orders ADD closed_short text CHECK (length(closed_short) BETWEEN 1 AND 1000),
	ADD CHECK (closed_short IS NULL OR closed_at IS NOT NULL);
SELECT record_again('orders');
