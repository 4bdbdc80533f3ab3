import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { message } from '$lib/server/mail/mailbox';
import { idOf, page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'see the ledger', async () => {
		const id = idOf(event.params.id);
		const found = id && (await message(pool(), id));
		if (!found) throw new Problem('There is no such message.', 404);
		return { message: found };
	});
