/** What of a number can be changed after it was given, by the column that keeps it. */
export type Field =
	| 'lot_no'
	| 'serial_no'
	| 'parent_id'
	| 'supplier_lot'
	| 'supplier_serial'
	| 'supplier_warranty_until'
	| 'made_on'
	| 'expires_on'
	| 'facts'
	| 'status';
