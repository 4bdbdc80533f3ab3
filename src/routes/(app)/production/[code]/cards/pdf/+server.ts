import { z } from 'zod';
import { pool } from '$lib/server/database/pool';
import { parse } from '$lib/server/parse';
import { findMade, printCards } from '$lib/server/production/cards';
import { number } from '$lib/core/text/input';
import { allow, answer, form, pdfAnswer, readJson } from '$lib/server/request';
import { goOnFor } from '$lib/server/work/going';
import type { RequestHandler } from './$types';

const asked = z.strictObject({ own: z.boolean(), serials: z.array(number).max(20_000) });

/** Work cards as sheets; each printing is counted. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'print labels');
		const typed = await form(event.request);
		const given = parse(asked, {
			own: typed.get('own') === 'yes',
			serials: readJson(String(typed.get('serials') ?? '[]'))
		});
		const order = await findMade(pool(), event.params.code);
		const pdf = await goOnFor(event, who.name, (how) => printCards(pool(), who.name, order, given, how));
		return pdfAnswer(pdf, `cards-${event.params.code}`);
	});
