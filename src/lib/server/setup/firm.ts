import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { DECIMAL_SIGNS, useDecimalSign, type DecimalSign } from '../../core/quantity/sign.ts';
import { PREFERENCES, type Preference } from '../../core/allocation/allocate.ts';
import { text } from '../../core/text/input.ts';
import { isZone, type Zone } from '../../core/time/clock.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';
import { divisorInput } from './ways.ts';

/** A time zone by its name in the IANA database. */
export const zoneInput = z
	.string()
	.trim()
	.max(60)
	.refine(isZone, 'There is no such time zone. Type its name as Europe/London or America/New_York.');

/** Settings of the firm, those that are given, as parsed. */
export const firmInput = z.strictObject({
	zone: zoneInput.optional(),
	/** cm³ that count as a kilogram */
	divisor: divisorInput.optional(),
	/** digits of the firm's GS1 company prefix */
	prefixDigits: z.coerce
		.number('A company prefix has 6 to 12 digits.')
		.int()
		.min(6, 'A company prefix has 6 to 12 digits.')
		.max(12, 'A company prefix has 6 to 12 digits.')
		.optional(),
	/** what is taken first */
	preference: z.enum(PREFERENCES).optional(),
	/** per cent of what was expected above which a difference is counted again; empty for never */
	countLimit: z
		.string()
		.trim()
		.regex(/^(\d{1,3}([.,]\d{1,2})?)?$/, 'Give the limit in per cent, as 10 or 2.5; empty for no second count.')
		.transform((t) => t.replace(',', '.') || null)
		.optional(),
	/** so many days a row of an open sheet holds its number; nobody else is offered it meanwhile */
	holdDays: z.coerce
		.number('Give the days as a whole number from 1 to 365.')
		.int('Give the days as a whole number from 1 to 365.')
		.min(1, 'Give the days as a whole number from 1 to 365.')
		.max(365, 'Give the days as a whole number from 1 to 365.')
		.optional(),
	/** customers get nothing that came back from another, where theirs says nothing else */
	newOnly: z.boolean().optional(),
	/** what customers agree to; empty for none */
	terms: text(20_000, 0, undefined, 'The terms have at most 20,000 characters.').optional(),
	sign: z.enum(DECIMAL_SIGNS, 'Choose how numbers are written: 1,250.5 or 1.250,5.').optional()
});
/**
 * Sets the firm's time zone, decimal sign, divisor of volumetric weights, length of its GS1 company prefix and what is taken first, those that are given. What was booked and what stands in drafts keeps its moment and its number;
 * from now on it is shown, and typed, in the new way.
 */
export async function saveFirm(sql: Sql, by: string, input: unknown): Promise<void> {
	const given = parse(firmInput, input);
	await transaction(sql, async (tx) => {
		const [was] = await tx<
			{
				zone: Zone;
				sign: DecimalSign;
				divisor: number;
				prefixDigits: number;
				preference: Preference;
				countLimit: string | null;
				holdDays: number;
				newOnly: boolean;
				terms: string;
			}[]
		>`
			SELECT zone, decimal_sign AS sign, weight_divisor AS divisor, prefix_digits AS "prefixDigits", preference, trim_scale(count_limit)::text AS "countLimit", hold_days AS "holdDays", new_only AS "newOnly", terms FROM firm FOR UPDATE`;
		const now = {
			zone: given.zone ?? was.zone,
			sign: given.sign ?? was.sign,
			divisor: given.divisor ?? was.divisor,
			prefixDigits: given.prefixDigits ?? was.prefixDigits,
			preference: given.preference ?? was.preference,
			countLimit: given.countLimit === undefined ? was.countLimit : given.countLimit,
			holdDays: given.holdDays ?? was.holdDays,
			newOnly: given.newOnly ?? was.newOnly,
			terms: given.terms ?? was.terms
		};
		await tx`UPDATE firm SET zone = ${now.zone}, decimal_sign = ${now.sign}, weight_divisor = ${now.divisor}, prefix_digits = ${now.prefixDigits}, preference = ${now.preference}, count_limit = ${now.countLimit}, hold_days = ${now.holdDays}, new_only = ${now.newOnly}, terms = ${now.terms}`;
		await keepHistory(tx, by, 'firm', 'firm', { ...was }, now);
	});
	if (given.sign) useDecimalSign(given.sign);
}

/** In per cent of what was expected: a larger difference of a count is counted a second time; null where none is. */
export async function countLimit(sql: Db): Promise<string | null> {
	const [firm] = await sql<{ limit: string | null }[]>`SELECT trim_scale(count_limit)::text AS limit FROM firm`;
	return firm.limit;
}

/** So many days a row of an open sheet holds its number. */
export async function holdDays(sql: Db): Promise<number> {
	const [firm] = await sql<{ days: number }[]>`SELECT hold_days AS days FROM firm`;
	return firm.days;
}

/** What the firm counts by: cm³ for a kilogram where a way of delivery says nothing else, digits of its GS1 company prefix; and what is taken first. */
export async function firmCounts(
	sql: Db
): Promise<{ divisor: number; prefixDigits: number; preference: Preference; newOnly: boolean }> {
	const [counts] = await sql<{ divisor: number; prefixDigits: number; preference: Preference; newOnly: boolean }[]>`
		SELECT weight_divisor AS divisor, prefix_digits AS "prefixDigits", preference, new_only AS "newOnly" FROM firm`;
	return counts;
}

/** What the firm's customers agree to; empty where there is nothing. */
export async function saleTerms(sql: Db): Promise<string> {
	const [firm] = await sql<{ terms: string }[]>`SELECT terms FROM firm`;
	return firm.terms;
}
