import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { allow, answer, idOf, pdfAnswer } from '$lib/server/request';
import { repackRecord } from '$lib/server/stock/repackrecord';
import type { RequestHandler } from './$types';

/** The record of a repacking. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const pdf = await repackRecord(pool(), event.params.code, idOf(event.url.searchParams.get('event')));
		if (!pdf) throw new Problem('There is no such repacking, or it was undone.', 404);
		return pdfAnswer(pdf, event.params.code);
	});
