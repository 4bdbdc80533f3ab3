import { sayStatus, STATUSES } from '../../core/ledger/status.ts';
import type { Db } from '../database/connect.ts';

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
