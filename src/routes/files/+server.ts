import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { MOST_BYTES, storeFile } from '$lib/server/register/attachments';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** Keeps a file for a fact; the body is its bytes, `name` its name. Answers the fact's value. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'add notes');
		const large = Number(event.request.headers.get('content-length') ?? 0) > MOST_BYTES;
		const bytes = large ? new Uint8Array(MOST_BYTES + 1) : new Uint8Array(await event.request.arrayBuffer());
		const kept = await storeFile(pool(), who.name, { name: event.url.searchParams.get('name') ?? 'file', bytes });
		return json({ value: `${kept.sha256} ${kept.name}` });
	});
