import { z } from 'zod';
import { transaction, type Sql } from '../database/connect.ts';
import { isZone } from '../../core/time/clock.ts';
import { keepHistory } from '../history/history.ts';
import { firmZone } from '../marks/zone.ts';
import { parse } from '../parse.ts';

/** A time zone by its name in the IANA database. */
export const zoneInput = z
	.string()
	.trim()
	.max(60)
	.refine(isZone, 'There is no such time zone. Type its name as Europe/London or America/New_York.');

/** Sets the firm's time zone. What was booked keeps its moment; it is shown in the new zone from now on. */
export async function saveFirm(sql: Sql, by: string, input: unknown): Promise<void> {
	const { zone } = parse(z.strictObject({ zone: zoneInput }), input);
	await transaction(sql, async (tx) => {
		const was = await firmZone(tx);
		await tx`UPDATE firm SET zone = ${zone}`;
		await keepHistory(tx, by, 'firm', 'firm', { zone: was }, { zone });
	});
}
