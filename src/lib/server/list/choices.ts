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

/** The partner that a number belongs to, in words; nothing where it is ours. */
export const ownerName = (owner: string) =>
	`CASE WHEN ${owner} IS NOT NULL THEN (SELECT q.name FROM partner q WHERE q.code = ${owner}) END`;
/** A choice of the partners that something belongs to. */
export const ownerChoice = {
	key: 'owner',
	label: 'Belongs to',
	kind: 'choice',
	filterOnly: true,
	options: (sql: Db) =>
		sql<
			{ value: string; label: string }[]
		>`SELECT q.code AS value, q.name AS label FROM partner q WHERE EXISTS (SELECT 1 FROM mark k WHERE k.owner = q.code) ORDER BY q.name`
} as const;

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
