import type { z } from 'zod';
import '../core/problem/words.ts';
import { Problem } from '../core/problem/problem.ts';

/** Parses what a form, a sheet or a program gives. @throws Problem naming each field */
export function parse<T extends z.ZodType>(schema: T, input: unknown): z.output<T> {
	const parsed = schema.safeParse(input);
	if (parsed.success) return parsed.data;
	throw new Problem(
		parsed.error.issues.slice(0, 50).map((i) => ({ message: i.message, at: i.path.join('.'), code: 'form' }))
	);
}

/** What was given as an object, to add to it before it is parsed; nothing where it is none. */
export const fieldsOf = (input: unknown): object =>
	input && typeof input === 'object' && !Array.isArray(input) ? input : {};
