-- How the date of what is made comes about: its own shelf life, the first date of what went in, or the earlier of both.
ALTER TABLE item ADD expiry_from text NOT NULL DEFAULT 'life' CHECK (expiry_from IN ('life', 'parts', 'earlier'));
SELECT record_again('item');
