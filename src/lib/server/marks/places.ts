import { poolOf, type Db } from '../database/connect.ts';
import type { Zone } from '../../core/time/clock.ts';

/** A real place as stock lies there. */
export interface StockPlace {
	id: string;
	code: string;
	/** code of its site */
	site: string;
	zone: Zone;
	/** what is between sites stands there */
	transit: boolean;
	/** what was picked waits there until it is shipped */
	staging: boolean;
	/** what lies there is not offered: it is put away first */
	waits: boolean;
}
/** All real places of the firm, by their ids, in the order of their codes. */
export interface StockPlaces {
	/** of what is set up, that they were read by */
	version: string;
	byId: ReadonlyMap<string, StockPlace>;
	/** is there any where picked goods wait? */
	stages: boolean;
}

const kept = new WeakMap<Db, StockPlaces>();
/**
 * The places of the firm, kept in the process from one reading to the next.
 * @param version of what is set up, as it is now: what was kept by another is read again
 */
export async function stockPlaces(db: Db, version: string): Promise<StockPlaces> {
	const pool = poolOf(db);
	const known = kept.get(pool);
	if (known?.version === version) return known;
	const rows = await db<StockPlace[]>`
		SELECT p.id, p.code, coalesce(s.code, p.code) AS site, coalesce(p.zone, s.zone, f.zone) AS zone, p.transit, p.staging,
			p.dock AND coalesce(s.bins_first, p.bins_first) AS waits
		FROM firm f CROSS JOIN place p LEFT JOIN place s ON s.id = p.site_id WHERE NOT p.virtual
		ORDER BY p.code COLLATE natural_order`;
	const read: StockPlaces = {
		version,
		byId: new Map(rows.map((p) => [p.id, p])),
		stages: rows.some((p) => p.staging)
	};
	kept.set(pool, read);
	return read;
}
