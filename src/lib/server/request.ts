import { error, fail, json, type RequestEvent } from '@sveltejs/kit';
import { Problem } from '../core/problem/problem.ts';
import { can, isRole, type Verb } from '../core/people/can.ts';
import type { Actor } from '../core/ledger/input.ts';
import { unfit } from '../core/text/text.ts';

/** What of a request the helpers here ask. */
type Asked = Pick<RequestEvent, 'locals' | 'request' | 'params' | 'url'>;

/** Who asks: the person of the session, or the program of the token. @throws Problem 401 when it is nobody */
export function actor({ locals }: Pick<RequestEvent, 'locals'>): Actor {
	if (locals.person) return { name: locals.person.login, role: locals.person.role, source: 'screen' };
	if (locals.token) return { name: locals.token.name, role: locals.token.role, source: 'api' };
	throw new Problem('Your session has ended. Sign in again; what you typed is kept.', 401);
}

/** @throws Problem 403 when the role may not do this */
export function allow(event: Pick<RequestEvent, 'locals'>, verb: Verb): Actor {
	const who = actor(event);
	if (!isRole(who.role) || !can(who.role, verb))
		throw new Problem(`Your role (${who.role}) may not do this: ${verb}. Ask the coordinator.`, 403);
	return who;
}

/** Runs a page's load; a refusal becomes a page that says so. */
export async function page<T>(
	event: Pick<RequestEvent, 'locals'>,
	verb: Verb,
	work: (who: Actor) => Promise<T> | T
): Promise<T> {
	try {
		return await work(allow(event, verb));
	} catch (e) {
		if (e instanceof Problem) error(e.status, e.message);
		throw e;
	}
}

/** The most signs of one body that is JSON. */
const MOST_BODY = 20_000_000;
/** The body as JSON. @throws Problem 400 when it is none, or holds text that cannot be stored */
export async function body(request: Request): Promise<unknown> {
	const kind = request.headers.get('content-type') ?? '';
	if (kind && !/^application\/(json|[\w.+-]+\+json)\b/i.test(kind))
		throw new Problem('The body is not JSON. Send application/json in UTF-8.', 415);
	let text: string;
	try {
		text = await request.text();
	} catch {
		throw new Problem('The body could not be read. Send it again.', 400);
	}
	if (text.length > MOST_BODY) throw new Problem('The body is too large. Send it in parts.', 413);
	try {
		// One look at every text in it, whatever it is for.
		return JSON.parse(text, (key, value) => {
			if (unfit(key) || (typeof value === 'string' && unfit(value.replaceAll(/[\x1d\x1e\x04]/g, ''))))
				throw new Unfit();
			return value;
		});
	} catch (e) {
		if (e instanceof Unfit)
			throw new Problem(
				'The body holds text that cannot be stored: half a character, or a sign that cannot be typed. Correct it.',
				400
			);
		throw new Problem('The body is not JSON. Send application/json in UTF-8.', 400);
	}
}
class Unfit extends Error {}

/** Runs an API route; a Problem becomes its problem document (RFC 9457). */
export async function answer(work: () => Promise<Response>): Promise<Response> {
	try {
		return await work();
	} catch (e) {
		if (!(e instanceof Problem)) throw e;
		return json(e.toDocument(), { status: e.status, headers: { 'content-type': 'application/problem+json' } });
	}
}

/** The fields of a form. @throws Problem 400 when it cannot be read, or holds text that cannot be stored */
export async function fields(request: Request): Promise<Record<string, string>> {
	return texts(await form(request));
}
/** A form as it was sent. @throws Problem 400 when it cannot be read */
export async function form(request: Request): Promise<FormData> {
	try {
		return await request.formData();
	} catch {
		throw new Problem('The form could not be read. Reload the page.', 400);
	}
}
function texts(data: FormData): Record<string, string> {
	const out: [string, string][] = [];
	for (const [name, value] of data) {
		if (typeof value !== 'string') continue;
		if (unfit(name) || unfit(value))
			throw new Problem('The form holds text that cannot be stored. Type it again.', 400);
		out.push([name, value]);
	}
	return Object.fromEntries(out);
}

/** What a form's work is given: who asks, and the fields as text. */
export interface Form<E> {
	who: Actor;
	typed: Record<string, string>;
	event: E;
}
/**
 * A form action: looks at the right, reads the fields, and gives a refusal back with what was typed.
 * @param keep fields that go back with a refusal; passwords do not
 */
export const action =
	<E extends Asked, T extends object>(
		verb: Verb,
		work: (form: Form<E>) => Promise<T>,
		keep: (typed: Record<string, string>) => object = (t) => t
	) =>
	async (event: E) => {
		let typed: Record<string, string> = {};
		try {
			const who = allow(event, verb);
			typed = await fields(event.request);
			return await work({ who, typed, event });
		} catch (e) {
			if (!(e instanceof Problem)) throw e;
			return fail(e.status, { faults: e.faults, typed: keep(typed) });
		}
	};
/** Nothing of the form goes back. */
export const keepNothing = () => ({});

/** A field of a form that holds JSON. @throws Problem when it holds none */
export function readJson(text: string | undefined): unknown {
	try {
		return JSON.parse(text ?? '[]');
	} catch {
		throw new Problem('The form could not be read. Reload the page.');
	}
}

/** An id out of an address: digits that PostgreSQL's bigint holds. Null when it is none. */
export const idOf = (text: string | null | undefined): string | null =>
	text && /^[1-9]\d{0,17}$/.test(text) ? text : null;
