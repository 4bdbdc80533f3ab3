import type { z } from 'zod';
import type { Actor } from '../../core/ledger/input.ts';
import type { Verb } from '../../core/people/can.ts';

/** One call as its operation is given it: who calls, the query as text, the body as it came. */
export interface Call {
	who: Actor;
	query: Record<string, string>;
	/** parts of the path that the operation names in braces */
	params: Record<string, string>;
	body: unknown;
	/** @throws Problem 403 when the caller may not do this besides */
	allow: (verb: Verb) => void;
}

/** One call of the interface for programs: what the routes serve, what bodies are held against, what is documented. */
export interface Operation {
	method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
	/** a part in braces stands for anything: /api/v1/routes/{item} */
	path: string;
	summary: string;
	/** the right that the token needs; null for anybody, without a token */
	right: Verb | null;
	query?: z.ZodObject;
	body?: z.ZodType;
	/** what it answers; of what is no JSON, the type */
	answers: Record<number, { says: string; schema: z.ZodType; type?: string }>;
	/** what may be refused, with an example each */
	refusals: Record<number, string>;
	run: (call: Call) => Promise<Response>;
}
