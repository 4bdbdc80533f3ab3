import { error } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { packingList } from '$lib/server/outbound/packing';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const shipment = event.url.searchParams.get('event');
		if (shipment && !/^\d{1,18}$/.test(shipment)) error(404, 'There is no such shipment.');
		const pdf = await packingList(pool(), event.params.code, shipment);
		if (!pdf) error(404, 'There is no such shipment, or it was undone.');
		return new Response(new Uint8Array(pdf), {
			headers: {
				'content-type': 'application/pdf',
				'content-disposition': `inline; filename="${event.params.code.replace(/[^\w.-]/g, '_')}.pdf"`
			}
		});
	});
