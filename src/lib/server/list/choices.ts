import { sayStatus, STATUSES } from '../../core/ledger/status.ts';
import type { Row } from 'postgres';
import type { Db } from '../database/connect.ts';
import type { SourceColumn } from './source.ts';

/** What a number may be, in words. */
export const statusChoices = STATUSES.map((value) => ({ value, label: sayStatus(value) }));
/** Every item, by name. */
export const itemChoices = (sql: Db) =>
	sql<{ value: string; label: string }[]>`SELECT code AS value, name AS label FROM item ORDER BY name`;
/** Every site and bin, in their order. */
export const placeChoices = (sql: Db) =>
	sql<
		{ value: string; label: string }[]
	>`SELECT code AS value, code AS label FROM place WHERE NOT virtual ORDER BY code COLLATE natural_order`;
/** The ids of a site with its bins, or of one bin. */
export const placesAt = (sql: Db, code: string) =>
	idsOf(sql`SELECT p.id FROM place p LEFT JOIN place s ON s.id = p.site_id WHERE p.code = ${code} OR s.code = ${code}`);
const idsOf = async (rows: PromiseLike<Row[]>) => (await rows).map((r) => String(r.id));

/** A choice of a site or bin, which stands for the ids of its bins; each list says what they narrow. */
export const placeChoice = { key: 'place', kind: 'choice', ids: placesAt, options: placeChoices } as const;

/** The item (i) of a row, by name, narrowed to one. */
export const itemColumn: SourceColumn = {
	key: 'item',
	label: 'Item',
	kind: 'choice',
	from: 'i.name',
	filled: true,
	ids: (sql, code) => idsOf(sql`SELECT id FROM item WHERE code = ${code}`),
	where: (sql, _f, { ids }) => sql`i.id = ${ids.item[0] ?? '0'}::bigint`,
	options: itemChoices
};
