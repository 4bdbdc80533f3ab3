import { z } from 'zod';
import { EXPIRY_FROM, type ExpiryFrom } from '../../core/ledger/line.ts';
import { measuresOf } from './measures.ts';
import type { Measures } from '../../core/weight/weight.ts';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { gtin14 } from '../../core/codes/check.ts';
import { nothing, STEPS, type How, type Rule, type Step } from '../../core/marking/rule.ts';
import { Problem } from '../../core/problem/problem.ts';
import { duration, isSeen, line, UNSEEN } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { unreadable } from '../../core/quantity/sign.ts';
import { PREFERENCES, type Preference } from '../../core/allocation/allocate.ts';
import { parse } from '../parse.ts';
import { daysLeftInput } from './places.ts';
import { listFacts } from './facts.ts';
import { inOrder, kindRules, meansFor, refuseRule, rulesInput, rulesOf, ruleSettings, saveRules } from './rules.ts';

const text = (max: number) => line(max);
const decimalText = z
	.union([
		z.number().positive(),
		z.string().regex(/^\d{1,12}(\.\d{1,6})?$/, { error: (e) => unreadable(String(e.input), 'a quantity') })
	])
	.transform(String);

/** A GTIN of 8, 12, 13 or 14 digits, kept as the 14 that codes carry. */
const gtinInput = z.string().transform((t, ctx) => {
	const gtin = gtin14(t.trim());
	if (gtin) return gtin;
	ctx.addIssue({
		code: 'custom',
		message: `${t.trim().slice(0, 20)} is not a GTIN: it has 8, 12, 13 or 14 digits, and the last one is its check digit. Copy it from the label.`
	});
	return z.NEVER;
});

const measure = (most: number, what: string) =>
	decimalText.refine((q) => Number(q) <= most, `${what} is at most ${most.toLocaleString('en')}.`).nullish();
/** What one base unit weighs, in kilograms, and how large it is, in centimetres, as parsed. */
export const measuresInput = z
	.strictObject({
		net: measure(100_000, 'A weight'),
		gross: measure(100_000, 'A weight'),
		length: measure(10_000, 'A length'),
		width: measure(10_000, 'A width'),
		height: measure(10_000, 'A height'),
		/** in kilograms, where it is given and not worked out */
		volumetric: measure(100_000, 'A weight')
	})
	.refine((m) => !m.net || !m.gross || Number(m.net) <= Number(m.gross), {
		message: 'It weighs less gross than net. Check the two.',
		path: ['gross']
	})
	.refine((m) => new Set([m.length, m.width, m.height].map((x) => !!x && Number(x) > 0)).size === 1, {
		message: 'A size needs length, width and height.',
		path: ['length']
	});
/** Items with how much of each belongs to one of another. */
const partsInput = z.array(z.strictObject({ item: text(60), qty: decimalText })).max(100);
/** An item, as parsed. */
export const itemInput = z.strictObject({
	code: text(60)
		.refine((t) => /^[^\s/?#%]+$/u.test(t), 'An item’s code has no blanks in it, and none of / ? # %.')
		.refine(isSeen, UNSEEN),
	name: text(200),
	unit: text(20),
	decimals: z.coerce.number().int().min(0).max(6).default(0),
	tracking: z.enum(['none', 'lot', 'serial', 'lot and serial']),
	/** at receipt; at output too when the item has a shelf life to work it out from */
	expiry: z.enum(['not asked', 'asked', 'required']).default('not asked'),
	shelfLife: duration.nullish(),
	/** a date worked out is put off to the last day of its month */
	endOfMonth: z.boolean().default(false),
	/** how the date of what is made comes about: its own shelf life, the first of what went in, the earlier of both */
	expiryFrom: z.enum(EXPIRY_FROM).nullish(),
	/** from shipment on */
	warranty: duration.nullish(),
	/** code of a kind whose marking rule counts; `expiry` is that rule's matter then */
	kind: text(30).nullish(),
	/** how much of its life must be left when it arrives */
	leastLeft: duration.nullish(),
	/** days that what is shipped must live at least, where the customer asks nothing else */
	minimumDaysLeft: daysLeftInput.nullish(),
	/** days before its expiry at which it is noticed early; thirty where nothing is said */
	earlyNotice: daysLeftInput.nullish(),
	/** what is taken first of it, where that is not what its site or the firm does */
	preference: z.enum(PREFERENCES).nullish(),
	/** as few lots and bins as the quantity allows */
	oneLot: z.boolean().nullish(),
	runMode: z.enum(['pooled', 'unit']).default('pooled'),
	contentQty: decimalText.refine((q) => Number(q) > 0, 'A content is more than zero.').nullish(),
	contentUnit: text(20).nullish(),
	/** how much of it may be lost in repacking without a reason, in per cent */
	lossTolerance: decimalText.refine((q) => Number(q) <= 100, 'A tolerance is at most 100 %.').nullish(),
	/** kilograms and centimetres of one base unit */
	measures: measuresInput.nullish(),
	serialsUniqueEverywhere: z.boolean().default(false),
	gtin: gtinInput.nullish(),
	/** codes of number patterns */
	lotPattern: text(30).nullish(),
	serialPattern: text(30).nullish(),
	misfit: z.enum(['stop', 'reason', 'note']).default('stop'),
	/** when new numbers are drawn: in the sheet, or as soon as the order is released */
	drawnAt: z.enum(['sheet', 'release']).default('sheet'),
	/** the supplier's lot and serial: kept beside ours, printed on labels too, or used as ours */
	supplierNumber: z.enum(['beside', 'printed', 'ours']).default('beside'),
	/** what stations put together of it waits for a review before it is booked */
	review: z.boolean().default(false),
	parts: partsInput.optional(),
	/** what comes out beside it, where it is made as one batch: off-cuts, by-products */
	byproducts: partsInput.optional()
});
/** The same before what was left out is filled in. */
export type ItemInput = z.input<typeof itemInput>;

/**
 * Makes an item with its marking rule and parts list. The same code again with the same content changes nothing.
 * @returns whether it is new
 * @throws Problem when the code stands for another item, or a part is unknown
 */
export async function createItem(
	sql: Sql,
	by: string,
	input: unknown
): Promise<{ id: string; code: string; created: boolean }> {
	const item = parse(itemInput, input);
	const { tracking } = item;
	if (tracking.includes('serial') && item.decimals > 0)
		throw new Problem([
			{ message: 'An item with serials comes in whole pieces: set its decimals to 0.', at: 'decimals' }
		]);
	if (item.runMode === 'unit' && !tracking.includes('serial'))
		throw new Problem([
			{
				message: 'What is made one by one needs serials. Choose to carry serials, or made as one batch.',
				at: 'runMode'
			}
		]);
	if (!!item.contentQty !== !!item.contentUnit)
		throw new Problem([{ message: 'Content needs both a quantity and a unit.', at: 'contentQty' }]);
	return transaction(sql, async (tx) => {
		const [fresh] = await tx<{ id: string }[]>`
			INSERT INTO item (code, name, unit, decimals, tracking, shelf_life, run_mode, content_qty, content_unit, serials_unique_everywhere)
			VALUES (${item.code}, ${item.name}, ${item.unit}, ${item.decimals}, ${tracking}, ${item.shelfLife ?? null},
				${item.runMode}, ${item.contentQty ?? null}, ${item.contentUnit ?? null}, ${item.serialsUniqueEverywhere})
			ON CONFLICT (code) DO NOTHING RETURNING id`;
		if (!fresh) {
			const [same] = await tx<{ id: string }[]>`
				SELECT id FROM item i WHERE code = ${item.code} AND name = ${item.name} AND unit = ${item.unit} AND tracking = ${tracking}
					AND decimals = ${item.decimals} AND run_mode = ${item.runMode}
					AND (${item.kind ?? null}::text IS NOT NULL OR ${tracking} = 'none' OR EXISTS (SELECT 1 FROM item_rule r WHERE r.item_id = i.id AND r.step = 'receipt' AND r.expiry = ${item.expiry}))
					AND (shelf_life, content_qty, content_unit) IS NOT DISTINCT FROM (${item.shelfLife ?? null}::text, ${item.contentQty ?? null}::numeric, ${item.contentUnit ?? null}::text)`;
			if (same) return { id: same.id, code: item.code, created: false };
			throw new Problem(
				[
					{
						message: `Item ${item.code} exists with other particulars. Take another code, or change it in Setup.`,
						at: 'code'
					}
				],
				409
			);
		}
		const ask = (number: string): How => (tracking.includes(number) ? 'required' : 'not asked');
		const dated = (step: Step): How =>
			step === 'receipt'
				? item.expiry
				: step === 'production output' && item.shelfLife && item.expiry !== 'not asked'
					? 'asked'
					: 'not asked';
		await saveRules(
			tx,
			{ item: fresh.id },
			STEPS.map((step) => ({ ...nothing(step), lot: ask('lot'), serial: ask('serial'), expiry: dated(step) }))
		);
		await setKind(tx, fresh.id, item.kind ?? null, !item.kind);
		await setNumbering(tx, fresh.id, tracking, item);
		await setLoss(tx, fresh.id, item.lossTolerance);
		await setMeasures(tx, fresh.id, item.measures);
		await setExpiryFrom(tx, fresh.id, item.expiryFrom);
		await setTerms(tx, fresh.id, item);
		if (item.parts?.length) await setParts(tx, fresh.id, item.code, item.parts);
		if (item.byproducts?.length)
			await setByproducts(tx, { id: fresh.id, code: item.code, runMode: item.runMode }, item.byproducts);
		const [made] = await listItems(tx, item.code);
		await keepHistory(tx, by, 'item', item.code, null, settingsOf(made));
		return { id: fresh.id, code: item.code, created: true };
	});
}

interface Numbering {
	leastLeft?: string | null;
	gtin?: string | null;
	lotPattern?: string | null;
	serialPattern?: string | null;
	misfit?: string;
	endOfMonth?: boolean;
	warranty?: string | null;
	drawnAt?: string;
	supplierNumber?: string;
	review?: boolean;
}
/** Sets how much may be lost of an item; nothing given, nothing changed. */
const setLoss = async (tx: Db, id: string, percent: string | null | undefined) => {
	if (percent !== undefined) await tx`UPDATE item SET loss_tolerance = ${percent ?? '0'} WHERE id = ${id}`;
};
/** Sets how the date of what is made comes about; nothing given, nothing changed. */
const setExpiryFrom = async (tx: Db, id: string, from: ExpiryFrom | null | undefined) => {
	if (from) await tx`UPDATE item SET expiry_from = ${from} WHERE id = ${id}`;
};
/** Sets what an item weighs and measures; nothing given, nothing changed. */
async function setMeasures(tx: Db, id: string, m: z.output<typeof measuresInput> | null | undefined) {
	if (m === undefined) return;
	const given = (q: string | null | undefined) => (q && Number(q) > 0 ? q : null);
	await tx`UPDATE item SET net_weight = ${given(m?.net)}, gross_weight = ${given(m?.gross)}, length_cm = ${given(m?.length)}, width_cm = ${given(m?.width)},
		height_cm = ${given(m?.height)}, volumetric_weight = ${given(m?.volumetric)} WHERE id = ${id}`;
}
/** Sets the picture of an item; null takes it away. @throws Problem when there is no such item */
export async function setPicture(sql: Sql, by: string, code: string, sha256: string | null): Promise<void> {
	await transaction(sql, async (tx) => {
		const [was] = await tx<
			{ id: string; picture: string | null }[]
		>`SELECT id, picture FROM item WHERE code = ${code} FOR UPDATE`;
		if (!was) throw new Problem(`There is no item ${code}.`, 404);
		const [file] = await tx<{ type: string }[]>`SELECT type FROM stored_file WHERE sha256 = ${sha256}`;
		if (sha256 && !file?.type.startsWith('image/'))
			throw new Problem([{ message: 'A picture is a PNG or JPEG. Save it as one of these.', at: 'file' }]);
		await tx`UPDATE item SET picture = ${sha256} WHERE id = ${was.id}`;
		await keepHistory(tx, by, 'item', code, { picture: was.picture }, { picture: sha256 });
	});
}
/**
 * Sets how much of what one base unit of an item holds. What was repacked was weighed out by it: from then on it stays.
 * @throws Problem when only half of it is given, or it was repacked
 */
async function setContent(tx: Db, was: ItemRow, qty: string | null, unit: string | null) {
	if (!!qty !== !!unit) throw new Problem([{ message: 'Content needs both a quantity and a unit.', at: 'contentQty' }]);
	if (qty === was.contentQty && unit === was.contentUnit) return;
	const [repacked] = await tx<{ document: string | null }[]>`
		SELECT e.document FROM mark k JOIN movement m ON m.mark_id = k.id JOIN event e ON e.id = m.event_id AND e.kind = 'repack' WHERE k.item_id = ${was.id} LIMIT 1`;
	if (repacked)
		throw new Problem([
			{
				message: `${was.code} was repacked${repacked.document ? ` (${repacked.document})` : ''}, by the content it has. Make another item for another pack.`,
				at: 'contentQty'
			}
		]);
	await tx`UPDATE item SET content_qty = ${qty}, content_unit = ${unit} WHERE id = ${was.id}`;
}
/** Puts an item into a kind, and says whose rule counts. @throws Problem when the kind is unknown */
async function setKind(tx: Db, id: string, code: string | null, ownRule: boolean) {
	const [kind] = code ? await tx<{ id: string }[]>`SELECT id FROM item_kind WHERE code = ${code}` : [];
	if (code && !kind) throw new Problem([{ message: `There is no kind ${code}. Make it in Setup, Kinds.`, at: 'kind' }]);
	const own = ownRule || !kind;
	await tx`UPDATE item SET kind_id = ${kind?.id ?? null}, own_rule = ${own},
		rule_since = CASE WHEN own_rule <> ${own} OR (NOT ${own} AND kind_id IS DISTINCT FROM ${kind?.id ?? null}::bigint) THEN now() ELSE rule_since END WHERE id = ${id}`;
}
/** Sets where an item's numbers come from. @throws Problem when a pattern is unknown, or the GTIN is another item's */
async function setNumbering(tx: Db, id: string, tracking: string, n: Numbering) {
	for (const [kind, code] of [
		['lot', n.lotPattern],
		['serial', n.serialPattern]
	] as const) {
		if (!code) continue;
		if (!tracking.includes(kind))
			throw new Problem([{ message: `The item carries no ${kind}: take its pattern out.`, at: `${kind}Pattern` }]);
		const [there] = await tx`SELECT 1 FROM number_pattern WHERE code = ${code}`;
		if (!there)
			throw new Problem([
				{ message: `There is no number pattern ${code}. Make it in Setup, Number patterns.`, at: `${kind}Pattern` }
			]);
	}
	if (n.gtin) {
		const [other] = await tx<{ code: string }[]>`SELECT code FROM item WHERE gtin = ${n.gtin} AND id <> ${id}`;
		if (other)
			throw new Problem([{ message: `GTIN ${n.gtin} stands for ${other.code} already. Check the label.`, at: 'gtin' }]);
	}
	await tx`UPDATE item SET gtin = ${n.gtin ?? null}, misfit = ${n.misfit ?? 'stop'}, least_left = ${n.leastLeft ?? null},
		end_of_month = ${n.endOfMonth ?? false}, warranty = ${n.warranty ?? null}, drawn_at = ${n.drawnAt ?? 'sheet'}, supplier_number = ${n.supplierNumber ?? 'beside'}, review = ${n.review ?? false},
		lot_pattern_id = (SELECT id FROM number_pattern WHERE code = ${n.lotPattern ?? null}),
		serial_pattern_id = (SELECT id FROM number_pattern WHERE code = ${n.serialPattern ?? null}) WHERE id = ${id}`;
}

/** Sets what of an item is taken first, and what is asked of what is shipped; what is left out stays. */
async function setTerms(
	tx: Db,
	id: string,
	t: {
		minimumDaysLeft?: number | null;
		earlyNotice?: number | null;
		preference?: Preference | null;
		oneLot?: boolean | null;
	}
) {
	const set = {
		...(t.minimumDaysLeft === undefined ? {} : { days_left: t.minimumDaysLeft }),
		...(t.earlyNotice === undefined ? {} : { notice_days: t.earlyNotice }),
		...(t.preference === undefined ? {} : { preference: t.preference }),
		...(t.oneLot === undefined ? {} : { one_lot: t.oneLot ?? false })
	};
	if (Object.keys(set).length) await tx`UPDATE item SET ${tx(set)} WHERE id = ${id}`;
}

/** Replaces the items that belong to one of an item. @throws Problem when one is unknown, stands twice, or is the item itself */
async function replaceItems(
	tx: Db,
	list: { table: 'part' | 'byproduct'; column: string; at: string; word: string },
	of: { id: string; code: string },
	items: readonly { item: string; qty: string }[]
) {
	await tx`DELETE FROM ${tx(list.table)} WHERE item_id = ${of.id}`;
	const rows = await tx`INSERT INTO ${tx(list.table)} (item_id, ${tx(list.column)}, qty)
		SELECT ${of.id}::bigint, i.id, p.qty FROM unnest(${items.map((p) => p.item)}::text[], ${items.map((p) => p.qty)}::numeric[]) p(code, qty)
		JOIN item i ON i.code = p.code AND i.id <> ${of.id} ON CONFLICT DO NOTHING`;
	if (rows.count !== items.length)
		throw new Problem([
			{
				message: `A ${list.word} of ${of.code} is unknown, stands twice, or is ${of.code} itself. Check the list.`,
				at: list.at
			}
		]);
}
const PARTS = { table: 'part', column: 'part_item_id', at: 'parts', word: 'part' } as const;
const BYPRODUCTS = { table: 'byproduct', column: 'out_item_id', at: 'byproducts', word: 'by-product' } as const;

/** Replaces an item's parts list. @throws Problem when a part is unknown or would contain the item itself */
export async function setParts(tx: Db, id: string, code: string, parts: { item: string; qty: string }[]) {
	await replaceItems(tx, PARTS, { id, code }, parts);
	const [loop] = await tx`
		WITH RECURSIVE down AS (SELECT part_item_id AS id FROM part WHERE item_id = ${id}
			UNION SELECT p.part_item_id FROM down JOIN part p ON p.item_id = down.id) SELECT 1 FROM down WHERE id = ${id}`;
	if (loop)
		throw new Problem([
			{ message: `${code} would contain itself through its parts. Take that part out.`, at: 'parts' }
		]);
}

/** Replaces what comes out beside an item. @throws Problem when an item is unknown, or the item is not made as a batch */
async function setByproducts(
	tx: Db,
	item: { id: string; code: string; runMode?: string },
	list: { item: string; qty: string }[]
) {
	if (list.length && item.runMode === 'unit')
		throw new Problem([
			{
				message: `${item.code} is made one by one, and what comes out beside it belongs to a batch. Leave its by-products out.`,
				at: 'byproducts'
			}
		]);
	await replaceItems(tx, BYPRODUCTS, item, list);
}

/** An item as the list shows it. */
export interface ItemRow {
	id: string;
	code: string;
	name: string;
	unit: string;
	decimals: number;
	tracking: 'none' | 'lot' | 'serial' | 'lot and serial';
	/** as the rule asks it at receipt */
	expiry: How;
	shelfLife: string | null;
	endOfMonth: boolean;
	expiryFrom: ExpiryFrom;
	warranty: string | null;
	runMode: 'pooled' | 'unit';
	contentQty: string | null;
	contentUnit: string | null;
	lossTolerance: string;
	measures: Measures;
	/** what it looks like: the SHA-256 of a file */
	picture: string | null;
	serialsUniqueEverywhere: boolean;
	leastLeft: string | null;
	minimumDaysLeft: number | null;
	earlyNotice: number | null;
	preference: Preference | null;
	oneLot: boolean;
	gtin: string | null;
	lotPattern: string | null;
	serialPattern: string | null;
	misfit: 'stop' | 'reason' | 'note';
	drawnAt: 'sheet' | 'release';
	supplierNumber: 'beside' | 'printed' | 'ours';
	/** units of it wait for a review */
	review: boolean;
	/** code of the kind it belongs to */
	kind: string | null;
	/** false: the rule of its kind counts */
	ownRule: boolean;
	parts: { item: string; name: string; qty: string; unit: string }[];
	/** what comes out beside one of it */
	byproducts: { item: string; qty: string }[];
	/** the rule that counts */
	rules: Rule[];
}
/** Items with the rule that counts for them and their parts; all, or one by its code. */
export async function listItems(sql: Db, code: string | null = null): Promise<ItemRow[]> {
	const rows = await sql<ItemRow[]>`
		SELECT i.id, i.code, i.name, i.unit, i.decimals, i.tracking, i.shelf_life AS "shelfLife", i.end_of_month AS "endOfMonth", i.expiry_from AS "expiryFrom", i.warranty, i.run_mode AS "runMode",
			trim_scale(i.content_qty)::text AS "contentQty", i.content_unit AS "contentUnit", trim_scale(i.loss_tolerance)::text AS "lossTolerance", ${measuresOf(sql)} AS measures, i.picture, i.serials_unique_everywhere AS "serialsUniqueEverywhere", i.gtin, i.misfit, i.least_left AS "leastLeft",
			i.days_left AS "minimumDaysLeft", i.notice_days AS "earlyNotice", i.preference, i.one_lot AS "oneLot",
			i.drawn_at AS "drawnAt", i.supplier_number AS "supplierNumber", i.review, d.code AS kind, i.own_rule AS "ownRule",
			(SELECT code FROM number_pattern WHERE id = i.lot_pattern_id) AS "lotPattern", (SELECT code FROM number_pattern WHERE id = i.serial_pattern_id) AS "serialPattern",
			coalesce((SELECT json_agg(json_build_object('item', p.code, 'name', p.name, 'qty', trim_scale(x.qty)::text, 'unit', p.unit) ORDER BY p.code)
				FROM part x JOIN item p ON p.id = x.part_item_id WHERE x.item_id = i.id), '[]') AS parts,
			coalesce((SELECT json_agg(json_build_object('item', p.code, 'qty', trim_scale(x.qty)::text) ORDER BY p.code)
				FROM byproduct x JOIN item p ON p.id = x.out_item_id WHERE x.item_id = i.id), '[]') AS byproducts,
			${rulesOf(sql)} AS rules
		FROM item i LEFT JOIN item_kind d ON d.id = i.kind_id ${code ? sql`WHERE i.code = ${code}` : sql``} ORDER BY i.code`;
	return rows.map((r) => {
		const rules = inOrder(r.rules);
		return { ...r, rules, expiry: rules.find((x) => x.step === 'receipt')!.expiry };
	});
}

/** What can be changed of an item, as parsed. */
export const itemChange = z.strictObject({
	name: text(200),
	/** what it carries from now on, where that is more than before; left out, it stays as it is */
	tracking: itemInput.shape.tracking.optional(),
	shelfLife: itemInput.shape.shelfLife,
	endOfMonth: itemInput.shape.endOfMonth,
	/** left out, it stays as it is */
	expiryFrom: itemInput.shape.expiryFrom,
	warranty: itemInput.shape.warranty,
	leastLeft: itemInput.shape.leastLeft,
	/** left out, they stay as they are */
	minimumDaysLeft: itemInput.shape.minimumDaysLeft,
	earlyNotice: itemInput.shape.earlyNotice,
	preference: itemInput.shape.preference,
	oneLot: itemInput.shape.oneLot,
	gtin: itemInput.shape.gtin,
	lotPattern: itemInput.shape.lotPattern,
	serialPattern: itemInput.shape.serialPattern,
	misfit: itemInput.shape.misfit,
	drawnAt: itemInput.shape.drawnAt,
	supplierNumber: itemInput.shape.supplierNumber,
	review: itemInput.shape.review,
	/** left out, it stays as it is */
	contentQty: itemInput.shape.contentQty,
	contentUnit: itemInput.shape.contentUnit,
	lossTolerance: itemInput.shape.lossTolerance,
	measures: itemInput.shape.measures,
	kind: itemInput.shape.kind,
	/** false: the rule of its kind counts, and `rules` is not looked at */
	ownRule: z.boolean().default(true),
	rules: rulesInput,
	parts: partsInput,
	/** left out, they stay as they are */
	byproducts: partsInput.optional()
});

/** What of an item's change touches its marking rule. */
/** Lets an item carry more numbers than before. @throws Problem when it would carry fewer, or comes in parts of a piece */
async function carryMore(tx: Db, was: ItemRow, tracking = was.tracking): Promise<ItemRow['tracking']> {
	if (tracking === was.tracking) return tracking;
	const refuse = (message: string) => new Problem([{ message, at: 'tracking' }]);
	if (was.tracking !== 'none' && tracking !== 'lot and serial')
		throw refuse(
			`${was.code} carries ${was.tracking}, and numbers of that are booked: what it carries is only added to.`
		);
	if (tracking.includes('serial') && was.decimals > 0)
		throw refuse(
			`${was.code} comes with ${was.decimals} decimals of ${was.unit}; only whole pieces carry serials. Make another item of it.`
		);
	await tx`UPDATE item SET tracking = ${tracking} WHERE id = ${was.id}`;
	return tracking;
}

const ruleChange = itemChange.pick({ kind: true, ownRule: true, rules: true }).strip();
/** The rule that would count: the item's own as given, or that of the kind it goes into. */
async function ruleToBe(sql: Db, change: z.output<typeof ruleChange>): Promise<Rule[]> {
	if (!change.kind || change.ownRule !== false) return change.rules;
	const [kind] = await sql<{ id: string }[]>`SELECT id FROM item_kind WHERE code = ${change.kind}`;
	return kind ? kindRules(sql, kind.id) : change.rules;
}

/**
 * What a change of an item's rule, or of the kind whose rule counts, means for the stock on hand and the documents that
 * are open, in sentences.
 * @returns empty when the rule stays as it is
 */
export async function ruleMeans(sql: Db, code: string, input: unknown): Promise<string[]> {
	const change = parse(ruleChange, input);
	const items = await listItems(sql, code);
	const names = Object.fromEntries((await listFacts(sql)).map((f) => [f.code, f.name]));
	return meansFor(sql, items, await ruleToBe(sql, change), names);
}

/**
 * Changes what may change of an item: its name, dates, numbering, kind, marking rule and parts list. What it carries
 * (lot, serial) may only grow: what lies there without the new number is numbered bin by bin. Its unit and its decimals stay,
 * for what was booked with them.
 */
export async function changeItem(sql: Sql, by: string, code: string, input: unknown): Promise<void> {
	const change = parse(itemChange, input);
	await transaction(sql, async (tx) => {
		const [was] = await listItems(tx, code);
		if (!was) throw new Problem(`There is no item ${code}.`, 404);
		const { id } = was;
		const tracking = await carryMore(tx, was, change.tracking);
		await tx`UPDATE item SET name = ${change.name}, shelf_life = ${change.shelfLife ?? null} WHERE id = ${id}`;
		const rules = await ruleToBe(tx, change);
		refuseRule([{ ...was, tracking }], rules);
		await setKind(tx, id, change.kind ?? null, change.ownRule);
		if (change.ownRule || !change.kind) {
			const wrong = change.rules.find(
				(r) =>
					(r.lot !== 'not asked' && !tracking.includes('lot')) ||
					(r.serial !== 'not asked' && !tracking.includes('serial'))
			);
			if (wrong)
				throw new Problem([
					{ message: `${code} carries ${tracking}: nothing else can be asked at ${wrong.step}.`, at: 'rules' }
				]);
			await saveRules(tx, { item: id }, change.rules);
		}
		await setNumbering(tx, id, tracking, change);
		if (change.contentQty !== undefined || change.contentUnit !== undefined)
			await setContent(tx, was, change.contentQty ?? null, change.contentUnit ?? null);
		await setLoss(tx, id, change.lossTolerance);
		await setMeasures(tx, id, change.measures);
		await setExpiryFrom(tx, id, change.expiryFrom);
		await setTerms(tx, id, change);
		await setParts(tx, id, code, change.parts);
		if (change.byproducts) await setByproducts(tx, was, change.byproducts);
		const [is] = await listItems(tx, code);
		await keepHistory(tx, by, 'item', code, settingsOf(was), settingsOf(is));
	});
}

/** What of an item keeps its history: all that is set up, with what its rule asks at each step. */
const settingsOf = ({
	id: _id,
	code: _code,
	expiry: _expiry,
	rules,
	parts,
	byproducts,
	measures,
	...rest
}: ItemRow) => ({
	...rest,
	...measures,
	parts: parts.map((p) => `${p.item} ${p.qty}`).join(', '),
	byproducts: byproducts.map((p) => `${p.item} ${p.qty}`).join(', '),
	...ruleSettings(rules)
});

/** The codes and names of items, for a list to choose from: nothing is counted. */
export const itemNames = (sql: Db) => sql<
	{
		code: string;
		name: string;
		unit: string;
		decimals: number;
		tracking: ItemRow['tracking'];
		made: boolean;
		content: string | null;
	}[]
>`
	SELECT i.code, i.name, i.unit, i.decimals, i.tracking, i.content_unit AS content, EXISTS (SELECT 1 FROM part p WHERE p.item_id = i.id) AS made FROM item i ORDER BY i.code`;
