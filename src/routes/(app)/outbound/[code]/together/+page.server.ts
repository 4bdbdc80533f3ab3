import { redirect } from '@sveltejs/kit';
import { documentKind, documentPath } from '$lib/core/document/kinds';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { action, page, readJson } from '$lib/server/request';
import { bookTogether, findOpenOrder, offerTogether } from '$lib/server/sheet/state';
import type { Actions, PageServerLoad } from './$types';

/** Orders that may go together with this one, and what would go of those that are chosen. */
export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const order = await findOpenOrder(pool(), event.params.code, 'sale');
		const chosen = event.url.searchParams.has('chosen') ? event.url.searchParams.getAll('and') : null;
		return {
			code: order.code,
			partnerName: order.partnerName,
			place: order.place,
			...(await offerTogether(pool(), order, chosen)),
			may: can(who.role, documentKind('sale').right)
		};
	});
export const actions: Actions = {
	default: async (event) => {
		const made = await action('book outbound', async ({ who, typed }) => {
			const { key, reason } = typed;
			await bookTogether(pool(), who, { key, reason, orders: readJson(typed.orders) });
			return { done: true };
		})(event);
		if (!('done' in made)) return made;
		redirect(303, documentPath('sale', event.params.code));
	}
};
