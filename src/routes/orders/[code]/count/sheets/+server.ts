import { pool } from '$lib/server/database/pool';
import { allow, answer, pdfAnswer } from '$lib/server/request';
import { countSheets } from '$lib/server/stock/count';
import type { RequestHandler } from './$types';

/** Sheets to count by, with or without what is expected. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const { code } = event.params;
		return pdfAnswer(await countSheets(pool(), code, event.url.searchParams.has('expected')), `count-${code}`);
	});
