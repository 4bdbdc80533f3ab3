import { Problem } from '$lib/core/problem/problem';
import { methodsOf, operationOf } from '$lib/server/api/contract';
import { actor, allow, answer, body } from '$lib/server/request';
import type { RequestEvent, RequestHandler } from './$types';

/** Serves every call of the interface for programs from the one table of them. */
const serve = (event: RequestEvent) =>
	answer(async () => {
		const { pathname, searchParams } = event.url;
		const operation = operationOf(event.request.method, pathname);
		if (!operation) {
			const methods = methodsOf(pathname);
			if (methods.length) throw new Problem(`${pathname} takes ${methods.join(' and ')}.`, 405);
			throw new Problem(`There is no call ${pathname.slice(0, 100)}. See /api/v1/openapi.json.`, 404);
		}
		const open = { name: '', role: '', source: 'api' as const };
		const who = operation.right
			? allow(event, operation.right)
			: event.locals.token || event.locals.person
				? actor(event)
				: open;
		return operation.run({
			who,
			query: Object.fromEntries(searchParams),
			body: operation.body ? await body(event.request) : undefined,
			allow: (verb) => void allow(event, verb)
		});
	});

export const GET: RequestHandler = serve;
export const POST: RequestHandler = serve;
export const PUT: RequestHandler = serve;
export const PATCH: RequestHandler = serve;
export const DELETE: RequestHandler = serve;
