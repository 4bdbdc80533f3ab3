import { randomUUID } from 'node:crypto';
import { json, redirect, type Handle, type HandleServerError, type RequestEvent, type ServerInit } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { useDecimalSign } from '$lib/core/quantity/sign';
import { badText } from '$lib/core/text/text';
import { operationOf } from '$lib/server/api/contract';
import { NO_ACCESS } from '$lib/server/api/refusals';
import { troubleOf } from '$lib/server/database/lost';
import { pool } from '$lib/server/database/pool';
import { watchVersion } from '$lib/server/database/version';
import { keepSealing } from '$lib/server/ledger/seal';
import { keepMailing } from '$lib/server/mail/send';
import { log, plainError } from '$lib/server/log';
import { personOf } from '$lib/server/people/sessions';
import { tokenOwner } from '$lib/server/people/tokens';
import { gzipped } from '$lib/server/gzip';
import { onBehalfOf } from '$lib/server/sheet/live';
import { startThreads } from '$lib/server/work/pool';

/** How often a request that only reads is tried again when the database was lost under it. */
const TRIES = 3;

export const init: ServerInit = async () => {
	startThreads();
	watchVersion(pool, (sentence) => {
		log.fatal(sentence);
		process.exit(1);
	});
	keepSealing(pool);
	await keepMailing(pool);
};

export const handle: Handle = async ({ event, resolve }) => {
	const { url, request, locals } = event;
	const started = performance.now();
	locals.requestId = randomUUID();
	locals.person = null;
	locals.token = null;
	const respond = async (): Promise<Response> => {
		try {
			if (!readable(url)) throw new Problem('The address holds signs that cannot be read. Check the link.', 400);
			const refused = await whoAsks(event);
			if (refused) return refused;
			const page = request.headers.get('x-earmark-page')?.slice(0, 60);
			return await (page ? onBehalfOf(page, () => resolve(event)) : resolve(event));
		} catch (error) {
			if (error instanceof Problem) return problem(error);
			const trouble = troubleOf(error);
			if (!trouble) throw error;
			locals.trouble = trouble;
			return problem(trouble);
		}
	};
	let response = await respond();
	for (let tries = 1; locals.trouble && request.method === 'GET' && tries < TRIES; tries++) {
		locals.trouble = null;
		await new Promise((done) => setTimeout(done, 200 * tries));
		response = await respond();
	}
	if (locals.trouble) response = problem(locals.trouble);
	await readRest(request, response);
	response = packedFor(request, response);
	response.headers.set('x-request-id', locals.requestId);
	// What only somebody who is signed in may see is nowhere kept for whoever sits there next.
	if (locals.person || locals.token) response.headers.set('cache-control', 'no-store');
	// A page that SvelteKit did not render, such as that of an endpoint's error, runs and loads nothing.
	if (response.headers.get('content-type')?.startsWith('text/html') && !response.headers.has('content-security-policy'))
		response.headers.set(
			'content-security-policy',
			"default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'"
		);
	response.headers.set('x-content-type-options', 'nosniff');
	response.headers.set('referrer-policy', 'same-origin');
	log.debug({
		id: locals.requestId,
		method: request.method,
		path: url.pathname,
		status: response.status,
		ms: Math.round(performance.now() - started)
	});
	return response;
};

/** What is worth packing: pages, data and exports; what arrives bit by bit is not held back. */
const PACKABLE = /^(text\/html|text\/csv|application\/(problem\+)?json)\b/;
/** The same answer, compressed where the browser takes that. */
function packedFor(request: Request, response: Response): Response {
	const { headers, body, status } = response;
	if (!body || headers.has('content-encoding') || !PACKABLE.test(headers.get('content-type') ?? '')) return response;
	headers.append('vary', 'accept-encoding');
	if (!/\bgzip\b/.test(request.headers.get('accept-encoding') ?? '')) return response;
	headers.set('content-encoding', 'gzip');
	headers.delete('content-length');
	return new Response(gzipped(body), { status, headers });
}

/**
 * Reads what was sent and not looked at, because it was refused before: a connection that is kept open with half a body
 * in it would answer nothing that comes after. One that brings more than may be sent is closed.
 */
async function readRest(request: Request, response: Response): Promise<void> {
	if (!request.body || request.bodyUsed) return;
	await request.arrayBuffer().catch(() => response.headers.set('connection', 'close'));
}

/** Can every part of the address be stored and looked up as text? */
function readable(url: URL): boolean {
	try {
		if (badText(decodeURIComponent(url.pathname))) return false;
	} catch {
		return false;
	}
	return [...url.searchParams].every(
		([name, value]) => !badText(name) && !badText(value.replaceAll(/[\x1d\x1e\x04]/g, ''))
	);
}

/** Finds out who asks. @returns an answer when nobody may be let in; @throws a redirect to the sign-in */
async function whoAsks(event: RequestEvent): Promise<Response | null> {
	const { url, request, locals, cookies } = event;
	const api = url.pathname.startsWith('/api/');
	const bearer = /^Bearer (\S{1,200})$/.exec(request.headers.get('authorization') ?? '')?.[1];
	if (bearer && api) locals.token = await tokenOwner(pool(), bearer);
	else {
		const secret = cookies.get('session');
		if (secret) locals.person = await personOf(pool(), secret);
		if (locals.person) useDecimalSign(locals.person.sign);
		// A cookie goes along by itself, so what changes anything must come from our own pages; signing in too.
		const changes = !['GET', 'HEAD', 'OPTIONS'].includes(request.method);
		if (changes && (locals.person || !api) && request.headers.get('origin') !== url.origin)
			return problem(new Problem('This came from another page. Open Earmark and do it there.', 403));
	}
	if (locals.person?.asksPassword) return ownPasswordFirst(event);
	if (locals.person || locals.token) return null;
	const open =
		url.pathname === '/sign-in' || (api && operationOf(request.method, url.pathname)?.operation.right === null);
	if (open) return null;
	if (api) return problem(new Problem(NO_ACCESS, 401));
	if (!isPage(event))
		return problem(new Problem('Your session has ended. Sign in again; what you typed is kept.', 401));
	redirect(303, `/sign-in?to=${encodeURIComponent(url.pathname + url.search)}`);
}

/** Is a page asked for, that may lead to another? */
const isPage = ({ request, url }: RequestEvent) =>
	request.method === 'GET' &&
	!request.headers.get('accept')?.includes('application/json') &&
	!url.pathname.endsWith('/live');

/**
 * Whoever signed in with a password that somebody else gave sets one of their own before anything else.
 * @returns an answer that says so, or null where they do it or leave; @throws a redirect to where it is set
 */
function ownPasswordFirst(event: RequestEvent): Response | null {
	const { pathname, search } = event.url;
	if (pathname === '/own-password' || pathname === '/sign-out') return null;
	if (!isPage(event) || pathname.startsWith('/api/'))
		return problem(new Problem('Set a password of your own first: the one you signed in with was given to you.', 403));
	redirect(303, `/own-password?to=${encodeURIComponent(pathname + search)}`);
}

/** After how many seconds a request that met a busy or lost database may be sent again. */
const AGAIN = '2';
const problem = (p: Problem) =>
	json(p.toDocument(), {
		status: p.status,
		headers: { 'content-type': 'application/problem+json', ...(p.status === 503 ? { 'retry-after': AGAIN } : {}) }
	});

export const handleError: HandleServerError = ({ error, event, status, message }) => {
	if (status === 404) return { message: 'There is no such page.' };
	const { locals } = event;
	const trouble = troubleOf(error);
	if (trouble) {
		locals.trouble = trouble;
		return { message: trouble.message, requestId: locals.requestId };
	}
	if (error instanceof Problem) return { message: error.message, requestId: locals.requestId };
	if (status >= 500) log.error({ id: locals.requestId, path: event.url.pathname, status, err: plainError(error) });
	return {
		message: status === 500 ? 'Earmark could not do this. Nothing was changed; what you typed is kept.' : message,
		requestId: locals.requestId
	};
};
