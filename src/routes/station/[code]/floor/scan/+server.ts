import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { scanOnFloor } from '$lib/server/floor/scan';
import { findStation } from '$lib/server/production/station';
import { allow, answer, body } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** A unit's card, scanned on the floor: taken or refused with a sentence. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'book production');
		const station = await findStation(pool(), event.params.code);
		return json(await scanOnFloor(pool(), who, station, await body(event.request)));
	});
