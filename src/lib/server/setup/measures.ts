import type { Db } from '../database/connect.ts';

/** What an item i weighs and measures, in a statement. */
export const measuresOf = (
	sql: Db
) => sql`json_build_object('net', trim_scale(i.net_weight)::text, 'gross', trim_scale(i.gross_weight)::text, 'length', trim_scale(i.length_cm)::text,
	'width', trim_scale(i.width_cm)::text, 'height', trim_scale(i.height_cm)::text, 'volumetric', trim_scale(i.volumetric_weight)::text)`;
