import { pool } from '$lib/server/database/pool';
import { historyOfAll } from '$lib/server/history/history';
import { listFor } from '$lib/server/list/page';
import { action, page } from '$lib/server/request';
import { reasonList } from '$lib/server/setup/lists';
import { addReason, setReasonClosed } from '$lib/server/setup/reasons';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write places and partners', async (who) => {
		const [list, history] = await Promise.all([
			listFor(pool(), event, who, reasonList),
			historyOfAll(pool(), 'reason')
		]);
		return { list, history };
	});
export const actions: Actions = {
	add: action('write places and partners', async ({ who, typed }) => {
		await addReason(pool(), who.name, { name: typed.name ?? '', act: typed.act });
		return { said: `“${typed.name?.trim()}” is added.` };
	}),
	closed: action('write places and partners', async ({ who, typed }) => {
		const closed = typed.closed === 'yes';
		await setReasonClosed(pool(), who.name, typed.name ?? '', closed);
		return {
			said: closed ? `“${typed.name}” is closed: nobody can choose it any more.` : `“${typed.name}” is open again.`
		};
	})
};
