-- What is taken first, and what is not offered: settings of the firm that a site or an item may have its own of, and what a
-- customer asks of what it gets.
ALTER TABLE firm ADD preference text NOT NULL DEFAULT 'expires first' CHECK (preference IN ('expires first', 'first in', 'by number'));
ALTER TABLE place ADD preference text CHECK (preference IN ('expires first', 'first in', 'by number')),
	-- goods on the docks of the site are not free to go until they are put away
	ADD bins_first boolean NOT NULL DEFAULT false,
	ADD CHECK (site_id IS NULL OR preference IS NULL AND NOT bins_first);
ALTER TABLE item ADD preference text CHECK (preference IN ('expires first', 'first in', 'by number')),
	ADD one_lot boolean NOT NULL DEFAULT false,
	-- of its life at shipment
	ADD days_left integer CHECK (days_left BETWEEN 0 AND 36500);
ALTER TABLE partner ADD days_left integer CHECK (days_left BETWEEN 0 AND 36500),
	-- never older than what it got last, by expiry
	ADD never_older boolean NOT NULL DEFAULT false,
	ADD one_lot boolean NOT NULL DEFAULT false;
SELECT record_again(t) FROM unnest(ARRAY['firm', 'place', 'item', 'partner']) t;
GRANT UPDATE (preference) ON firm TO earmark_app;
