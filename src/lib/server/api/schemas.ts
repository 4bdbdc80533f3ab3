import { z } from 'zod';
import { STATUS_ACTS, type StatusAct } from '../../core/ledger/status.ts';
import { key, line, number, text } from '../../core/text/input.ts';

const time = z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' });

/** Which names that are not set up yet an event may make. */
export const createQuery = z.object({
	/** comma-separated: places, partners */
	create: z
		.string()
		.max(40)
		.optional()
		.describe('What may be made when it is not known: places, partners, or both with a comma between.')
});
/** What is traced, in which direction, and between which times. */
export const traceQuery = z.object({
	direction: z.enum(['forward', 'back'], 'Say direction=forward or direction=back.'),
	item: line(60, 1, 'Name the item.'),
	lot: number.optional(),
	serial: number.optional(),
	since: time.optional().describe('Forward only: reached from this time on.'),
	asOf: time.optional().describe('As it was known at this time.')
});
/** A status set by a program. */
export const statusBody = z.strictObject({
	key,
	at: time.optional(),
	item: line(60),
	lot: number.nullish(),
	serial: number.nullish(),
	act: z.enum(Object.keys(STATUS_ACTS) as [StatusAct, ...StatusAct[]]),
	reason: text(1000, 1, 'Say why, in one line. It is kept in the ledger.')
});
