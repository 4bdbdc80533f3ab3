-- Lists are walked in their order: items by name, and numbers whether an item's stock has one or not.
CREATE INDEX item_by_name ON item (name COLLATE natural_order);
DROP INDEX mark_number;
CREATE INDEX mark_number ON mark (number COLLATE natural_order, id);
CREATE INDEX place_by_code ON place (code COLLATE natural_order);
CREATE INDEX event_recorded ON event (recorded_at, id);
CREATE INDEX orders_kind ON orders (kind, closed_at);

-- What stood where at a moment: what stands there now and what moved since. What is empty now says nothing by itself.
CREATE OR REPLACE FUNCTION stock_at(moment timestamptz) RETURNS TABLE (mark_id bigint, place_id bigint, qty numeric) LANGUAGE sql STABLE AS $$
	SELECT s.mark_id, s.place_id, sum(s.qty) FROM (
		SELECT b.mark_id, b.place_id, b.qty FROM balance b WHERE b.qty > 0 AND NOT b.virtual
		UNION ALL SELECT m.mark_id, m.to_place, -m.qty FROM movement m WHERE m.at > moment
		UNION ALL SELECT m.mark_id, m.from_place, m.qty FROM movement m WHERE m.at > moment) s GROUP BY s.mark_id, s.place_id
$$;
-- The same of one lot or serial.
CREATE FUNCTION stock_of_at(mark bigint, moment timestamptz) RETURNS TABLE (mark_id bigint, place_id bigint, qty numeric) LANGUAGE sql STABLE AS $$
	SELECT s.mark_id, s.place_id, sum(s.qty) FROM (
		SELECT b.mark_id, b.place_id, b.qty FROM balance b WHERE b.mark_id = mark AND b.qty > 0 AND NOT b.virtual
		UNION ALL SELECT m.mark_id, m.to_place, -m.qty FROM movement m WHERE m.mark_id = mark AND m.at > moment
		UNION ALL SELECT m.mark_id, m.from_place, m.qty FROM movement m WHERE m.mark_id = mark AND m.at > moment) s GROUP BY s.mark_id, s.place_id
$$;
