import { error } from '@sveltejs/kit';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { setStatus } from '$lib/server/ledger/status';
import { markPage } from '$lib/server/register/mark';
import { allow, attempt, fields } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

const known = (id: string) => (/^\d{1,18}$/.test(id) ? id : error(404, 'There is no such lot or serial.'));

export const load: PageServerLoad = async ({ params, locals }) => {
	const mark = await markPage(pool(), known(params.id));
	if (!mark) error(404, 'There is no such lot or serial.');
	return { mark, mayHold: can(locals.person?.role, 'hold') };
};

const kinds = ['hold', 'release', 'reject'] as const;
export const actions: Actions = {
	status: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			const who = allow(event, 'hold');
			const kind = kinds.find((k) => k === typed.kind) ?? 'hold';
			const reason = (typed.reason ?? '').slice(0, 1000);
			const booked = await setStatus(pool(), who, {
				key: typed.key?.slice(0, 100) || crypto.randomUUID(),
				kind,
				mark: known(event.params.id),
				reason
			});
			return { said: `Recorded as event ${booked.id}.` };
		});
	}
};
