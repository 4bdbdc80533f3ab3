import { z } from 'zod';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { PAPERS, pickList, printer, shippingPaper } from '$lib/server/outbound/packing';
import { allow, answer, idOf, pdfAnswer } from '$lib/server/request';
import type { RequestHandler } from './$types';

const kind = z.enum(PAPERS).catch('packing list');

/** The packing list or delivery note of a shipment, or the pick list before it. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const { searchParams } = event.url;
		const asked = searchParams.get('event');
		const shipment = idOf(asked);
		const pdf = !asked
			? await pickList(pool(), event.params.code)
			: shipment &&
				(await shippingPaper(pool(), printer(who), event.params.code, shipment, kind.parse(searchParams.get('paper'))));
		if (!pdf) throw new Problem('There is no such shipment, or it was undone.', 404);
		return pdfAnswer(pdf, event.params.code);
	});
