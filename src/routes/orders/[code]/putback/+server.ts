import { group } from '$lib/core/group/group';
import { pool } from '$lib/server/database/pool';
import { putBack } from '$lib/server/outbound/putback';
import { sheetAct } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

/** Puts what was picked and waits back to its bins, and says where each goes. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, async (who, { code }, given) => {
		const { back } = await putBack(pool(), who, code, given);
		const where = [...group(back, (b) => b.to)].map(
			([to, list]) =>
				`${to}: ${[...new Set(list.map((b) => b.number))].slice(0, 20).join(', ')}${list.length > 20 ? ' …' : ''}`
		);
		return `Put back to ${where.join('; ')}.`;
	});
