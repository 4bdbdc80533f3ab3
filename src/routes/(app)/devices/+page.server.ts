import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { cancelJob, listJobs, printLabels, readPrinter, reprint, setPrinter } from '$lib/server/labels/jobs';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	const who = allowPage(event, 'read');
	const [printer, jobs] = await Promise.all([readPrinter(pool()), listJobs(pool())]);
	return { printer, jobs: [...jobs], may: can(who.role, 'print labels') };
};

const id = (t: string | undefined) => (/^\d{1,15}$/.test(t ?? '') ? t! : '0');
export const actions: Actions = {
	/** Sends labels: of a lot or serial, of all that an event brought, or of a place. */
	print: async (event) => {
		const { back: _b, ...typed } = await fields(event.request);
		return attempt(typed, async () => {
			const who = allow(event, 'print labels');
			const { marks, ...rest } = typed;
			const job = await printLabels(pool(), who.name, { ...rest, ...(marks ? { marks: marks.split(' ') } : {}) });
			return { said: said(job) };
		});
	},
	again: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => ({ said: said(await reprint(pool(), allow(event, 'print labels').name, id(typed.job))) })); // prettier-ignore
	},
	cancel: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			allow(event, 'print labels');
			await cancelJob(pool(), id(typed.job));
			return { said: `Job ${typed.job} is cancelled; what was printed of it stays counted.` };
		});
	},
	printer: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			allow(event, 'print labels');
			await setPrinter(pool(), {
				...(typed.online ? { online: typed.online === 'yes' } : {}),
				...(/^\d{1,4}$/.test(typed.paper ?? '') ? { paper: Number(typed.paper) } : {})
			});
			return { said: '' };
		});
	}
};

const said = (job: { id: string; size: number; printed: number }) =>
	job.printed === job.size
		? `Printed: ${job.size === 1 ? 'one label' : `${job.size.toLocaleString('en')} labels`}, job ${job.id}.`
		: `Job ${job.id}: ${job.printed.toLocaleString('en')} of ${job.size.toLocaleString('en')} printed; the rest waits for the printer.`;
