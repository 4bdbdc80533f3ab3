import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';
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
/** A customer or supplier, as parsed. */
export const partnerInput = z.strictObject({
	code: line(60).refine((t) => /^\S{1,60}$/.test(t), 'A partner’s code has 1 to 60 characters and no blanks.'),
	name: line(200, 1, 'Type the name.'),
	kind: z.enum(['supplier', 'customer', 'both'], 'Choose supplier, customer or both.')
});

/** The codes of all places, for a list to choose from: nothing is counted. */
export const placeCodes = (sql: Db) => sql<{ code: string; site: string | null }[]>`
	SELECT p.code, s.code AS site FROM place p LEFT JOIN place s ON s.id = p.site_id WHERE NOT p.virtual ORDER BY p.code COLLATE natural_order`;
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

/** Says whether goods arrive at a place, to be put away from it. */
export async function setDock(sql: Sql, by: string, code: string, dock: boolean): Promise<void> {
	await transaction(sql, async (tx) => {
		const [was] = await tx<{ dock: boolean }[]>`SELECT dock FROM place WHERE code = ${code} AND NOT virtual FOR UPDATE`;
		if (!was) throw new Problem(`There is no place ${code.slice(0, 60)}. Reload the page.`, 404);
		await tx`UPDATE place SET dock = ${dock} WHERE code = ${code}`;
		await keepHistory(tx, by, 'place', code, was, { dock });
	});
}

/** Adds a supplier or customer. */
export async function addPartner(sql: Sql, by: string, input: unknown): Promise<void> {
	const p = parse(partnerInput, input);
	await transaction(sql, async (tx) => {
		const made =
			await tx`INSERT INTO partner (code, name, kind) VALUES (${p.code}, ${p.name}, ${p.kind}) ON CONFLICT DO NOTHING`;
		if (!made.count) throw new Problem([{ message: `${p.code} is taken. Choose another code.`, at: 'code' }]);
		const { code, ...settings } = p;
		await keepHistory(tx, by, 'partner', code, null, settings);
	});
}
