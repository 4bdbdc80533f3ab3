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
	| 'status'
	| 'owner';

/** What of a lot or serial can be corrected besides its facts, as programs name it. */
export interface Correctable {
	/** the column that keeps it */
	column: Field;
	/** as a page names it */
	label: string;
	/** how its value is read */
	reads: 'number' | 'day' | 'text' | 'partner';
	/** which have it */
	of: readonly ('lot' | 'serial')[];
	/** it may be taken away: nothing is recorded then */
	optional: boolean;
}
/** Everything that can be corrected besides facts, by the names that programs use. */
export const CORRECTABLE = {
	number: { column: 'lot_no', label: 'Number', reads: 'number', of: ['lot', 'serial'], optional: false },
	lot: { column: 'parent_id', label: 'Lot', reads: 'number', of: ['serial'], optional: false },
	expiresOn: { column: 'expires_on', label: 'Expires', reads: 'day', of: ['lot', 'serial'], optional: true },
	madeOn: { column: 'made_on', label: 'Made', reads: 'day', of: ['lot', 'serial'], optional: true },
	supplierLot: {
		column: 'supplier_lot',
		label: 'Supplier’s lot',
		reads: 'text',
		of: ['lot', 'serial'],
		optional: true
	},
	supplierSerial: {
		column: 'supplier_serial',
		label: 'Supplier’s serial',
		reads: 'text',
		of: ['serial'],
		optional: true
	},
	supplierWarrantyUntil: {
		column: 'supplier_warranty_until',
		label: 'Supplier’s warranty until',
		reads: 'day',
		of: ['lot', 'serial'],
		optional: true
	},
	/** whose it is, by the partner's code; ours without one, or its lot's owner's */
	owner: { column: 'owner', label: 'Belongs to', reads: 'partner', of: ['lot', 'serial'], optional: true }
} as const satisfies Record<string, Correctable>;
/** One of them, by its name. */
export type CorrectableField = keyof typeof CORRECTABLE;

/** Is it the name of one? A fact's code is none. */
export const isCorrectable = (name: string): name is CorrectableField => Object.hasOwn(CORRECTABLE, name);

/** Each column that changes are recorded of, as a history names it. */
export const FIELD_LABELS: Record<Exclude<Field, 'facts' | 'status'>, string> = {
	lot_no: 'number',
	serial_no: 'number',
	parent_id: 'lot',
	supplier_lot: 'supplier’s lot',
	supplier_serial: 'supplier’s serial',
	supplier_warranty_until: 'supplier’s warranty',
	made_on: 'made',
	expires_on: 'expires',
	owner: 'belongs to'
};
