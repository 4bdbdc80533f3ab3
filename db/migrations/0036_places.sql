-- What was moved from or to a place, the last first.
CREATE INDEX movement_from ON movement (from_place, id);
CREATE INDEX movement_to ON movement (to_place, id);
