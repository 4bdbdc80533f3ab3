import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { pool } from '$lib/server/database/pool';
import { parse } from '$lib/server/parse';
import { findStation, scanAtStation, shownNow, undoAtStation } from '$lib/server/production/station';
import { allow, answer, body } from '$lib/server/request';
import type { RequestHandler } from './$types';

const given = z.union([z.strictObject({ scan: z.unknown() }), z.strictObject({ undo: z.unknown() })]);
const asked = z.strictObject({ order: z.string().max(60), serial: z.string().max(60).nullable() });

/** A scan at a station: taken or refused with a sentence, and kept either way. Or a part taken back out. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'book production');
		const sent = parse(given, await body(event.request));
		const station = await findStation(pool(), event.params.code);
		return json(
			'scan' in sent
				? await scanAtStation(pool(), who, station, sent.scan)
				: await undoAtStation(pool(), who, station, sent.undo)
		);
	});

/** What a station shows of a unit, or of a whole order. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'book production');
		const { searchParams: at } = event.url;
		const of = parse(asked, { order: at.get('order') ?? '', serial: at.get('serial') });
		return json({ shown: await shownNow(pool(), await findStation(pool(), event.params.code), of) });
	});
