import { pool } from '$lib/server/database/pool';
import { historyOfAll } from '$lib/server/history/history';
import { action, page } from '$lib/server/request';
import { listFor } from '$lib/server/list/page';
import { addJob, JOB_KINDS, setJobClosed } from '$lib/server/setup/jobs';
import { jobList } from '$lib/server/setup/lists';
import { listPartners } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write places and partners', async (who) => {
		const [list, partners, history] = await Promise.all([
			listFor(pool(), event, who, jobList),
			listPartners(pool()),
			historyOfAll(pool(), 'job')
		]);
		return { list, kinds: JOB_KINDS, customers: partners.filter((p) => p.kind !== 'supplier'), history };
	});
export const actions: Actions = {
	add: action('write places and partners', async ({ who, typed }) => {
		const { code = '', name = '', kind, partner } = typed;
		await addJob(pool(), who.name, { code, name, kind, partner: partner || null });
		return { said: `Job ${code.trim()} is added.` };
	}),
	closed: action('write places and partners', async ({ who, typed }) => {
		const closed = typed.closed === 'yes';
		await setJobClosed(pool(), who.name, typed.code ?? '', closed);
		return {
			said: closed
				? `Job ${typed.code} is closed: nothing is issued to it any more.`
				: `Job ${typed.code} is open again.`
		};
	})
};
