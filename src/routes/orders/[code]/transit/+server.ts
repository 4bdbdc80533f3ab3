import { pool } from '$lib/server/database/pool';
import { sheetAct } from '$lib/server/sheet/page';
import { endTransit } from '$lib/server/stock/transit';
import type { RequestHandler } from './$types';

/** Says what became of what is in transit and will not arrive. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, async (who, { code }, given) => {
		const { movements: n } = await endTransit(pool(), who, code, given);
		return `${n} ${n === 1 ? 'quantity is' : 'quantities are'} not in transit any more.`;
	});
