import { z } from 'zod';
import '../problem/words.ts';
import { readNumber, readText, badText, unseen } from './text.ts';

/*
 * The types that every door reads what is given by: one for text, one for a number, one for a quantity, one for an id.
 * What they refuse reaches no statement.
 */

const sentence = (read: (typed: string) => { problem: string } | { text: string } | { number: string }) =>
	z.string().transform((typed, ctx) => {
		const r = read(typed);
		if (!('problem' in r)) return 'text' in r ? r.text : r.number;
		ctx.addIssue({ code: 'custom', message: r.problem });
		return z.NEVER;
	});

/**
 * Text of at most so many characters, trimmed.
 * @param least 0 where it may be empty
 */
export const text = (most: number, least = 1, empty = 'This is empty. Give it.', long?: string) =>
	z
		.string()
		.max(4 * most, long)
		.pipe(sentence((typed) => readText(typed.trim())))
		.pipe(z.string().min(least, empty).max(most, long));

/** One line of text: a name, a code, a document's number. */
export const line = (most: number, least = 1, empty?: string, long?: string) =>
	text(most, least, empty, long).refine(
		(t) => !/[\n\r\t\p{Cf}]/u.test(t),
		'This has a line break or a hidden sign in it. Type it on one line.'
	);

/** A lot's or serial's number. */
export const number = sentence(readNumber);

/** The id of a row: what PostgreSQL calls bigint, as decimal text. */
export const id = z.string().regex(/^[1-9]\d{0,17}$/, 'This is no id. Reload the page.');

/** A key that makes the same request twice count once. */
export const key = line(200).refine(
	(t) => !/\s/.test(t) || t.trim() === t,
	'A key does not begin or end with a blank.'
);

/** A JSON number as decimal text; exponents are spelt out. */
const plain = (n: number) => (/e/i.test(String(n)) ? n.toFixed(12).replace(/\.?0+$/, '') : String(n));

/** A quantity as given: a number, or text that is read by the item's own rules later. */
export const quantity = z
	.union([z.number(), z.string().max(40, 'A quantity has at most 40 characters.')])
	.transform((q) => (typeof q === 'number' ? plain(q) : q.trim()));

/** A value of a fact as given. */
export const factValue = z.union([text(300, 0), z.number().transform(plain)]);

/** Facts by their codes. */
export const factValues = z.record(z.string().regex(/^[A-Za-z0-9._-]{1,30}$/, 'There is no such fact.'), factValue);

/** What a scanner read: a code as it sends it, with the separators between elements; nothing else that cannot be typed is one. */
export const scanText = z
	.string()
	.min(1)
	.max(2000, 'That is too long for a code.')
	.refine((t) => !badText(t.replaceAll(/[\x1d\x1e\x04]/g, '')), 'That is no code. Scan it again.');

/** How long, as an ISO 8601 duration of years, months, weeks and days that a calendar can add. */
export const duration = z
	.string()
	.regex(/^P(?=\d)(\d{1,2}Y)?(\d{1,4}M)?(\d{1,4}W)?(\d{1,5}D)?$/, 'Type a duration such as P12M or P90D.');

/** Of a new code: can all of it be seen? Two that look the same are two otherwise. */
export const isSeen = (code: string): boolean => !unseen(code);
/** What is said where it cannot. */
export const UNSEEN = 'The code holds a sign that nobody can see. Type it again.';
