-- Repacking, taking apart, weights: what else an item says of itself.

ALTER TABLE orders DROP CONSTRAINT orders_kind_check,
	ADD CONSTRAINT orders_kind_check CHECK (kind IN ('purchase', 'production', 'sale', 'issue', 'repack', 'transfer', 'return'));

-- Of what is repacked, how much may be lost without a reason, in per cent.
ALTER TABLE item ADD loss_tolerance numeric NOT NULL DEFAULT 0 CHECK (loss_tolerance BETWEEN 0 AND 100);
SELECT record_again('item');
