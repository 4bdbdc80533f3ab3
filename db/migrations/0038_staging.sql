-- Whether anything is picked for an order begins with the bins where picked goods wait: a few of many places.
CREATE INDEX place_staging ON place (id) WHERE staging;
