import type { Db } from '../database/connect.ts';

/** A lot or serial as programs name it: by its item and one of the two. */
export interface NamedMark {
	item: string;
	lot?: string | null;
	serial?: string | null;
}

/** The lots and serials of some names, in their order, by one statement; null for one that is not there. */
export async function marksNamed(sql: Db, names: readonly NamedMark[]): Promise<(string | null)[]> {
	if (!names.length) return [];
	const rows = await sql<{ id: string | null }[]>`
		SELECT k.id FROM unnest(${names.map((n) => n.item)}::text[], ${names.map((n) => n.lot ?? null)}::text[], ${names.map((n) => n.serial ?? null)}::text[])
			WITH ORDINALITY w(item, lot, serial, pos)
		LEFT JOIN item i ON i.code = w.item
		LEFT JOIN mark k ON k.item_id = i.id AND CASE WHEN w.serial IS NULL THEN k.kind = 'lot' AND k.lot_no = w.lot ELSE k.kind = 'serial' AND k.serial_no = w.serial END
		ORDER BY w.pos`;
	return rows.map((r) => r.id);
}
