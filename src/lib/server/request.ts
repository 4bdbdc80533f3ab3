import { error, fail, json, type RequestEvent } from '@sveltejs/kit';
import { Problem } from '../core/problem/problem.ts';
import { can, type Role, type Verb } from '../core/people/can.ts';
import type { Actor } from './ledger/input.ts';

/** Who asks: the person of the session, or the program of the token. */
export function actor({ locals }: Pick<RequestEvent, 'locals'>): Actor {
	if (locals.person) return { name: locals.person.login, role: locals.person.role, source: 'screen' };
	if (locals.token) return { name: locals.token.name, role: locals.token.role, source: 'api' };
	throw new Problem('Your session has ended. Sign in again; what you typed is kept.', 401);
}

/** @throws Problem 403 when the role may not do this */
export function allow(event: Pick<RequestEvent, 'locals'>, verb: Verb): Actor {
	const who = actor(event);
	if (!can(who.role as Role, verb))
		throw new Problem(`Your role (${who.role}) may not do this: ${verb}. Ask the coordinator.`, 403);
	return who;
}

/** The same for a page's load: a page that says so. */
export function allowPage(event: Pick<RequestEvent, 'locals'>, verb: Verb): Actor {
	try {
		return allow(event, verb);
	} catch (e) {
		if (e instanceof Problem) error(e.status, e.message);
		throw e;
	}
}

/** The body as JSON. @throws Problem 400 when it is none */
export async function body(request: Request): Promise<unknown> {
	try {
		return await request.json();
	} catch {
		throw new Problem('The body is not JSON. Send application/json in UTF-8.', 400);
	}
}

/** Runs an API route; a Problem becomes its problem document (RFC 9457). */
export async function answer(work: () => Promise<Response>): Promise<Response> {
	try {
		return await work();
	} catch (e) {
		if (!(e instanceof Problem)) throw e;
		return json(e.toDocument(), { status: e.status, headers: { 'content-type': 'application/problem+json' } });
	}
}

/** Runs a form action; a Problem comes back with what was typed. */
export async function attempt<T extends object>(typed: Record<string, unknown>, work: () => Promise<T>) {
	try {
		return await work();
	} catch (e) {
		if (!(e instanceof Problem)) throw e;
		return fail(e.status, { faults: e.faults, typed });
	}
}
/** A field of a form that holds JSON. @throws Problem when it holds none */
export function readJson(text: string | undefined): unknown {
	try {
		return JSON.parse(text ?? '[]');
	} catch {
		throw new Problem('The form could not be read. Reload the page.');
	}
}
export const fields = async (request: Request) =>
	Object.fromEntries([...(await request.formData())].filter(([, v]) => typeof v === 'string')) as Record<
		string,
		string
	>;
