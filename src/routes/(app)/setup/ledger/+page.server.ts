import { timeIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { headNow, headsOfDays } from '$lib/server/ledger/seal';
import { headQr } from '$lib/server/ledger/paper';
import { firmZone } from '$lib/server/marks/zone';
import { can } from '$lib/core/people/can';
import { queueHeadNow, readWitness, saveWitness } from '$lib/server/mail/witness';
import { action, page } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

/** How many days back heads are shown. */
const DAYS = 30;

export const load: PageServerLoad = (event) =>
	page(event, 'see the ledger', async (who) => {
		const head = await headNow(pool());
		const [days, zone, witness] = await Promise.all([headsOfDays(pool(), DAYS), firmZone(pool()), readWitness(pool())]);
		return {
			head: { ...head, at: head.at && timeIn(zone, new Date(head.at)) },
			qr: await headQr(head),
			witness,
			may: can(who.role, 'name the witness'),
			days: days.map((d) => ({ ...d, at: timeIn(zone, new Date(d.at!), 'HH:mm') }))
		};
	});

export const actions: Actions = {
	witness: action('name the witness', async ({ who, typed }) => {
		await saveWitness(pool(), who.name, typed.witness ?? '');
		return {
			said: typed.witness?.trim()
				? 'Saved. The head goes out once a day, the first in a moment.'
				: 'Saved. The head is sent to nobody.'
		};
	}),
	send: action('name the witness', async ({ who }) => {
		const to = await queueHeadNow(pool(), who.name);
		return { said: to ? `On its way to ${to}.` : 'Name a witness first.' };
	})
};
