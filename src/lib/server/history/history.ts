import type { Db } from '../database/connect.ts';
import { timeIn } from '../../core/time/clock.ts';

/** What is set up and keeps its history. */
export type Subject =
	| 'item'
	| 'kind'
	| 'fact'
	| 'pattern'
	| 'policy'
	| 'partner'
	| 'place'
	| 'job'
	| 'station'
	| 'way'
	| 'reason'
	| 'person'
	| 'token'
	| 'firm';
/** How something is set up, field by field. */
export type Settings = Record<string, unknown>;

/** One field's change as people read it. */
export interface Change {
	at: string;
	by: string;
	field: string;
	old: string | null;
	new: string | null;
}

const asText = (value: unknown): string | null =>
	value === null || value === undefined ? null : typeof value === 'string' ? value : JSON.stringify(value);

/**
 * Writes down what changed of something that is set up: who, when, from what to what. A field that stays is no change.
 * @param before null when it is new
 */
export async function keepHistory(
	tx: Db,
	by: string,
	subject: Subject,
	code: string,
	before: Settings | null,
	after: Settings
): Promise<void> {
	const fields = [...new Set([...Object.keys(before ?? {}), ...Object.keys(after)])];
	const changes = fields.flatMap((field) => {
		const [was, is] = [asText(before?.[field]), asText(after[field])];
		return was === is ? [] : [{ field, was, is }];
	});
	if (!changes.length) return;
	await tx`INSERT INTO setup_change (subject, code, field, old, new, changed_by)
		SELECT ${subject}::text, ${code}::text, n.*, ${by}::text
		FROM unnest(${changes.map((c) => c.field)}::text[], ${changes.map((c) => c.was)}::text[], ${changes.map((c) => c.is)}::text[]) n(field, was, now_is)`;
}

/** What changed of something that is set up, newest first; the last two hundred changes. */
export async function historyOf(sql: Db, subject: Subject, code: string): Promise<Change[]> {
	const rows = await sql<(Omit<Change, 'at'> & { at: Date; zone: string })[]>`
		SELECT c.changed_at AS at, f.zone, coalesce(p.name, c.changed_by) AS by, c.field, c.old, c.new
		FROM firm f CROSS JOIN setup_change c LEFT JOIN person p ON p.login = c.changed_by
		WHERE c.subject = ${subject} AND c.code = ${code} ORDER BY c.id DESC LIMIT 200`;
	return rows.map(({ zone, ...r }) => ({ ...r, at: timeIn(zone, r.at) }));
}

/** What changed of all of one kind, with whom it is about, newest first; the last two hundred changes. */
export async function historyOfAll(sql: Db, subject: Subject): Promise<(Change & { code: string })[]> {
	const rows = await sql<(Omit<Change, 'at'> & { code: string; at: Date; zone: string })[]>`
		SELECT c.code, c.changed_at AS at, f.zone, coalesce(p.name, c.changed_by) AS by, c.field, c.old, c.new
		FROM firm f CROSS JOIN setup_change c LEFT JOIN person p ON p.login = c.changed_by
		WHERE c.subject = ${subject} ORDER BY c.id DESC LIMIT 200`;
	return rows.map(({ zone, ...r }) => ({ ...r, at: timeIn(zone, r.at) }));
}
