import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { listFor } from '$lib/server/list/page';
import { mailList } from '$lib/server/mail/list';
import { sendAgain } from '$lib/server/mail/send';
import { action, idOf, page } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'see the ledger', async (who) => ({
		list: await listFor(pool(), event, who, mailList),
		may: can(who.role, 'name the witness')
	}));

export const actions: Actions = {
	again: action('name the witness', async ({ typed }) => ({
		said: (await sendAgain(pool(), idOf(typed.mail) ?? '0')) ? 'It is tried at once.' : 'It was sent meanwhile.'
	}))
};
