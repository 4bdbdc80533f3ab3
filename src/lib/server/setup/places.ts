import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { isSeen, line, UNSEEN } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { fieldsOf, parse } from '../parse.ts';
import { PREFERENCES, type Preference } from '../../core/allocation/allocate.ts';
import { zoneInput } from './firm.ts';

/** A site or bin, as parsed. */
export const placeInput = z.strictObject({
	code: z
		.string()
		.trim()
		.max(60)
		.regex(
			/^[A-Za-z0-9._-]{1,20}(\/[A-Za-z0-9._-]{1,20})?$/,
			'A place is a site (QS) or a bin of a site (QS/A1): letters, digits, dots and dashes.'
		),
	name: line(100, 1, 'Type a name.'),
	/** goods arrive here, to be put away */
	dock: z.boolean().default(false),
	/** of a site that lies in another time zone than the firm */
	zone: zoneInput.nullish()
});
/** Days between today and an expiry date. */
export const daysLeftInput = z
	.number('Give the days as a whole number.')
	.int('Give the days as a whole number.')
	.min(0, 'Give 0 days or more.')
	.max(36500, 'Give at most 36,500 days.');
/** A customer or supplier, as parsed. */
export const partnerInput = z.strictObject({
	code: line(60)
		.refine((t) => /^\S{1,60}$/.test(t), 'A partner’s code has 1 to 60 characters and no blanks.')
		.refine(isSeen, UNSEEN),
	name: line(200, 1, 'Type the name.'),
	kind: z.enum(['supplier', 'customer', 'both'], 'Choose supplier, customer or both.'),
	/** days that what it gets must live at least; the item's own where it is left out */
	minimumDaysLeft: daysLeftInput.nullish(),
	/** it gets nothing that expires before what it got last */
	neverOlder: z.boolean().default(false),
	/** it gets nothing that came back from a customer; as the firm does where it is left out */
	newOnly: z.boolean().nullish(),
	/** it gets as few lots as the quantity allows */
	oneLot: z.boolean().default(false)
});
/** A customer or supplier as it is set up. */
export type Partner = z.output<typeof partnerInput>;
const partnerOf = async (sql: Db, code: string): Promise<Partner | null> =>
	(
		await sql<Partner[]>`
			SELECT code, name, kind, days_left AS "minimumDaysLeft", never_older AS "neverOlder", one_lot AS "oneLot", new_only AS "newOnly" FROM partner WHERE code = ${code}`
	)[0] ?? null;
/** A customer or supplier by its code. @throws Problem 404 when there is none */
export async function getPartner(sql: Db, code: string): Promise<Partner> {
	const partner = await partnerOf(sql, code);
	if (!partner) throw new Problem(`There is no partner ${code.slice(0, 60)}. Look it up in the list.`, 404);
	return partner;
}

/** What is taken first at a site, where that is not the firm's, as parsed. */
export const siteInput = z.strictObject({
	preference: z.enum(PREFERENCES).nullish(),
	/** what lies on its docks is not free to go */
	binsFirst: z.boolean().default(false),
	/** what goes to a site of the same neighbourhood arrives in the same step */
	area: line(60, 0).nullish()
});
/** The sites with what is taken first there. */
export const siteRules = (sql: Db) => sql<
	{ code: string; preference: Preference | null; binsFirst: boolean; area: string | null }[]
>`
	SELECT code, preference, bins_first AS "binsFirst", area FROM place WHERE site_id IS NULL AND NOT virtual AND NOT transit ORDER BY code COLLATE natural_order`;
/** Says what is taken first at a site, whether goods go to its bins first, and which sites are its neighbours. */
export async function saveSite(sql: Sql, by: string, code: string, input: unknown): Promise<void> {
	const now = parse(siteInput, input);
	await transaction(sql, async (tx) => {
		const [was] = await tx<{ preference: Preference | null; binsFirst: boolean; area: string | null }[]>`
			SELECT preference, bins_first AS "binsFirst", area FROM place WHERE code = ${code} AND site_id IS NULL AND NOT virtual AND NOT transit FOR UPDATE`;
		if (!was) throw new Problem(`There is no site ${code.slice(0, 60)}. Reload the page.`, 404);
		const { preference = null, binsFirst } = now;
		const area = now.area || null;
		await tx`UPDATE place SET preference = ${preference}, bins_first = ${binsFirst}, area = ${area} WHERE code = ${code}`;
		await keepHistory(tx, by, 'place', code, was, { preference, binsFirst, area });
	});
}

/** The codes of all places, for a list to choose from: nothing is counted. */
export const placeCodes = (sql: Db) => sql<{ code: string; site: string | null }[]>`
	SELECT p.code, s.code AS site FROM place p LEFT JOIN place s ON s.id = p.site_id WHERE NOT p.virtual AND NOT p.transit ORDER BY p.code COLLATE natural_order`;
/** The bins of the site that a place belongs to, in their order. */
export async function binsOf(sql: Db, place: string | null): Promise<string[]> {
	const rows = await sql<{ code: string }[]>`
		SELECT p.code FROM place p JOIN place s ON s.id = p.site_id WHERE s.code = ${(place ?? '').split('/')[0]} ORDER BY p.code COLLATE natural_order`;
	return rows.map((r) => r.code);
}
/** The customers and suppliers, by name. */
export const listPartners = (sql: Db) => sql<{ code: string; name: string; kind: string }[]>`
	SELECT code, name, kind FROM partner ORDER BY kind DESC, name`;

/** Adds a site, or a bin of a site that is there. */
export async function addPlace(sql: Sql, by: string, input: unknown): Promise<void> {
	const p = parse(placeInput, input);
	const [site, bin] = p.code.split('/');
	await transaction(sql, async (tx) => {
		const [there] = bin ? await tx<{ id: string }[]>`SELECT id FROM place WHERE code = ${site}` : [null];
		if (bin && !there) throw new Problem([{ message: `There is no site ${site}. Add the site first.`, at: 'code' }]);
		if (bin && p.zone)
			throw new Problem([{ message: 'The time zone is the site’s, not a bin’s. Leave it empty here.', at: 'zone' }]);
		const made =
			await tx`INSERT INTO place (code, name, site_id, dock, zone) VALUES (${p.code}, ${p.name}, ${there?.id ?? null}, ${p.dock}, ${p.zone ?? null}) ON CONFLICT DO NOTHING`;
		if (!made.count) throw new Problem([{ message: `${p.code} is there already.`, at: 'code' }]);
		const { code, ...settings } = p;
		await keepHistory(tx, by, 'place', code, null, settings);
	});
}

/**
 * Makes a site or bin; of one that is there says whether goods arrive at it.
 * @returns whether it is new
 * @throws Problem 409 when it is there under another name, or in another time zone
 */
export async function savePlace(sql: Sql, by: string, input: unknown): Promise<boolean> {
	const p = parse(placeInput, input);
	const [was] = await sql<{ name: string; dock: boolean; zone: string | null }[]>`
		SELECT name, dock, zone FROM place WHERE code = ${p.code} AND NOT virtual AND NOT transit`;
	if (!was) {
		await addPlace(sql, by, p);
		return true;
	}
	if (was.name !== p.name || (p.zone ?? was.zone) !== was.zone)
		throw new Problem(`${p.code} is there already, as “${was.name}”. A place keeps its name and its time zone.`, 409);
	if (was.dock !== p.dock) await setPlaceUse(sql, by, p.code, 'dock', p.dock);
	return false;
}

/**
 * Says whether goods arrive at a place, to be put away from it (dock); or whether picked goods wait there until they are
 * shipped (staging): its site picks in an act of its own then.
 */
export async function setPlaceUse(
	sql: Sql,
	by: string,
	code: string,
	use: 'dock' | 'staging',
	on: boolean
): Promise<void> {
	await transaction(sql, async (tx) => {
		const [was] = await tx<{ id: string; dock: boolean; staging: boolean; bin: boolean }[]>`
			SELECT id, dock, staging, site_id IS NOT NULL AS bin FROM place WHERE code = ${code} AND NOT virtual AND NOT transit FOR UPDATE`;
		if (!was) throw new Problem(`There is no place ${code.slice(0, 60)}. Reload the page.`, 404);
		if (on && use === 'dock' && was.staging)
			throw new Problem(`Picked goods wait at ${code}. Goods arrive at another bin.`);
		if (on && use === 'staging' && was.dock)
			throw new Problem(`Goods arrive at ${code}. Picked goods wait at another bin.`);
		if (on && use === 'staging' && !was.bin)
			throw new Problem(`${code} is a site. Picked goods wait at one of its bins.`);
		const [held] =
			use === 'dock' || on
				? []
				: await tx<{ code: string }[]>`
					SELECT o.code FROM order_staged v JOIN orders o ON o.id = v.order_id WHERE v.place_id = ${was.id} LIMIT 1`;
		if (held) throw new Problem(`What was picked for ${held.code} waits at ${code}. Ship it, or put it back, first.`);
		await tx`UPDATE place SET ${tx(use)} = ${on} WHERE code = ${code}`;
		await keepHistory(tx, by, 'place', code, { [use]: was[use] }, { [use]: on });
	});
}

/** Adds a supplier or customer. */
export async function addPartner(sql: Sql, by: string, input: unknown): Promise<void> {
	const p = parse(partnerInput, input);
	await transaction(sql, async (tx) => {
		const made = await tx`INSERT INTO partner (code, name, kind, days_left, never_older, one_lot, new_only)
			VALUES (${p.code}, ${p.name}, ${p.kind}, ${p.minimumDaysLeft ?? null}, ${p.neverOlder}, ${p.oneLot}, ${p.newOnly ?? null}) ON CONFLICT DO NOTHING`;
		if (!made.count) throw new Problem([{ message: `${p.code} is taken. Choose another code.`, at: 'code' }]);
		const { code, ...settings } = p;
		await keepHistory(tx, by, 'partner', code, null, settings);
	});
}

/**
 * Makes a supplier or customer, or changes all of one but its code.
 * @returns it as it is set up now, and whether it is new
 */
export async function savePartner(
	sql: Sql,
	by: string,
	code: string,
	input: unknown
): Promise<Partner & { created: boolean }> {
	const p = parse(partnerInput, { ...fieldsOf(input), code });
	return transaction(sql, async (tx) => {
		await tx`SELECT 1 FROM partner WHERE code = ${code} FOR UPDATE`;
		const was = await partnerOf(tx, code);
		await tx`INSERT INTO partner (code, name, kind, days_left, never_older, one_lot, new_only)
			VALUES (${p.code}, ${p.name}, ${p.kind}, ${p.minimumDaysLeft ?? null}, ${p.neverOlder}, ${p.oneLot}, ${p.newOnly ?? null})
			ON CONFLICT (code) DO UPDATE SET name = excluded.name, kind = excluded.kind, days_left = excluded.days_left, never_older = excluded.never_older, one_lot = excluded.one_lot, new_only = excluded.new_only`;
		const now = { ...p, minimumDaysLeft: p.minimumDaysLeft ?? null, newOnly: p.newOnly ?? null };
		const settings = ({ code: _code, ...rest }: Partner) => rest;
		await keepHistory(tx, by, 'partner', code, was && settings(was), settings(now));
		return { ...now, created: !was };
	});
}
