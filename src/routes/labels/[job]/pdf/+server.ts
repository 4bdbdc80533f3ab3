import { error } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { jobLabels, LABELS_LONGEST } from '$lib/server/labels/jobs';
import { allow, answer, pdfAnswer } from '$lib/server/request';
import { goOnFor } from '$lib/server/work/going';
import { inThread } from '$lib/server/work/pool';
import type { RequestHandler } from './$types';

/** All labels of a job as a PDF, one a page. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const found = /^\d{1,15}$/.test(event.params.job) ? await jobLabels(pool(), event.params.job) : null;
		if (!found) error(404, 'There is no such print job.');
		const asked = { labels: found.labels, dpi: found.dpi, size: found.label };
		const pdf = await goOnFor(event, who.name, (how) => inThread('labels', asked, { longest: LABELS_LONGEST, ...how }));
		return pdfAnswer(pdf, `labels-${event.params.job}`);
	});
