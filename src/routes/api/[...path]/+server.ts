import { demand, type Verb } from '$lib/core/people/can';
import { Problem } from '$lib/core/problem/problem';
import { methodsOf, operationOf } from '$lib/server/api/contract';
import { bodyText, readBody } from '$lib/server/body';
import { actor, allow, answer } from '$lib/server/request';
import { inThread } from '$lib/server/work/pool';
import type { RequestEvent, RequestHandler } from './$types';

/** A body of more signs than this is read, and its call answered, in a thread: nobody else waits for it. */
const LARGE = 50_000;

/** Serves every call of the interface for programs from the one table of them. */
const serve = (event: RequestEvent) =>
	answer(async () => {
		const { pathname, searchParams } = event.url;
		const found = operationOf(event.request.method, pathname);
		if (!found) {
			const methods = methodsOf(pathname);
			if (methods.length) throw new Problem(`${pathname} takes ${methods.join(' and ')}.`, 405);
			throw new Problem(`There is no call ${pathname.slice(0, 100)}. See /api/v1/openapi.json.`, 404);
		}
		const { operation, params } = found;
		const open = { name: '', role: '', source: 'api' as const };
		const who = operation.right
			? allow(event, operation.right)
			: event.locals.token || event.locals.person
				? actor(event)
				: open;
		const query = Object.fromEntries(searchParams);
		const text = operation.body ? await bodyText(event.request) : null;
		if (text && text.length > LARGE) {
			const made = await inThread('call', { method: operation.method, path: pathname, who, query, text });
			return new Response(made.text, { status: made.status, headers: { 'content-type': 'application/json' } });
		}
		const body = text === null ? undefined : readBody(text);
		return operation.run({ who, query, params, body, allow: (verb: Verb) => demand(who.role, verb) });
	});

export const GET: RequestHandler = serve;
export const POST: RequestHandler = serve;
export const PUT: RequestHandler = serve;
export const PATCH: RequestHandler = serve;
export const DELETE: RequestHandler = serve;
