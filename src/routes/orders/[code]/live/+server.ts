import { onOrderChange } from '$lib/server/sheet/live';
import { allow, answer, eventStream } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** Server-sent events: one message whenever the order's sheet changed, with the page that changed it. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		return eventStream(event, (send) => onOrderChange(event.params.code, send));
	});
