-- What is on hand, by its number: of all balances ever held few are, and every list of what is here asks for them.
CREATE INDEX balance_hand ON balance (mark_id, place_id) WHERE qty > 0 AND NOT virtual;

-- Whether anything is picked for an order begins with the bins where picked goods wait: a few of many places.
CREATE INDEX place_staging ON place (id) WHERE staging;
