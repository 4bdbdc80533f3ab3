import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { attachmentOf } from '$lib/server/mail/mailbox';
import { allow, answer, idOf } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** An attachment of a message: always a download, never a page of ours. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'see the ledger');
		const id = idOf(event.params.id);
		const n = /^\d{1,3}$/.test(event.params.n) ? Number(event.params.n) : -1;
		const file = id && (await attachmentOf(pool(), id, n));
		if (!file) throw new Problem('There is no such attachment.', 404);
		return new Response(new Uint8Array(file.content), {
			headers: {
				'content-type': 'application/octet-stream',
				'content-disposition': `attachment; filename="${file.name.replace(/[^\w.-]/g, '_')}"`
			}
		});
	});
