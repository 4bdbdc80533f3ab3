import { json } from '@sveltejs/kit';
import { allow, answer } from '$lib/server/request';
import { doing, stopWork } from '$lib/server/work/going';
import type { RequestHandler } from './$types';

/** What long work that somebody waits for is doing; null where it is done, or never began here. */
export const GET: RequestHandler = (event) =>
	answer(async () => json({ said: doing(event.params.name, allow(event, 'read').name) }));

/** Stops it. */
export const DELETE: RequestHandler = (event) =>
	answer(async () => json({ stopped: stopWork(event.params.name, allow(event, 'read').name) }));
