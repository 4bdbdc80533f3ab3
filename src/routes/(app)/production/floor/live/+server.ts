import { onFloorChange } from '$lib/server/floor/live';
import { allow, answer, eventStream } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** Server-sent events: one message whenever a unit on the floor has moved. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		return eventStream(event, (send) => onFloorChange(() => send('moved')));
	});
