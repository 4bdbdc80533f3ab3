import { z } from 'zod';
import { transaction, type Sql } from '../database/connect.ts';
import { DECIMAL_SIGNS, useDecimalSign, type DecimalSign } from '../../core/quantity/sign.ts';
import { isZone, type Zone } from '../../core/time/clock.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';

/** A time zone by its name in the IANA database. */
export const zoneInput = z
	.string()
	.trim()
	.max(60)
	.refine(isZone, 'There is no such time zone. Type its name as Europe/London or America/New_York.');

const firmInput = z.strictObject({
	zone: zoneInput.optional(),
	sign: z.enum(DECIMAL_SIGNS, 'Choose how numbers are written: 1,250.5 or 1.250,5.').optional()
});
/**
 * Sets the firm's time zone and decimal sign, those that are given. What was booked and what stands in drafts keeps its moment and its number;
 * from now on it is shown, and typed, in the new way.
 */
export async function saveFirm(sql: Sql, by: string, input: unknown): Promise<void> {
	const given = parse(firmInput, input);
	await transaction(sql, async (tx) => {
		const [was] = await tx<{ zone: Zone; sign: DecimalSign }[]>`SELECT zone, decimal_sign AS sign FROM firm FOR UPDATE`;
		const now = { zone: given.zone ?? was.zone, sign: given.sign ?? was.sign };
		await tx`UPDATE firm SET zone = ${now.zone}, decimal_sign = ${now.sign}`;
		await keepHistory(tx, by, 'firm', 'firm', { ...was }, now);
	});
	if (given.sign) useDecimalSign(given.sign);
}
