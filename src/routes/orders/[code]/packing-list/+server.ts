import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { packingList } from '$lib/server/outbound/packing';
import { allow, answer, idOf, pdfAnswer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** The packing list of a shipment, or the pick list before it. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const asked = event.url.searchParams.get('event');
		const shipment = idOf(asked);
		const pdf = asked && !shipment ? null : await packingList(pool(), who.name, event.params.code, shipment);
		if (!pdf) throw new Problem('There is no such shipment, or it was undone.', 404);
		return pdfAnswer(pdf, event.params.code);
	});
