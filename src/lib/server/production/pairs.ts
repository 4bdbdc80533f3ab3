import { z } from 'zod';
import { transaction, type Sql } from '../database/connect.ts';
import { readScan } from '../../core/codes/scan.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { notify } from '../sheet/live.ts';
import { parse } from '../parse.ts';
import { openUnits } from './open.ts';
import { putParts, type PartGiven } from './put.ts';
import { unitOrder } from './units.ts';

/** The most pairs of one table. */
const MOST_PAIRS = 2000;
/** Pairs as they are typed or pasted: a unit, what went into it, and how much where it is not what is missing. */
export const pairsInput = z.strictObject({
	rows: z
		.array(
			z.strictObject({
				unit: line(60, 0),
				part: line(200, 0),
				qty: line(40, 0).nullish(),
				bin: line(45, 0).nullish()
			})
		)
		.min(1, 'Type or paste a pair: the unit, and the part that went into it.')
		.max(MOST_PAIRS, { error: () => `Paste at most ${MOST_PAIRS} pairs at a time.` }),
	/** only says what would come of it */
	preview: z.boolean().default(false)
});
/** What comes of one pair. */
export interface PairSaid {
	taken: boolean;
	said: string;
}
/** What comes of a table of pairs. */
export interface PairsSaid {
	rows: PairSaid[];
	/** units that have all their parts now */
	ready: string[];
}
class OnlyLooked extends Error {}

/**
 * Puts parts into units as a person at a desk says them, by the same checks as a station; what is refused says why, and the
 * rest goes in. Units that are complete wait to be booked.
 * @throws Problem 404 when there is no such order, 409 when it is closed, 422 when it is made as one batch
 */
export async function putPairs(
	sql: Sql,
	who: Actor,
	code: string,
	input: unknown,
	now = new Date()
): Promise<PairsSaid> {
	const given = parse(pairsInput, input);
	const order = await unitOrder(sql, code);
	if (!order) throw new Problem(`There is no production order ${code}. Look it up in the list.`, 404);
	if (order.closedAt) throw new Problem(`${code} is closed. New units need a new order.`, 409);
	if (order.made.runMode === 'pooled')
		throw new Problem(`${order.made.itemName} is made as one batch: enter what goes in on its sheet.`);
	const rows = given.rows.map((r): PartGiven | PairSaid => {
		const unit = readScan(r.unit, now.getFullYear());
		const part = readScan(r.part, now.getFullYear());
		if ('problem' in unit) return { taken: false, said: unit.problem };
		if ('problem' in part) return { taken: false, said: part.problem };
		const serial = unit.card?.serial ?? unit.serial ?? unit.text.trim();
		if (!serial) return { taken: false, said: 'The unit is missing. Type its serial.' };
		if (!r.part) return { taken: false, said: `What went into ${serial} is missing. Type its lot or serial.` };
		return { unit: serial, scan: part, qty: r.qty || null, bin: r.bin || null, how: 'entered' };
	});
	let said: PairsSaid | undefined;
	try {
		await transaction(sql, async (tx) => {
			const pairs = rows.filter((r): r is PartGiven => 'unit' in r);
			const barred = await openUnits(
				tx,
				who.name,
				order,
				pairs.map((p) => p.unit),
				'entered'
			);
			const may = pairs.filter((p) => !barred.has(p.unit));
			const { outcomes, units } = may.length
				? await putParts(tx, who.name, order, may, { station: null, now })
				: { outcomes: [], units: [] };
			const of = new Map(may.map((p, i) => [p, outcomes[i]]));
			said = {
				rows: rows.map((r): PairSaid => {
					if (!('unit' in r)) return r;
					const why = barred.get(r.unit);
					if (why) return { taken: false, said: why };
					const outcome = of.get(r)!;
					return { taken: outcome.taken, said: outcome.said };
				}),
				ready: units.filter((u) => u.state === 'ready').map((u) => u.serial)
			};
			// A unit that was opened for pairs of which none goes in is not there.
			await tx`DELETE FROM unit_work u WHERE u.order_id = ${order.id} AND u.serial = ANY(${pairs.map((p) => p.unit)}) AND u.station_id IS NULL
				AND NOT EXISTS (SELECT 1 FROM draft_row d WHERE d.order_id = u.order_id AND d.data ? 'unit' AND d.data ->> 'unit' = u.serial)`;
			if (given.preview) throw new OnlyLooked();
			await notify(tx, order.code);
		});
	} catch (e) {
		if (!(e instanceof OnlyLooked)) throw e;
	}
	return said!;
}
