import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { parseQty } from '../../core/quantity/quantity.ts';
import { line } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';

/** Cubic centimetres that count as a kilogram, as typed; null for nothing typed. */
export const divisorInput = z
	.string()
	.trim()
	.max(20)
	.transform((typed, ctx): number | null => {
		const n = Number(typed.replace(/[ ,.]/g, ''));
		if (!typed) return null;
		if (Number.isInteger(n) && n >= 3000 && n <= 6000) return n;
		ctx.addIssue({ code: 'custom', message: 'Give 3000 to 6000 cm³ for a kilogram.' });
		return z.NEVER;
	});
const money = z
	.string()
	.trim()
	.max(20)
	.transform((typed, ctx) => {
		if (!typed) return null;
		const q = typed === '0' ? { qty: '0' } : parseQty(typed, 4);
		if ('qty' in q) return q.qty;
		ctx.addIssue({ code: 'custom', message: q.problem });
		return z.NEVER;
	});
/** A way of delivery, as parsed. */
export const wayInput = z.strictObject({
	code: line(20, 1, 'Type a code.').refine((t) => /^[^\s/?#%]+$/u.test(t), 'A code has no blanks and none of / ? # %.'),
	name: line(100, 1, 'Type what it is called.'),
	divisor: divisorInput,
	/** for a kilogram of chargeable weight */
	rate: money,
	minimum: money,
	currency: z
		.string()
		.trim()
		.regex(/^[A-Z]{3}$/, 'Type the currency as three letters: EUR.')
});
type Settings = Omit<z.output<typeof wayInput>, 'code'> & { closed: boolean };
/** A way of delivery by its code; null where there is none. */
export const readWay = async (tx: Db, code: string): Promise<Settings | null> =>
	(
		await tx<Settings[]>`
			SELECT name, divisor, trim_scale(rate)::text AS rate, trim_scale(minimum)::text AS minimum, currency, closed_on IS NOT NULL AS closed FROM delivery_way WHERE code = ${code} FOR UPDATE`
	)[0] ?? null;

/** Sets up a way of delivery, or changes one. @throws Problem when its code is taken, or a number is none */
export async function saveWay(sql: Sql, by: string, input: unknown, fresh: boolean): Promise<void> {
	const { code, ...way } = parse(wayInput, input);
	await transaction(sql, async (tx) => {
		const was = await readWay(tx, code);
		if (fresh && was)
			throw new Problem([{ message: `There is a way of delivery ${code} already. Take another code.`, at: 'code' }]);
		if (!fresh && !was) throw new Problem(`There is no way of delivery ${code}. Reload the page.`, 404);
		await tx`INSERT INTO delivery_way (code, name, divisor, rate, minimum, currency) VALUES (${code}, ${way.name}, ${way.divisor}, ${way.rate}, ${way.minimum}, ${way.currency})
			ON CONFLICT (code) DO UPDATE SET name = excluded.name, divisor = excluded.divisor, rate = excluded.rate, minimum = excluded.minimum, currency = excluded.currency`;
		await keepHistory(tx, by, 'way', code, was, { ...way, closed: was?.closed ?? false });
	});
}

/** Closes a way of delivery: no new document takes it; or opens it again. */
export async function setWayClosed(sql: Sql, by: string, code: string, closed: boolean): Promise<void> {
	await transaction(sql, async (tx) => {
		const was = await readWay(tx, code);
		if (!was) throw new Problem(`There is no way of delivery ${code}. Reload the page.`, 404);
		await tx`UPDATE delivery_way SET closed_on = CASE WHEN ${closed} THEN shown_day(now())::date END WHERE code = ${code}`;
		await keepHistory(tx, by, 'way', code, was, { ...was, closed });
	});
}

/** The ways of delivery that are open, for documents to choose from. */
export const openWays = (sql: Db) => sql<{ code: string; name: string }[]>`
	SELECT code, name FROM delivery_way WHERE closed_on IS NULL ORDER BY code`;
