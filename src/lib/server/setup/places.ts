import { z } from 'zod';
import type { Db } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { parse } from '../people/people.ts';

export const placeInput = z.strictObject({
	code: z.string().trim().regex(/^[A-Za-z0-9._-]{1,20}(\/[A-Za-z0-9._-]{1,20})?$/, 'A place is a site (QS) or a bin of a site (QS/A1): letters, digits, dots and dashes.'), // prettier-ignore
	name: z.string().trim().min(1, 'Type a name.').max(100),
	/** goods arrive here, to be put away */
	dock: z.boolean().default(false)
});
export const partnerInput = z.strictObject({
	code: z
		.string()
		.trim()
		.regex(/^\S{1,60}$/, 'A partner’s code has 1 to 60 characters and no blanks.'),
	name: z.string().trim().min(1, 'Type a name.').max(200),
	kind: z.enum(['supplier', 'customer', 'both'], 'Choose supplier, customer or both.')
});

export const listPlaces = (sql: Db) => sql<
	{ code: string; name: string; site: string | null; dock: boolean; numbers: number }[]
>`
	SELECT p.code, p.name, s.code AS site, p.dock, (SELECT count(*)::int FROM balance b WHERE b.place_id = p.id AND b.qty > 0) AS numbers
	FROM place p LEFT JOIN place s ON s.id = p.site_id WHERE NOT p.virtual ORDER BY p.code COLLATE natural_order`;
/** The bins of the site that a place belongs to, in their order. */
export async function binsOf(sql: Db, place: string | null): Promise<string[]> {
	const rows = await sql<{ code: string }[]>`
		SELECT p.code FROM place p JOIN place s ON s.id = p.site_id WHERE s.code = ${(place ?? '').split('/')[0]} ORDER BY p.code COLLATE natural_order`;
	return rows.map((r) => r.code);
}
export const listPartners = (sql: Db) => sql<{ code: string; name: string; kind: string }[]>`
	SELECT code, name, kind FROM partner ORDER BY kind DESC, name`;

/** Adds a site, or a bin of a site that is there. */
export async function addPlace(sql: Db, input: z.input<typeof placeInput>) {
	const p = parse(placeInput, input);
	const [site, bin] = p.code.split('/');
	const [there] = bin ? await sql<{ id: string }[]>`SELECT id FROM place WHERE code = ${site}` : [null];
	if (bin && !there) throw new Problem([{ message: `There is no site ${site}. Add the site first.`, at: 'code' }]);
	const made =
		await sql`INSERT INTO place (code, name, site_id, dock) VALUES (${p.code}, ${p.name}, ${there?.id ?? null}, ${p.dock}) ON CONFLICT DO NOTHING`;
	if (!made.count) throw new Problem([{ message: `${p.code} is there already.`, at: 'code' }]);
}

/** Says whether goods arrive at a place, to be put away from it. */
export async function setDock(sql: Db, code: string, dock: boolean) {
	const done = await sql`UPDATE place SET dock = ${dock} WHERE code = ${code} AND NOT virtual`;
	if (!done.count) throw new Problem(`There is no place ${code}. Reload the page.`, 404);
}

export async function addPartner(sql: Db, input: z.input<typeof partnerInput>) {
	const p = parse(partnerInput, input);
	const made =
		await sql`INSERT INTO partner (code, name, kind) VALUES (${p.code}, ${p.name}, ${p.kind}) ON CONFLICT DO NOTHING`;
	if (!made.count) throw new Problem([{ message: `${p.code} is taken. Choose another code.`, at: 'code' }]);
}
