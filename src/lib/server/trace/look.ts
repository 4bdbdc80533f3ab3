import { z } from 'zod';
import { id } from '../../core/text/input.ts';
import { MOST_LINES, PARTS } from '../../core/trace/shown.ts';

/** What a look asks of a trace, as parsed. */
export const lookInput = z.strictObject({
	/** the look: whoever opens a trace makes one */
	look: z.uuid(),
	mark: id,
	direction: z.enum(['forward', 'back']),
	since: z.iso.datetime({ offset: true }).nullish(),
	asOf: z.iso.datetime({ offset: true }).nullish(),
	/** how many entries the ledger had: all of a look is of that moment */
	ledgerSize: z.int().min(0),
	part: z.enum(PARTS),
	find: z.string().max(100).default(''),
	opened: z.array(z.string().max(2000)).max(500).default([]),
	closed: z.array(z.string().max(2000)).max(500).default([]),
	from: z.int().min(0).max(10_000_000).default(0),
	size: z.int().min(1).max(MOST_LINES).default(MOST_LINES),
	/** how many bars each column of the picture shows, by column */
	bars: z
		.array(z.tuple([z.int().min(0).max(100), z.int().min(1).max(1000)]))
		.max(100)
		.default([]),
	/** the whole of it, its picture, or only lines */
	want: z.enum(['all', 'picture', 'lines']).default('lines')
});
/** What a look asks of a trace. */
export type Look = z.output<typeof lookInput>;
