import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { latestLabels } from '$lib/server/labels/jobs';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** What the labels printed last say, for the simulated scanner. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		return json({ labels: [...(await latestLabels(pool()))] });
	});
