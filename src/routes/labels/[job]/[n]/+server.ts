import { error } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { drawLabel } from '$lib/server/labels/draw';
import { jobLabels } from '$lib/server/labels/jobs';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** One label of a job as a picture. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const { job, n } = event.params;
		const found = /^\d{1,15}$/.test(job) ? await jobLabels(pool(), job) : null;
		const label = found?.labels[Number(n) - 1];
		if (!found || !label) error(404, 'There is no such label.');
		return new Response(await drawLabel(label, found.dpi, found.label), {
			headers: { 'content-type': 'image/svg+xml', 'cache-control': 'private, max-age=3600' }
		});
	});
