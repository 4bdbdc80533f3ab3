import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { paperKept } from '$lib/server/outbound/packing';
import { allow, answer, idOf } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** A paper as it was printed. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const id = idOf(event.params.id);
		const paper = id && (await paperKept(pool(), id));
		if (!paper) throw new Problem('There is no such paper.', 404);
		return new Response(new Uint8Array(paper.content), {
			headers: {
				'content-type': 'application/pdf',
				'content-disposition': `inline; filename="${paper.name.replace(/[^\w.-]/g, '_')}.pdf"`
			}
		});
	});
