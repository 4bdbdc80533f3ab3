-- What came from a customer is little among all that moved: whether a piece came back is asked of that alone.
DO $$ DECLARE customer bigint; BEGIN
	SELECT id INTO STRICT customer FROM place WHERE code = '@customer';
	EXECUTE format('CREATE INDEX movement_from_customer ON movement (mark_id) WHERE from_place = %s', customer);
END $$;

-- Of a sheet of ten thousand rows those that a scanned number may have to do with: it stands in one, or the one before it; it
-- is the supplier's; or a row holds several.
CREATE INDEX draft_row_serial ON draft_row (order_id, (data ->> 'serial')) WHERE data ? 'serial';
CREATE INDEX draft_row_supplier_serial ON draft_row (order_id, (data ->> 'supplierSerial')) WHERE data ? 'supplierSerial';
CREATE INDEX draft_row_several ON draft_row (order_id) WHERE data ->> 'count' <> '1';
