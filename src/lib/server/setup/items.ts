import { z } from 'zod';
import type { Db, Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { parse } from '../people/people.ts';

const text = (max: number) => z.string().trim().min(1).max(max);
const decimalText = z
	.union([
		z.number().positive(),
		z.string().regex(/^\d{1,12}(\.\d{1,6})?$/, 'Type digits, with a point before decimals.')
	])
	.transform(String);

export const itemInput = z.strictObject({
	code: text(60).regex(/^\S+$/, 'An item’s code has no blanks in it.'),
	name: text(200),
	unit: text(20),
	decimals: z.coerce.number().int().min(0).max(6).default(0),
	tracking: z.enum(['none', 'lot', 'serial', 'lot and serial']),
	expiry: z.enum(['not asked', 'asked', 'required']).default('not asked'),
	shelfLife: z
		.string()
		.regex(/^P(?=\d)(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$/, 'Shelf life is a duration such as P12M or P90D.')
		.nullish(),
	runMode: z.enum(['pooled', 'unit']).default('pooled'),
	contentQty: decimalText.nullish(),
	contentUnit: text(20).nullish(),
	serialsUniqueEverywhere: z.boolean().default(false),
	parts: z
		.array(z.strictObject({ item: text(60), qty: decimalText }))
		.max(100)
		.optional()
});
export type ItemInput = z.input<typeof itemInput>;

const steps = [
	...['receipt', 'customer return', 'production use', 'production output', 'move'],
	...['transfer', 'shipment', 'supplier return', 'adjustment', 'count']
];

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
		if (item.parts?.length) await setParts(tx, fresh.id, item.code, item.parts);
		return { id: fresh.id, created: true };
	}) as Promise<{ id: string; created: boolean }>;
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
	marks: number;
	parts: { item: string; name: string; qty: string; unit: string }[];
	rules: { step: string; lot: string; serial: string }[];
}
/** Items with their rule and parts; all, or one by its code. */
export const listItems = (sql: Db, code: string | null = null) => sql<ItemRow[]>`
	SELECT i.id, i.code, i.name, i.unit, i.decimals, i.tracking, i.expiry, i.shelf_life AS "shelfLife", i.run_mode AS "runMode",
		trim_scale(i.content_qty)::text AS "contentQty", i.content_unit AS "contentUnit", i.serials_unique_everywhere AS "serialsUniqueEverywhere",
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
	rules: z.array(z.strictObject({ step: z.enum(steps as [string, ...string[]]), lot: ask, serial: ask })).max(10),
	parts: z.array(z.strictObject({ item: text(60), qty: decimalText })).max(100)
});

/**
 * Changes what may change of an item: its name, shelf life, marking rule and parts list. What it carries (lot, serial),
 * its unit and its decimals stay, for the numbers booked with them.
 */
export async function changeItem(sql: Sql, code: string, input: z.input<typeof itemChange>): Promise<void> {
	const change = parse(itemChange, input);
	await sql.begin(async (raw) => {
		const tx = raw as unknown as Db;
		const [item] = await tx<{ id: string; tracking: string }[]>`
			UPDATE item SET name = ${change.name}, expiry = ${change.expiry}, shelf_life = ${change.shelfLife ?? null} WHERE code = ${code} RETURNING id, tracking`;
		if (!item) throw new Problem(`There is no item ${code}.`, 404);
		const { tracking } = item;
		const wrong = change.rules.find((r) => (r.lot !== 'not asked' && !tracking.includes('lot')) || (r.serial !== 'not asked' && !tracking.includes('serial'))); // prettier-ignore
		if (wrong)
			throw new Problem([
				{ message: `${code} carries ${tracking}: nothing else can be asked at ${wrong.step}.`, at: 'rules' }
			]);
		await tx`UPDATE marking_rule r SET lot = n.lot, serial = n.serial, since = now()
			FROM unnest(${change.rules.map((r) => r.step)}::text[], ${change.rules.map((r) => r.lot)}::text[], ${change.rules.map((r) => r.serial)}::text[]) n(step, lot, serial)
			WHERE r.item_id = ${item.id} AND r.step = n.step AND (r.lot, r.serial) <> (n.lot, n.serial)`;
		await setParts(tx, item.id, code, change.parts);
	});
}
