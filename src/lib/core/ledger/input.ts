import { grouped } from '../quantity/sign.ts';
import { z } from 'zod';
import { factValues, id, key, line, number, quantity, text } from '../text/input.ts';
import { KINDS, ROLES } from './events.ts';
import { EVIDENCE } from './evidence.ts';

/** Who books, and from where. */
export interface Actor {
	/** sign-in name, or "token:NAME" */
	name: string;
	role: string;
	source: 'screen' | 'api' | 'station' | 'import';
}

const name = line(60);
/** A date as typed; the checks read it, and say what is wrong with it. */
const day = line(40);

/** One movement as it is given: from one place to another, of one number. */
export const movementInput = z.strictObject({
	item: name,
	lot: number.nullish(),
	serial: number.nullish(),
	/** id of a known lot or serial: it stands for the thing whatever is printed on it; set by the screens */
	mark: id.nullish(),
	qty: quantity,
	from: line(45),
	to: line(45),
	run: line(120).nullish(),
	role: z.enum(ROLES).nullish(),
	expiresOn: day.nullish(),
	/** the expiry was worked out from the shelf life before somebody gave another */
	expiryChanged: z.literal(true).nullish(),
	madeOn: day.nullish(),
	supplierLot: line(60).nullish(),
	supplierSerial: line(60).nullish(),
	/** until when the supplier answers for it */
	supplierWarrantyUntil: day.nullish(),
	/** code of the partner that it stays the property of; ours without */
	owner: name.nullish(),
	/** facts that the firm has defined, by their codes */
	facts: factValues.nullish(),
	/** how it became known which one it is; where it is left out, a program reports and a person enters */
	evidence: z.enum(EVIDENCE).nullish(),
	unitCost: z
		.string()
		.regex(/^\d{1,12}(\.\d{1,6})?$/)
		.nullish(),
	/** id of the order's line that this movement fulfils; set by the screens */
	orderLine: id.nullish()
});

/** One run as it is declared. */
export const runInput = z.strictObject({
	code: line(120),
	unit: z.strictObject({ item: name, serial: number }).nullish(),
	planned: z
		.union([z.number(), z.string().max(40)])
		.transform(String)
		.pipe(
			z
				.string()
				.regex(/^\d{1,12}(\.\d{1,6})?$/, 'Give the planned quantity in digits.')
				.refine((q) => Number(q) > 0, 'What is planned is more than zero.')
		)
		.nullish(),
	closed: z.boolean().nullish()
});

/** The most movements of one event: a document of 20,000 numbers whose pieces are numbered, moved and shipped at once. */
export const MOST_MOVEMENTS = 60_000;

/** One event, as screens, programs, imports and the demo give it to book(). */
export const eventInput = z.strictObject({
	key,
	kind: z.enum(KINDS),
	at: z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' }),
	document: line(60).nullish(),
	partner: name.nullish(),
	/** code of the job that something is issued to */
	job: name.nullish(),
	reason: text(1000, 0).nullish(),
	note: text(4000, 0).nullish(),
	runs: z.array(runInput).max(20_000).nullish(),
	movements: z
		.array(movementInput)
		.max(MOST_MOVEMENTS, { error: () => `One event has at most ${grouped(MOST_MOVEMENTS)} movements. Split it.` })
		.nullish(),
	undoes: key.nullish(),
	/** key of an event whose quantity this one puts right */
	mends: key.nullish(),
	/** id of the order that this event belongs to; set by the screens */
	order: id.nullish(),
	/** ids of the orders whose lines its movements fulfil beside that one; set by the screens */
	orders: z.array(id).max(50).nullish()
});
/** As anybody gives it; the kind is looked at when it is read. */
export type EventInput = Omit<z.input<typeof eventInput>, 'kind'> & { kind: string };
/** An event as it was read, with what was left out filled in. */
export type ParsedEvent = z.output<typeof eventInput>;
/** One movement of it. */
export type ParsedMovement = ParsedEvent['movements'] extends (infer M)[] | null | undefined ? M : never;
