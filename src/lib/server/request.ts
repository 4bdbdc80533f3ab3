import { error, fail, json, type RequestEvent } from '@sveltejs/kit';
import { Problem } from '../core/problem/problem.ts';
import { demand, type Verb } from '../core/people/can.ts';
import type { Actor } from '../core/ledger/input.ts';
import { badText } from '../core/text/text.ts';
import { bodyText, isDeep, readBody } from './body.ts';
import { pool } from './database/pool.ts';
import { personOf } from './people/sessions.ts';

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
	demand(who.role, verb);
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

/** The body as JSON. @throws Problem 400 when it is none, or holds text that cannot be stored */
export const body = async (request: Request): Promise<unknown> => readBody(await bodyText(request));

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
		if (badText(name) || badText(value))
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
/** A form action that takes one file, in its field "file". What is larger than can be kept is not read. */
export const fileAction =
	<E extends Asked>(
		verb: Verb,
		most: number,
		work: (given: { who: Actor; file: { name: string; bytes: Uint8Array }; event: E }) => Promise<object>
	) =>
	async (event: E) => {
		try {
			const who = allow(event, verb);
			const given = (await form(event.request)).get('file');
			const file = given instanceof File ? given : new File([], '');
			const bytes = file.size > most ? new Uint8Array(most + 1) : new Uint8Array(await file.arrayBuffer());
			return await work({ who, file: { name: file.name, bytes }, event });
		} catch (e) {
			if (!(e instanceof Problem)) throw e;
			return fail(e.status, { faults: e.faults, typed: {} });
		}
	};
/** Nothing of the form goes back. */
export const keepNothing = () => ({});

/** A field of a form that holds JSON. @throws Problem when it holds none */
export function readJson(text: string | undefined): unknown {
	try {
		if (isDeep(text ?? '')) throw new Error();
		return JSON.parse(text ?? '[]');
	} catch {
		throw new Problem('The form could not be read. Reload the page.');
	}
}

/** An id out of an address: digits that PostgreSQL's bigint holds. Null when it is none. */
export const idOf = (text: string | null | undefined): string | null =>
	text && /^[1-9]\d{0,17}$/.test(text) ? text : null;

/** A paper as a page of its own, under a name that every file system takes. */
export const pdfAnswer = (pdf: Uint8Array, name: string): Response =>
	new Response(new Uint8Array(pdf), {
		headers: {
			'content-type': 'application/pdf',
			'content-disposition': `inline; filename="${name.replace(/[^\w.-]/g, '_')}.pdf"`
		}
	});

/** How often a stream says that it is still there, in ms, and looks whether its session is. */
const BEAT = 10_000;
/**
 * An answer that goes on: a message each time something happens, until the page is left or the session has ended.
 * @param follow is given how to send one; returns how to stop
 */
export function eventStream(
	{ locals, cookies }: Pick<RequestEvent, 'locals' | 'cookies'>,
	follow: (send: (text: string) => void) => Promise<() => void>
): Response {
	const secret = locals.person && cookies.get('session');
	let looked = Date.now();
	/** Is the session still there? Looked at once a second at most; while the database does not answer it is taken to be. */
	const isOpen = async () => {
		if (!secret || Date.now() - looked < 1000) return true;
		looked = Date.now();
		return !!(await personOf(pool(), secret).catch(() => locals.person));
	};
	let stop = () => {};
	let beat: ReturnType<typeof setInterval>;
	const stream = new ReadableStream<string>({
		async start(controller) {
			const put = (text: string) => {
				try {
					controller.enqueue(text);
				} catch {
					stop();
					clearInterval(beat);
				}
			};
			// Each message is for somebody who may still read it.
			const send = async (message: string) => {
				if (await isOpen()) return put(message);
				stop();
				clearInterval(beat);
				try {
					controller.close();
				} catch {
					// Whoever read it has gone already.
				}
			};
			stop = await follow((text) => void send(`data: ${text}\n\n`));
			put(': here\n\n');
			beat = setInterval(() => void send(': beat\n\n'), BEAT);
		},
		cancel() {
			stop();
			clearInterval(beat);
		}
	});
	return new Response(stream.pipeThrough(new TextEncoderStream()), {
		headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' }
	});
}
