import { json } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { readXlsx } from '$lib/server/tables/xlsx';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** Reads an XLSX into cells, for the preview in a sheet. Keeps nothing. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const file = await event.request.arrayBuffer();
		if (file.byteLength > 10_000_000)
			throw new Problem('The file is larger than 10 MB. Split it, or save it as CSV.', 413);
		return json({ cells: await readXlsx(file) });
	});
