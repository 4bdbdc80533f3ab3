import { error } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { readFile } from '$lib/server/register/attachments';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** A file kept with a lot or serial. It cannot run anything in the page's name. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const file = /^(\d{1,18}|[0-9a-f]{64})$/.test(event.params.id) ? await readFile(pool(), event.params.id) : null;
		if (!file) error(404, 'There is no such file.');
		return new Response(new Uint8Array(file.content), {
			headers: {
				'content-type': file.type,
				// A browser shows no PDF from a sandbox: it is saved instead.
				'content-disposition': `${file.type === 'application/pdf' ? 'attachment' : 'inline'}; filename*=UTF-8''${encodeURIComponent(file.name)}`,
				'content-security-policy': "default-src 'none'; sandbox",
				'cache-control': 'private, max-age=3600'
			}
		});
	});
