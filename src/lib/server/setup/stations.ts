import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { noSuch } from '../../core/checks/catalogue.ts';
import { faultFrom } from '../../core/checks/check.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';

/** A station of the floor, as parsed. */
export const stationInput = z.strictObject({
	code: line(20, 1, 'Type a code.').refine(
		(t) => /^[^\s/?#%]+$/u.test(t),
		'A station’s code has no blanks and none of / ? # %.'
	),
	name: line(100, 1, 'Type what it is called.'),
	/** where it stands: what carries no number is used from there */
	place: line(45, 1, 'Choose the place where it stands.'),
	/** what is put together there waits for a review */
	review: z.boolean()
});
type Settings = { name: string; place: string; review: boolean; closed: boolean };
/** A station by its code; null where there is none. */
export const readStation = async (tx: Db, code: string): Promise<Settings | null> =>
	(
		await tx<Settings[]>`
			SELECT t.name, p.code AS place, t.review, t.closed_on IS NOT NULL AS closed FROM station t JOIN place p ON p.id = t.place_id WHERE t.code = ${code} FOR UPDATE OF t`
	)[0] ?? null;

/** Sets up a station, or changes one. @throws Problem when its place is unknown, or its code is taken */
export async function saveStation(sql: Sql, by: string, input: unknown, fresh: boolean): Promise<void> {
	const { code, ...station } = parse(stationInput, input);
	await transaction(sql, async (tx) => {
		const [place] = await tx<{ id: string }[]>`SELECT id FROM place WHERE code = ${station.place} AND NOT virtual`;
		if (!place) throw new Problem([faultFrom(noSuch, { what: 'place', code: station.place }, 'place')]);
		const was = await readStation(tx, code);
		if (fresh && was)
			throw new Problem([{ message: `There is a station ${code} already. Take another code.`, at: 'code' }]);
		if (!fresh && !was) throw new Problem(`There is no station ${code}. Reload the page.`, 404);
		await tx`INSERT INTO station (code, name, place_id, review) VALUES (${code}, ${station.name}, ${place.id}, ${station.review})
			ON CONFLICT (code) DO UPDATE SET name = excluded.name, place_id = excluded.place_id, review = excluded.review`;
		await keepHistory(tx, by, 'station', code, was, { ...station, closed: was?.closed ?? false });
	});
}

/** Closes a station: nobody works at it any more; or opens it again. */
export async function setStationClosed(sql: Sql, by: string, code: string, closed: boolean): Promise<void> {
	await transaction(sql, async (tx) => {
		const was = await readStation(tx, code);
		if (!was) throw new Problem(`There is no station ${code}. Reload the page.`, 404);
		await tx`UPDATE station SET closed_on = CASE WHEN ${closed} THEN shown_day(now())::date END WHERE code = ${code}`;
		await keepHistory(tx, by, 'station', code, was, { ...was, closed });
	});
}
