import { timeIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { headNow, headsOfDays } from '$lib/server/ledger/seal';
import { headQr } from '$lib/server/ledger/paper';
import { firmZone } from '$lib/server/marks/zone';
import { page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

/** How many days back heads are shown. */
const DAYS = 30;

export const load: PageServerLoad = (event) =>
	page(event, 'see the ledger', async () => {
		const head = await headNow(pool());
		const [days, zone] = await Promise.all([headsOfDays(pool(), DAYS), firmZone(pool())]);
		return {
			head: { ...head, at: head.at && timeIn(zone, new Date(head.at)) },
			qr: await headQr(head),
			days: days.map((d) => ({ ...d, at: timeIn(zone, new Date(d.at!), 'HH:mm') }))
		};
	});
