import { randomUUID } from 'node:crypto';
import { json, redirect, type Handle, type HandleServerError } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { log } from '$lib/server/log';
import { personOf } from '$lib/server/people/sessions';
import { tokenOwner } from '$lib/server/people/tokens';

const OPEN = ['/sign-in', '/api/v1/healthz'];

export const handle: Handle = async ({ event, resolve }) => {
	const { url, request, locals, cookies } = event;
	const started = performance.now();
	locals.requestId = randomUUID();
	locals.person = null;
	locals.token = null;
	const api = url.pathname.startsWith('/api/');
	const bearer = /^Bearer (\S+)$/.exec(request.headers.get('authorization') ?? '')?.[1];
	if (bearer && api) locals.token = await tokenOwner(pool(), bearer);
	else {
		const secret = cookies.get('session');
		if (secret) locals.person = await personOf(pool(), secret);
		// A cookie goes along by itself, so what changes anything must come from our own pages; signing in too.
		const changes = !['GET', 'HEAD', 'OPTIONS'].includes(request.method);
		if (changes && (locals.person || !api) && request.headers.get('origin') !== url.origin)
			return refuse('This came from another page. Open Earmark and do it there.', 403);
	}
	if (!locals.person && !locals.token && !OPEN.includes(url.pathname)) {
		if (api) return refuse('Send a token that is valid: Authorization: Bearer …', 401);
		if (
			request.method !== 'GET' ||
			request.headers.get('accept')?.includes('application/json') ||
			url.pathname.endsWith('/live')
		)
			return refuse('Your session has ended. Sign in again; what you typed is kept.', 401);
		redirect(303, `/sign-in?to=${encodeURIComponent(url.pathname + url.search)}`);
	}
	let response: Response;
	try {
		response = await resolve(event);
	} catch (error) {
		if (!(error instanceof Problem)) throw error;
		response = problem(error);
	}
	response.headers.set('x-request-id', locals.requestId);
	response.headers.set('x-content-type-options', 'nosniff');
	response.headers.set('referrer-policy', 'same-origin');
	log.debug({ id: locals.requestId, method: request.method, path: url.pathname, status: response.status, ms: Math.round(performance.now() - started) }); // prettier-ignore
	return response;
};

const refuse = (sentence: string, status: number) => problem(new Problem(sentence, status));
const problem = (p: Problem) => json(p.toDocument(), { status: p.status, headers: { 'content-type': 'application/problem+json' } }); // prettier-ignore

export const handleError: HandleServerError = ({ error, event, status, message }) => {
	if (status === 404) return { message: 'There is no such page.' };
	const { requestId } = event.locals;
	log.error({ id: requestId, path: event.url.pathname, status, err: error });
	return {
		message: status === 500 ? 'Earmark could not do this. Nothing was changed; what you typed is kept.' : message,
		requestId
	};
};
