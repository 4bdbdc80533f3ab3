import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { printer, termsPaper } from '$lib/server/outbound/packing';
import { allow, answer, pdfAnswer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** What a customer agreed to, or is to sign. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const pdf = await termsPaper(pool(), printer(who), event.params.code);
		if (!pdf)
			throw new Problem('There is no such sale, or the firm has no terms. Write them in Setup, Terms of sale.', 404);
		return pdfAnswer(pdf, `${event.params.code}-terms`);
	});
