import { can } from '$lib/core/people/can';
import { grouped } from '$lib/core/quantity/sign';
import { pool } from '$lib/server/database/pool';
import { printLabels } from '$lib/server/labels/jobs';
import { cardsOf, drawForCards, findMade } from '$lib/server/production/cards';
import { action, page, readJson } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const order = await findMade(pool(), event.params.code);
		const { code, closedAt, made } = order;
		return {
			...{ code, closed: !!closedAt, itemName: made.itemName, qty: made.qty, units: made.runMode === 'unit' },
			...(await cardsOf(pool(), order)),
			may: can(who.role, 'print labels') && can(who.role, 'book production')
		};
	});
export const actions: Actions = {
	draw: action('book production', async ({ who, typed, event }) => {
		const more = Math.min(1000, Math.max(0, Number.parseInt(typed.more ?? '0', 10) || 0));
		const drawn = await drawForCards(pool(), who.name, await findMade(pool(), event.params.code ?? ''), more);
		return { said: `${grouped(drawn)} ${drawn === 1 ? 'serial is' : 'serials are'} drawn.` };
	}),
	label: action('print labels', async ({ who, typed, event }) => {
		const job = await printLabels(pool(), who.name, {
			card: { order: event.params.code, own: typed.own === 'yes', serials: readJson(typed.serials) },
			size: typed.size || undefined,
			symbol: typed.symbol || undefined
		});
		return {
			said: `${grouped(job.size)} ${job.size === 1 ? 'card' : 'cards'} sent to the printer, ${grouped(job.printed)} printed.`
		};
	})
};
