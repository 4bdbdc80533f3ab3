import type { Db } from '../database/connect.ts';
import type { Zone } from '../../core/time/clock.ts';

/** The firm's time zone: that of everything that lies at no site of its own. */
export async function firmZone(sql: Db): Promise<Zone> {
	const [{ zone }] = await sql<{ zone: Zone }[]>`SELECT zone FROM firm`;
	return zone;
}
