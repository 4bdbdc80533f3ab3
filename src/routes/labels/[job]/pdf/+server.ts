import { error } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { jobLabels } from '$lib/server/labels/jobs';
import { allow, answer, pdfAnswer } from '$lib/server/request';
import { inThread } from '$lib/server/work/pool';
import type { RequestHandler } from './$types';

/** Five thousand labels are as many as go into one job: each is drawn in hundredths of a second, so many in minutes, in ms. */
const LONGEST = 240_000;

/** All labels of a job as a PDF, one a page. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const found = /^\d{1,15}$/.test(event.params.job) ? await jobLabels(pool(), event.params.job) : null;
		if (!found) error(404, 'There is no such print job.');
		const pdf = await inThread(
			'labels',
			{ labels: found.labels, dpi: found.dpi, size: found.label },
			{ longest: LONGEST }
		);
		return pdfAnswer(pdf, `labels-${event.params.job}`);
	});
