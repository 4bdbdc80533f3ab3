import { pool } from '$lib/server/database/pool';
import { onReaderChange } from '$lib/server/floor/live';
import { findStation } from '$lib/server/production/station';
import { allow, answer, eventStream } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** Server-sent events: the tags before the reader of a station, now and whenever one comes or goes. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'book production');
		const station = await findStation(pool(), event.params.code);
		return eventStream(event, (send) => onReaderChange(station.id, (names) => send(JSON.stringify(names))));
	});
