import { z } from 'zod';
import { STATUS_ACTS, type StatusAct } from '../../core/ledger/status.ts';
import { CORRECTABLE } from '../../core/ledger/corrections.ts';
import { factValue, id, key, line, number, text } from '../../core/text/input.ts';

const time = z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' });

/** A whole number in an address, between two bounds. */
const whole = (what: string, least: number, most: number) => {
	const says = `Give ${what} as a whole number from ${least} to ${most}.`;
	return z.coerce.number(says).int(says).min(least, says).max(most, says);
};

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
	asOf: time.optional().describe('As it was known at this time.'),
	ledgerSize: z.coerce
		.number('Give the size as a whole number.')
		.int('Give the size as a whole number.')
		.min(0, 'Give the size as a whole number.')
		.optional()
		.describe('Of the ledger as it was with so many entries, as an earlier answer said.')
});
/** Which uses of parts are asked for. */
export const pairingsQuery = z.object({
	order: line(60).optional().describe('Made by this order.'),
	item: line(60).optional().describe('In what was made of this item.'),
	serial: number.optional(),
	lot: number.optional().describe('In this lot, or in serials of it.'),
	partItem: line(60).optional().describe('Parts of this item.'),
	partSerial: number.optional(),
	partLot: number.optional().describe('Parts of this lot, serials of it among them.'),
	after: z
		.string()
		.regex(/^\d{1,18}\.\d{1,18}$/, 'Give after as the page before said it in next.')
		.optional(),
	count: whole('count', 1, 1000).default(200).describe('How many at most.')
});
/** Which lines of a number's life are asked for. */
export const lifeQuery = z.object({
	after: z
		.string()
		.regex(/^\d{1,18}\.\d{1,18}\.[a-z_]{0,40}$/, 'Give after as the page before said it in next.')
		.optional(),
	count: whole('count', 1, 1000).default(200).describe('How many at most.')
});
/** Which unit's way is asked for. */
export const unitQuery = z.object({ item: line(60, 1, 'Name the item.'), serial: number });
const dayOrTime = z
	.union([time, z.iso.date()], 'Give a day as 2026-03-14, or a time as 2026-03-14T09:30:00Z.')
	.refine((t) => t >= '1970' && t < '2200', 'Give a day between 1970 and 2200.');
/** Which yield is asked for. */
export const yieldQuery = z.object({
	item: line(60, 1, 'Name the item.'),
	from: dayOrTime.describe('From then on; of a day, from its beginning.'),
	to: dayOrTime.describe('Before then; of a day, up to its end.')
});
/** A status set by a program. */
export const statusBody = z.strictObject({
	key,
	at: time.optional(),
	item: line(60),
	lot: number.nullish(),
	serial: number.nullish(),
	act: z.enum(Object.keys(STATUS_ACTS) as [StatusAct, ...StatusAct[]]),
	reason: text(1000, 1, 'Say why, in one line. It is kept in the ledger.'),
	contained: z
		.boolean()
		.optional()
		.describe(
			'With all that contains it and is on hand, in process or in transit. Released is what the same call stopped.'
		)
});

/** A correction by a program. */
export const correctionBody = z.strictObject({
	key,
	at: time.optional(),
	item: line(60),
	lot: number.nullish(),
	serial: number.nullish(),
	field: text(30, 1, 'Name what is corrected.').describe(
		`One of ${Object.keys(CORRECTABLE).join(', ')}, or the code of an extra field.`
	),
	value: factValue.describe('As it is right; empty where nothing is to be recorded.'),
	reason: text(1000, 1, 'Say why, in one line. It is kept in the ledger.'),
	expiryToo: z.boolean().optional().describe('Of madeOn: the expiry that was worked out from it is worked out anew.'),
	also: z
		.array(z.strictObject({ item: line(60), lot: number.nullish(), serial: number.nullish() }))
		.max(1000)
		.optional()
		.describe('Of expiresOn: lots and serials that took their date from this one.')
});

const MOST_SIZE = 1_000_000_000_000;
/** Which entries of the ledger are wanted. */
export const entriesQuery = z.object({
	from: whole('from', 0, MOST_SIZE).default(0).describe('Index of the first entry wanted.'),
	count: whole('count', 1, 1000).default(100).describe('How many at most; fewer come where they are large.'),
	wait: whole('wait', 0, 30)
		.default(0)
		.describe('Seconds to wait for an entry where there is none yet: the next comes as soon as it is sealed.')
});
/** Which event is proved, and in a ledger of how many entries. */
export const inclusionQuery = z.object({
	event: id,
	size: whole('size', 1, MOST_SIZE)
		.min(1)
		.optional()
		.describe('Of the ledger that it is proved for; all of it if left out.')
});
/** Which two sizes of the ledger are held against each other. */
export const consistencyQuery = z.object({
	from: whole('from', 1, MOST_SIZE),
	to: whole('to', 0, MOST_SIZE).optional().describe('The larger size; all of it if left out.')
});
