import { randomUUID } from 'node:crypto';
import { holdsAll, notLookedOver } from '../../core/checks/catalogue.ts';
import { found } from '../../core/checks/check.ts';
import type { Goes } from '../../core/document/kinds.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { amount } from '../../core/quantity/quantity.ts';
import type { SheetLine } from '../../core/sheet/sheet.ts';
import type { Db, Tx } from '../database/connect.ts';
import type { Order } from '../document/orders.ts';
import { setStatusWithin } from '../ledger/changes.ts';
import { marksCalled, unknownNumber } from '../marks/called.ts';
import type { OnHand } from '../marks/onhand.ts';
import type { Asked, Builder, Built, BuildInput } from '../sheet/build.ts';
import type { Move, Movement, SheetFinding } from '../sheet/lines.ts';
import { canGo, pickMoves } from '../sheet/picks.ts';
import { ANY, takenLines, type TakingWords } from '../sheet/taken.ts';

const WORDS: TakingWords = {
	...{ are: 'came back', asked: 'were to', less: 'remove some', can: 'are with the customer' },
	short: (l, short) => (l.carries === 'none' ? null : `${short} not here yet: scan it, or choose from what they have`)
};

/**
 * What the customer of a return has, as it could come back: of an item all of it, the latest first; of marks that are named
 * also what it does not have by the ledger, since it may come from there all the same.
 */
async function withThem(sql: Db, order: Order, asked: Asked): Promise<OnHand[]> {
	const marks =
		'marks' in asked
			? asked.marks
			: 'number' in asked
				? (await marksCalled(sql, asked.number, asked.gtin)).map((m) => m.id)
				: null;
	// One of an item that carries no number is never named: it is looked for with the lines.
	const items = 'itemId' in asked ? [asked.itemId] : order.lines.map((l) => l.itemId);
	const which = marks
		? sql`(k.id = ANY(${[...marks]}::bigint[]) OR k.kind = 'unmarked' AND k.item_id = ANY(${items}::bigint[]) AND h.qty > 0)`
		: sql`k.item_id = ANY(${items}::bigint[]) AND h.qty > 0`;
	return sql<OnHand[]>`
		WITH them AS (SELECT id FROM partner WHERE code = ${order.partner}), has AS (SELECT h.* FROM customer_has h WHERE h.partner_id = (SELECT id FROM them)
			AND (${marks === null} OR h.mark_id = ANY(${[...(marks ?? [])]}::bigint[]) OR h.mark_id IN (SELECT u.id FROM mark u WHERE u.kind = 'unmarked' AND u.item_id = ANY(${items}::bigint[]))))
		SELECT k.id AS mark, k.item_id AS "itemId", k.kind, coalesce(k.number, i.code) AS number, k.of_lot AS lot, k.facts, k.lot_facts AS "lotFacts", '@customer' AS place,
			CASE WHEN h.qty > 0 THEN trim_scale(h.qty)::text ELSE '1' END AS qty, k.kind = 'serial' AS serial, k.expires_on AS "expiresOn", k.status,
			coalesce(to_char(h.shipped_at, 'YYYY-MM-DD"T"HH24:MI:SS'), '') AS since, f.zone, false AS transit, false AS staging
		FROM firm f CROSS JOIN mark_now k JOIN item i ON i.id = k.item_id LEFT JOIN has h ON h.mark_id = k.id
		WHERE ${which} ORDER BY h.qty > 0 DESC NULLS LAST, h.shipped_at DESC NULLS LAST, k.number COLLATE natural_order`;
}

/** What comes back from a customer: each number looked over, then put into stock, put on hold or scrapped. */
async function buildReturn(sql: Db, given: BuildInput): Promise<Built> {
	const { order, drafts } = given;
	const marks = drafts.flatMap((d) => d.data.mark ?? []);
	const stock = await withThem(sql, order, { marks });
	const { lines, said } = await takenLines(sql, given, stock, () => ANY, WORDS, {
		suggests: (s) => s.kind === 'unmarked'
	});
	said.push(...lines.flatMap(lookedOver), ...(await holdingAll(sql, lines)));
	const moves = lines.flatMap((line) => [
		...pickMoves(line, (p) => (p.goes === 'scrap' ? order.place! : (p.to ?? order.place!))),
		...line.cells.flatMap((c) =>
			c.picks.filter((p) => canGo(p) && p.goes === 'scrap').map((p) => scrap(line, p, order))
		)
	]);
	return {
		...{ lines, said, kind: 'return', runs: [], moves },
		enough: moves.length > 0,
		used: drafts.map((d) => d.id),
		after: (tx, actor, booked) => keep(tx, actor, order, lines, booked)
	};
}
/** What is good for nothing has been at the place where it arrived, and goes from there; it counts for its line as it comes. */
function scrap(
	line: SheetLine,
	pick: Move['of'] & { mark: string; qty: string; evidence: Movement['evidence'] },
	order: Order
): Move {
	const { mark, qty, evidence } = pick;
	return { movement: { item: line.item, mark, qty, evidence, from: order.place!, to: '@scrap' }, line, of: pick };
}

const lookedOver = (line: SheetLine): SheetFinding[] =>
	line.cells.flatMap((c) =>
		c.picks.flatMap((p): SheetFinding[] =>
			canGo(p) && !p.goes
				? [
						{
							line,
							of: p,
							found: found(notLookedOver, {}, { line: -1, about: { kind: p.kind, number: p.number }, open: true })
						}
					]
				: []
		)
	);

/** Lots that go on hold while more of them is here. */
async function holdingAll(sql: Db, lines: readonly SheetLine[]): Promise<SheetFinding[]> {
	const held = lines.flatMap((line) =>
		line.cells.flatMap((c) =>
			c.picks.filter((p) => p.kind === 'lot' && p.goes === 'hold').map((pick) => ({ line, pick }))
		)
	);
	if (!held.length) return [];
	const rows = await sql<{ mark: string; qty: string }[]>`
		SELECT k.id AS mark, trim_scale(sum(b.qty))::text AS qty FROM mark k JOIN mark x ON x.id = k.id OR x.parent_id = k.id JOIN balance b ON b.mark_id = x.id AND b.qty > 0 AND NOT b.virtual
		WHERE k.id = ANY(${held.map((h) => h.pick.mark)}::bigint[]) AND k.status = 'released' GROUP BY k.id`;
	const onHand = new Map(rows.map((r) => [r.mark, r.qty]));
	return held.flatMap(({ line, pick }) => {
		const qty = onHand.get(pick.mark);
		const about = { kind: 'lot' as const, number: pick.number };
		return qty
			? [
					{
						line,
						of: pick,
						found: found(holdsAll, { onHand: amount(qty, line.unit) }, { line: -1, about, mark: pick.mark })
					}
				]
			: [];
	});
}

/** Keeps what was found with the event, and puts on hold what is to be. */
async function keep(
	tx: Tx,
	actor: Actor,
	order: Order,
	lines: readonly SheetLine[],
	booked: { id: string; at: string }
) {
	const picks = lines.flatMap((l) => l.cells.flatMap((c) => c.picks.filter((p) => canGo(p) && p.goes)));
	await tx`
		INSERT INTO returned (event_id, mark_id, goes, found)
		SELECT ${booked.id}::bigint, n.mark, n.goes, coalesce(left(string_agg(DISTINCT n.found, '; ') FILTER (WHERE n.found <> ''), 200), '') FROM unnest(${picks.map((p) => p.mark)}::bigint[],
			${picks.map((p): Goes => p.goes!)}::text[], ${picks.map((p) => p.found ?? '')}::text[]) n(mark, goes, found) GROUP BY n.mark, n.goes`;
	const asked = picks.filter((p) => p.goes === 'hold' && p.kind !== 'unmarked');
	// What was rejected stays so.
	const free = await tx<
		{ id: string }[]
	>`SELECT id FROM mark WHERE id = ANY(${asked.map((p) => p.mark)}::bigint[]) AND status IN ('released', 'quarantine')`;
	const held = asked.filter((p) => free.some((f) => f.id === p.mark));
	const why = (what: string | undefined) =>
		[`Came back from ${order.partnerName} on ${order.code}`, order.reason?.name, what]
			.filter(Boolean)
			.join(': ')
			.slice(0, 1000);
	await setStatusWithin(
		tx,
		actor,
		[...new Map(held.map((p) => [p.mark, p])).values()].map((p) => ({
			...{ key: randomUUID(), mark: p.mark, act: 'hold' as const, reason: why(p.found), at: booked.at }
		}))
	);
}

/** Returns from customers. */
export const returns: Builder = {
	build: buildReturn,
	async partnerOf(sql, mark) {
		const [them] = await sql<{ code: string }[]>`
			SELECT q.code FROM customer_has h JOIN partner q ON q.id = h.partner_id WHERE h.mark_id = ${mark} AND h.qty > 0 ORDER BY h.shipped_at DESC LIMIT 1`;
		return them?.code ?? null;
	},
	takes: async (sql, order, _mode, asked) => ({
		stock: await withThem(sql, order, asked),
		any: true,
		exact: true,
		missing: (number) => unknownNumber(sql, number)
	})
};
