import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { listFor } from '$lib/server/list/page';
import { mailboxList } from '$lib/server/mail/list';
import { readMailbox, setMailbox } from '$lib/server/mail/mailbox';
import { action, page } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'see the ledger', async (who) => {
		const [answers, list] = await Promise.all([readMailbox(pool()), listFor(pool(), event, who, mailboxList)]);
		return { answers, list, may: can(who.role, 'name the witness') };
	});

export const actions: Actions = {
	answers: action('name the witness', async ({ typed }) => {
		await setMailbox(pool(), typed.answers);
		return { said: '' };
	})
};
