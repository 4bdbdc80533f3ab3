import { grouped } from '$lib/core/quantity/sign';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { cancelJob, listJobs, printLabels, readPrinter, reprint, setPrinter } from '$lib/server/labels/jobs';
import { labelList } from '$lib/server/labels/list';
import { listFor } from '$lib/server/list/page';
import { action, idOf, page } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const [printer, jobs, list] = await Promise.all([
			readPrinter(pool()),
			listJobs(pool()),
			listFor(pool(), event, who, labelList)
		]);
		return { printer, jobs, list, may: can(who.role, 'print labels') };
	});

const job = (typed: Record<string, string>) => idOf(typed.job) ?? '0';
export const actions: Actions = {
	/** Sends labels: of a lot or serial, of all that an event brought, or of a place. */
	print: action('print labels', async ({ who, typed }) => {
		const { marks, back: _back, ...rest } = typed;
		const made = await printLabels(pool(), who.name, { ...rest, ...(marks ? { marks: marks.split(' ') } : {}) });
		return { said: said(made) };
	}),
	again: action('print labels', async ({ who, typed }) => ({
		said: said(await reprint(pool(), who.name, job(typed)))
	})),
	cancel: action('print labels', async ({ typed }) => {
		await cancelJob(pool(), job(typed));
		return { said: `Job ${job(typed)} is cancelled; what was printed of it stays counted.` };
	}),
	printer: action('print labels', async ({ typed }) => {
		await setPrinter(pool(), {
			...(typed.online ? { online: typed.online === 'yes' } : {}),
			...(/^\d{1,4}$/.test(typed.paper ?? '') ? { paper: Number(typed.paper) } : {})
		});
		return { said: '' };
	})
};

const said = (made: { id: string; size: number; printed: number }) =>
	made.printed === made.size
		? `Printed: ${made.size === 1 ? 'one label' : `${grouped(made.size)} labels`}, job ${made.id}.`
		: `Job ${made.id}: ${grouped(made.printed)} of ${grouped(made.size)} printed; the rest waits for the printer.`;
