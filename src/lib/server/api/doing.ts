import { z } from 'zod';
import type { Verb } from '../../core/people/can.ts';
import { fieldsOf } from '../parse.ts';
import type { Call, Operation } from './call.ts';
import { refusals } from './refusals.ts';

/** What a call that does something answers where there is nothing else to tell. */
const said = z.object({ said: z.string().optional().describe('What was done, in words.') });

/** What a call that books answers. */
export const booked = z.object({ id: z.string(), movements: z.number() });
/** Of a booking what a program is told. */
export const asBooked = async (booking: Promise<{ id: string; movements: number }>) => {
	const { id, movements } = await booking;
	return { id, movements };
};

/** A call that does one thing. */
export interface Doing {
	method?: 'POST' | 'PUT' | 'PATCH' | 'DELETE';
	path: string;
	summary: string;
	right: Verb;
	body?: z.ZodType;
	/** what is refused, an example each beside what any call may be */
	refused: Record<number, string>;
	/** what it answers beside what was done, in words */
	answers?: z.ZodObject;
	says?: string;
	run: (call: Call) => Promise<object | void>;
}

/** A call that does one thing and answers 200 with what came of it. */
export const doing = ({
	method = 'POST',
	answers = said,
	says = 'Done.',
	refused,
	run,
	...call
}: Doing): Operation => ({
	...call,
	method,
	answers: { 200: { says, schema: answers } },
	refusals: { ...refusals(call.right), 422: 'This is missing. Give it.', ...refused },
	run: async (given) => Response.json((await run(given)) ?? {})
});

/** Something of a code of its own that is made where there is none and changed where there is, and closed or opened again. */
export interface Kept {
	path: string;
	summary: string;
	right: Verb;
	body: z.ZodObject;
	/** what is refused, an example each beside what any call may be */
	refused: Record<number, string>;
	/** makes it or changes it; @returns whether it was made */
	save: (by: string, code: string, given: Record<string, unknown>) => Promise<boolean>;
}
const code = z.object({ code: z.string() });
/** A call that sets something up under the code that its path names; a bin by its site and itself. */
export const keeping = ({ save, refused, ...call }: Kept): Operation => ({
	...call,
	method: 'PUT',
	answers: { 201: { says: 'It is made.', schema: code }, 200: { says: 'It is changed.', schema: code } },
	refusals: { ...refusals(call.right), ...refused },
	run: async ({ who, params, body }) => {
		const own = Object.values(params).join('/');
		const made = await save(who.name, own, { ...fieldsOf(body) });
		return Response.json({ code: own }, { status: made ? 201 : 200 });
	}
});
