import { error } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { jobLabels, LABELS_LONGEST } from '$lib/server/labels/jobs';
import { allow, answer, pdfAnswer } from '$lib/server/request';
import { inThread } from '$lib/server/work/pool';
import type { RequestHandler } from './$types';

/** All labels of a job as a PDF, one a page. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const found = /^\d{1,15}$/.test(event.params.job) ? await jobLabels(pool(), event.params.job) : null;
		if (!found) error(404, 'There is no such print job.');
		const pdf = await inThread(
			'labels',
			{ labels: found.labels, dpi: found.dpi, size: found.label },
			{ longest: LABELS_LONGEST }
		);
		return pdfAnswer(pdf, `labels-${event.params.job}`);
	});
