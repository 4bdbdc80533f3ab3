import { z } from 'zod';
import '../../core/problem/words.ts';
import { parseDay } from '../../core/dates/dates.ts';

/** Who books, and from where. */
export interface Actor {
	/** sign-in name, or "token:NAME" */
	name: string;
	role: string;
	source: 'screen' | 'api' | 'station' | 'import';
}

const name = z.string().trim().min(1).max(60);
const day = z.string().transform((t, ctx) => {
	const r = parseDay(t);
	if ('day' in r) return r.day;
	ctx.addIssue({ code: 'custom', message: r.problem });
	return z.NEVER;
});
const number = z
	.string()
	.min(1)
	.max(60, 'A number has at most 60 characters. Check what was pasted.')
	.regex(/^[^\s\p{Cc}]+$/u, 'A number has no blanks in it.');

/** A JSON number as decimal text; exponents are spelt out. */
const plain = (n: number) => (/e/i.test(String(n)) ? n.toFixed(12).replace(/\.?0+$/, '') : String(n));

export const movementInput = z.strictObject({
	item: name,
	lot: number.nullish(),
	serial: number.nullish(),
	qty: z.union([z.number(), z.string()]).transform((q) => (typeof q === 'number' ? plain(q) : q.trim())),
	from: z.string().min(1).max(45),
	to: z.string().min(1).max(45),
	run: z.string().min(1).max(120).nullish(),
	role: z.enum(['use', 'make', 'detach']).nullish(),
	expiresOn: day.nullish(),
	madeOn: day.nullish(),
	supplierLot: z.string().trim().min(1).max(60).nullish(),
	supplierSerial: z.string().trim().min(1).max(60).nullish(),
	/** facts that the firm has defined, by their codes */
	facts: z.record(z.string().max(30), z.union([z.string().max(300), z.number().transform(plain)])).nullish(),
	unitCost: z
		.string()
		.regex(/^\d+(\.\d{1,6})?$/)
		.nullish(),
	/** id of the order's line that this movement fulfils; set by the screens */
	orderLine: z.string().regex(/^\d+$/).nullish()
});

export const runInput = z.strictObject({
	code: z.string().min(1).max(120),
	unit: z.strictObject({ item: name, serial: number }).nullish(),
	planned: z.union([z.number().positive(), z.string().regex(/^\d+(\.\d+)?$/)]).nullish(),
	closed: z.boolean().nullish()
});

export const kinds = [
	...['receipt', 'move', 'transfer', 'use', 'output', 'repack', 'service', 'shipment', 'return'],
	...['supplier return', 'scrap', 'adjust', 'count', 'mark', 'correct', 'hold', 'release', 'reject', 'undo']
] as const;

/** One event, as screens, programs, imports and the demo give it to book(). */
export const eventInput = z.strictObject({
	key: z.string().min(1).max(200),
	kind: z.enum(kinds as unknown as [string, ...string[]]),
	at: z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' }),
	document: z.string().trim().min(1).max(60).nullish(),
	partner: name.nullish(),
	reason: z.string().trim().max(1000).nullish(),
	note: z.string().trim().max(4000).nullish(),
	runs: z.array(runInput).max(20_000).nullish(),
	movements: z.array(movementInput).max(100_000).nullish(),
	undoes: z.string().min(1).max(200).nullish(),
	/** id of the order that this event belongs to; set by the screens */
	order: z.string().regex(/^\d+$/).nullish()
});
export type EventInput = z.input<typeof eventInput>;
export type ParsedEvent = z.output<typeof eventInput>;
export type ParsedMovement = ParsedEvent['movements'] extends (infer M)[] | null | undefined ? M : never;
