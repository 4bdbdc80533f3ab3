import { json } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { allow, answer } from '$lib/server/request';
import { inThread } from '$lib/server/work/pool';
import type { RequestHandler } from './$types';

/** The most that a file may hold, in bytes; and how long it may take to read one, in milliseconds. */
const MOST = 10_000_000;
const LONGEST = 10_000;
const tooLarge = () => new Problem('The file is larger than 10 MB. Split it, or save it as CSV.', 413);

/** Reads an XLSX into cells, for the preview in a sheet. Keeps nothing. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		if (Number(event.request.headers.get('content-length') ?? 0) > MOST) throw tooLarge();
		const file = await event.request.arrayBuffer();
		if (file.byteLength > MOST) throw tooLarge();
		return json({ cells: await inThread('xlsx', file, { longest: LONGEST }) });
	});
