import { z } from 'zod';
import type { Db, Sql } from '../database/connect.ts';
import { gtin14 } from '../../core/codes/check.ts';
import { inSentence } from '../../core/marking/sentence.ts';
import { changesOf, STEPS, type Rule } from '../../core/marking/rule.ts';
import { show } from '../../core/quantity/quantity.ts';
import { Problem } from '../../core/problem/problem.ts';
import { parse } from '../people/people.ts';

const text = (max: number) => z.string().trim().min(1).max(max);
const decimalText = z
	.union([
		z.number().positive(),
		z.string().regex(/^\d{1,12}(\.\d{1,6})?$/, 'Type digits, with a point before decimals.')
	])
	.transform(String);

const duration = z.string().regex(/^P(?=\d)(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$/, 'Type a duration such as P12M or P90D.');

/** A GTIN of 8, 12, 13 or 14 digits, kept as the 14 that codes carry. */
const gtinInput = z.string().transform((t, ctx) => {
	const gtin = gtin14(t.trim());
	if (gtin) return gtin;
	ctx.addIssue({ code: 'custom', message: `${t.trim().slice(0, 20)} is not a GTIN: it has 8, 12, 13 or 14 digits, and the last one is its check digit. Copy it from the label.` }); // prettier-ignore
	return z.NEVER;
});

export const itemInput = z.strictObject({
	code: text(60).regex(/^\S+$/, 'An item’s code has no blanks in it.'),
	name: text(200),
	unit: text(20),
	decimals: z.coerce.number().int().min(0).max(6).default(0),
	tracking: z.enum(['none', 'lot', 'serial', 'lot and serial']),
	expiry: z.enum(['not asked', 'asked', 'required']).default('not asked'),
	shelfLife: duration.nullish(),
	/** how much of its life must be left when it arrives */
	leastLeft: duration.nullish(),
	runMode: z.enum(['pooled', 'unit']).default('pooled'),
	contentQty: decimalText.nullish(),
	contentUnit: text(20).nullish(),
	serialsUniqueEverywhere: z.boolean().default(false),
	gtin: gtinInput.nullish(),
	/** codes of number patterns */
	lotPattern: text(30).nullish(),
	serialPattern: text(30).nullish(),
	misfit: z.enum(['stop', 'reason', 'note']).default('stop'),
	parts: z
		.array(z.strictObject({ item: text(60), qty: decimalText }))
		.max(100)
		.optional()
});
export type ItemInput = z.input<typeof itemInput>;

const steps: string[] = [...STEPS];

/**
 * Makes an item with its marking rule and parts list. The same code again with the same content changes nothing.
 * @returns whether it is new
 * @throws Problem when the code stands for another item, or a part is unknown
 */
export async function createItem(sql: Sql, input: ItemInput): Promise<{ id: string; created: boolean }> {
	const parsed = itemInput.safeParse(input);
	if (!parsed.success)
		throw new Problem(parsed.error.issues.map((i) => ({ message: i.message, at: i.path.join('.') })));
	const item = parsed.data;
	const { tracking } = item;
	if (tracking.includes('serial') && item.decimals > 0)
		throw new Problem([{ message: 'An item with serials comes in whole pieces: set its decimals to 0.', at: 'decimals' }]); // prettier-ignore
	if (item.runMode === 'unit' && !tracking.includes('serial'))
		throw new Problem([{ message: 'One run for each finished piece needs serials. Choose a tracking with serials, or pooled runs.', at: 'runMode' }]); // prettier-ignore
	if (!!item.contentQty !== !!item.contentUnit)
		throw new Problem([{ message: 'Content needs both a quantity and a unit.', at: 'contentQty' }]);
	return sql.begin(async (raw) => {
		const tx = raw as unknown as Db;
		const [fresh] = await tx<{ id: string }[]>`
			INSERT INTO item (code, name, unit, decimals, tracking, expiry, shelf_life, run_mode, content_qty, content_unit, serials_unique_everywhere)
			VALUES (${item.code}, ${item.name}, ${item.unit}, ${item.decimals}, ${tracking}, ${item.expiry}, ${item.shelfLife ?? null},
				${item.runMode}, ${item.contentQty ?? null}, ${item.contentUnit ?? null}, ${item.serialsUniqueEverywhere})
			ON CONFLICT (code) DO NOTHING RETURNING id`;
		if (!fresh) {
			const [same] = await tx<{ id: string }[]>`
				SELECT id FROM item WHERE code = ${item.code} AND name = ${item.name} AND unit = ${item.unit} AND tracking = ${tracking}
					AND decimals = ${item.decimals} AND expiry = ${item.expiry} AND run_mode = ${item.runMode}
					AND (shelf_life, content_qty, content_unit) IS NOT DISTINCT FROM (${item.shelfLife ?? null}::text, ${item.contentQty ?? null}::numeric, ${item.contentUnit ?? null}::text)`;
			if (same) return { id: same.id, created: false };
			throw new Problem([{ message: `Item ${item.code} exists with other particulars. Take another code, or change it in Setup.`, at: 'code' }], 409); // prettier-ignore
		}
		const ask = (number: string) => (tracking.includes(number) ? 'required' : 'not asked');
		await tx`INSERT INTO marking_rule (item_id, step, lot, serial)
			SELECT ${fresh.id}::bigint, step, ${ask('lot')}::text, ${ask('serial')}::text FROM unnest(${steps}::text[]) step`;
		await setNumbering(tx, fresh.id, tracking, item);
		if (item.parts?.length) await setParts(tx, fresh.id, item.code, item.parts);
		return { id: fresh.id, created: true };
	}) as Promise<{ id: string; created: boolean }>;
}

interface Numbering {
	leastLeft?: string | null;
	gtin?: string | null;
	lotPattern?: string | null;
	serialPattern?: string | null;
	misfit?: string;
}
/** Sets where an item's numbers come from. @throws Problem when a pattern is unknown, or the GTIN is another item's */
async function setNumbering(tx: Db, id: string, tracking: string, n: Numbering) {
	for (const [kind, code] of [
		['lot', n.lotPattern],
		['serial', n.serialPattern]
	] as const) {
		if (!code) continue;
		if (!tracking.includes(kind)) throw new Problem([{ message: `The item carries no ${kind}: take its pattern out.`, at: `${kind}Pattern` }]); // prettier-ignore
		const [there] = await tx`SELECT 1 FROM number_pattern WHERE code = ${code}`;
		if (!there) throw new Problem([{ message: `There is no number pattern ${code}. Make it in Setup, Number patterns.`, at: `${kind}Pattern` }]); // prettier-ignore
	}
	if (n.gtin) {
		const [other] = await tx<{ code: string }[]>`SELECT code FROM item WHERE gtin = ${n.gtin} AND id <> ${id}`;
		if (other) throw new Problem([{ message: `GTIN ${n.gtin} stands for ${other.code} already. Check the label.`, at: 'gtin' }]); // prettier-ignore
	}
	await tx`UPDATE item SET gtin = ${n.gtin ?? null}, misfit = ${n.misfit ?? 'stop'}, least_left = ${n.leastLeft ?? null},
		lot_pattern_id = (SELECT id FROM number_pattern WHERE code = ${n.lotPattern ?? null}),
		serial_pattern_id = (SELECT id FROM number_pattern WHERE code = ${n.serialPattern ?? null}) WHERE id = ${id}`;
}

/** Replaces an item's parts list. @throws Problem when a part is unknown or would contain the item itself */
export async function setParts(tx: Db, id: string, code: string, parts: { item: string; qty: string }[]) {
	await tx`DELETE FROM part WHERE item_id = ${id}`;
	const rows = await tx`INSERT INTO part (item_id, part_item_id, qty)
		SELECT ${id}::bigint, i.id, p.qty FROM unnest(${parts.map((p) => p.item)}::text[], ${parts.map((p) => p.qty)}::numeric[]) p(code, qty)
		JOIN item i ON i.code = p.code AND i.id <> ${id} ON CONFLICT DO NOTHING`;
	if (rows.count !== parts.length)
		throw new Problem([{ message: `A part of ${code} is unknown, stands twice, or is ${code} itself. Check the parts list.`, at: 'parts' }]); // prettier-ignore
	const [loop] = await tx`
		WITH RECURSIVE down AS (SELECT part_item_id AS id FROM part WHERE item_id = ${id}
			UNION SELECT p.part_item_id FROM down JOIN part p ON p.item_id = down.id) SELECT 1 FROM down WHERE id = ${id}`;
	if (loop) throw new Problem([{ message: `${code} would contain itself through its parts. Take that part out.`, at: 'parts' }]); // prettier-ignore
}

export interface ItemRow {
	id: string;
	code: string;
	name: string;
	unit: string;
	decimals: number;
	tracking: 'none' | 'lot' | 'serial' | 'lot and serial';
	expiry: 'not asked' | 'asked' | 'required';
	shelfLife: string | null;
	runMode: 'pooled' | 'unit';
	contentQty: string | null;
	contentUnit: string | null;
	serialsUniqueEverywhere: boolean;
	leastLeft: string | null;
	gtin: string | null;
	lotPattern: string | null;
	serialPattern: string | null;
	misfit: 'stop' | 'reason' | 'note';
	marks: number;
	parts: { item: string; name: string; qty: string; unit: string }[];
	rules: Rule[];
}
/** Items with their rule and parts; all, or one by its code. */
export const listItems = (sql: Db, code: string | null = null) => sql<ItemRow[]>`
	SELECT i.id, i.code, i.name, i.unit, i.decimals, i.tracking, i.expiry, i.shelf_life AS "shelfLife", i.run_mode AS "runMode",
		trim_scale(i.content_qty)::text AS "contentQty", i.content_unit AS "contentUnit", i.serials_unique_everywhere AS "serialsUniqueEverywhere", i.gtin, i.misfit, i.least_left AS "leastLeft",
		(SELECT code FROM number_pattern WHERE id = i.lot_pattern_id) AS "lotPattern", (SELECT code FROM number_pattern WHERE id = i.serial_pattern_id) AS "serialPattern",
		(SELECT count(*)::int FROM (SELECT 1 FROM mark k WHERE k.item_id = i.id LIMIT 1000) n) AS marks,
		coalesce((SELECT json_agg(json_build_object('item', p.code, 'name', p.name, 'qty', trim_scale(x.qty)::text, 'unit', p.unit) ORDER BY p.code)
			FROM part x JOIN item p ON p.id = x.part_item_id WHERE x.item_id = i.id), '[]') AS parts,
		coalesce((SELECT json_agg(json_build_object('step', r.step, 'lot', r.lot, 'serial', r.serial)) FROM marking_rule r WHERE r.item_id = i.id), '[]') AS rules
	FROM item i ${code ? sql`WHERE i.code = ${code}` : sql``} ORDER BY i.code`;

const ask = z.enum(['not asked', 'asked', 'required']);
export const itemChange = z.strictObject({
	name: text(200),
	expiry: ask,
	shelfLife: itemInput.shape.shelfLife,
	leastLeft: itemInput.shape.leastLeft,
	gtin: itemInput.shape.gtin,
	lotPattern: itemInput.shape.lotPattern,
	serialPattern: itemInput.shape.serialPattern,
	misfit: itemInput.shape.misfit,
	rules: z.array(z.strictObject({ step: z.enum(steps as [string, ...string[]]), lot: ask, serial: ask })).max(10),
	parts: z.array(z.strictObject({ item: text(60), qty: decimalText })).max(100)
});

/**
 * What a change of a marking rule means for the stock on hand and the documents that are open, in sentences.
 * @returns empty when the rule stays as it is
 */
export async function ruleMeans(sql: Db, code: string, rules: Rule[]): Promise<string[]> {
	const [item] = await listItems(sql, code);
	if (!item) return [];
	const changes = changesOf(item.rules, rules);
	if (!changes.length) return [];
	const [stock] = await sql<{ unmarked: string; lots: string }[]>`
		SELECT coalesce(trim_scale(sum(b.qty) FILTER (WHERE k.kind = 'unmarked')), 0)::text AS unmarked, coalesce(trim_scale(sum(b.qty) FILTER (WHERE k.kind = 'lot')), 0)::text AS lots
		FROM mark k JOIN balance b ON b.mark_id = k.id AND NOT b.virtual AND b.qty > 0 WHERE k.item_id = ${item.id}`;
	const open = await sql<{ step: string; codes: string[]; n: number }[]>`
		SELECT step, (array_agg(code ORDER BY code))[1:5] AS codes, count(*)::int AS n FROM (
			SELECT DISTINCT o.code, CASE WHEN l.role = 'output' THEN 'production output' WHEN l.role = 'component' THEN 'production use' WHEN o.kind = 'sale' THEN 'shipment' ELSE 'receipt' END AS step
			FROM order_line l JOIN orders o ON o.id = l.order_id AND o.closed_at IS NULL WHERE l.item_id = ${item.id}) x GROUP BY step`;
	const unit = item.unit === 'each' ? 'pieces' : item.unit;
	// Steps that mean the same stand in one sentence.
	const groups = new Map<
		string,
		{ number: string; how: string; hand: string; steps: string[]; orders: string[]; more: number }
	>();
	for (const c of changes) {
		const how = { 'not asked': 'is no longer asked', asked: 'is asked', required: 'is required' }[c.to];
		const list = [c.number === 'serial' && stock.lots !== '0' && `${show(stock.lots)} ${unit} in lots`, stock.unmarked !== '0' && `${show(stock.unmarked)} ${unit} without any number`].filter(Boolean); // prettier-ignore
		const hand = !c.stricter
			? ': what is booked without one is unmarked stock, and a trace says so as a gap.'
			: list.length && c.step !== 'receipt' && c.step !== 'production output'
				? `. ${list.join(' and ')} on hand ${c.step === 'shipment' && c.number === 'serial' ? 'get theirs when they are shipped' : 'cannot be booked there until they have one'}.` // prettier-ignore
				: '.';
		const key = c.number + how + hand;
		const group = groups.get(key) ?? { number: c.number, how, hand, steps: [], orders: [], more: 0 };
		group.steps.push(c.step);
		const there = open.find((o) => o.step === c.step);
		if (there) {
			group.orders.push(...there.codes);
			group.more += there.n - there.codes.length;
		}
		groups.set(key, group);
	}
	return [...groups.values()].map(({ number, how, hand, steps, orders, more }) => {
		const last = orders.length === 1 && !more ? 'is open and keeps' : 'are open and keep';
		const names = inSentence(more ? [...orders, `${more} more`] : orders);
		return `A ${number} ${how} at ${inSentence(steps)}${hand}${orders.length ? ` ${names} ${last} to it from now on.` : ''}`; // prettier-ignore
	});
}

/**
 * Changes what may change of an item: its name, shelf life, marking rule and parts list. What it carries (lot, serial),
 * its unit and its decimals stay, for the numbers booked with them.
 */
export async function changeItem(sql: Sql, code: string, input: z.input<typeof itemChange>): Promise<void> {
	const change = parse(itemChange, input);
	await sql.begin(async (raw) => {
		const tx = raw as unknown as Db;
		const [item] = await tx<{ id: string; tracking: string; run_mode: string }[]>`
			UPDATE item SET name = ${change.name}, expiry = ${change.expiry}, shelf_life = ${change.shelfLife ?? null} WHERE code = ${code} RETURNING id, tracking, run_mode`;
		if (!item) throw new Problem(`There is no item ${code}.`, 404);
		const { tracking } = item;
		const wrong = change.rules.find((r) => (r.lot !== 'not asked' && !tracking.includes('lot')) || (r.serial !== 'not asked' && !tracking.includes('serial'))); // prettier-ignore
		if (wrong)
			throw new Problem([
				{ message: `${code} carries ${tracking}: nothing else can be asked at ${wrong.step}.`, at: 'rules' }
			]);
		if (item.run_mode === 'unit' && change.rules.some((r) => r.step === 'production output' && r.serial !== 'required'))
			throw new Problem([{ message: `${code} has one run for each finished serial: its serial is required at production output. Set that step back to required.`, at: 'rules' }]); // prettier-ignore
		await tx`UPDATE marking_rule r SET lot = n.lot, serial = n.serial, since = now()
			FROM unnest(${change.rules.map((r) => r.step)}::text[], ${change.rules.map((r) => r.lot)}::text[], ${change.rules.map((r) => r.serial)}::text[]) n(step, lot, serial)
			WHERE r.item_id = ${item.id} AND r.step = n.step AND (r.lot, r.serial) <> (n.lot, n.serial)`;
		await setNumbering(tx, item.id, tracking, change);
		await setParts(tx, item.id, code, change.parts);
	});
}
