import { redirect } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { createOrder } from '$lib/server/orders/create';
import { today } from '$lib/server/orders/sheet';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import { listItems } from '$lib/server/setup/items';
import { listPartners, listPlaces } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'book inbound');
	const [items, partners, places] = await Promise.all([listItems(pool()), listPartners(pool()), listPlaces(pool())]);
	return {
		today: today(),
		items: items.map(({ code, name, unit }) => ({ code, name, unit })),
		partners: partners.filter((p) => p.kind !== 'customer'),
		places: places.map((p) => p.code)
	};
};

export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		const made = await attempt(typed, async () => {
			const who = allow(event, 'book inbound');
			let lines: unknown;
			try {
				lines = JSON.parse(typed.lines ?? '[]');
			} catch {
				throw new Problem('The lines could not be read. Reload the page.');
			}
			const given = {
				kind: 'purchase' as const,
				code: typed.code?.trim() || null,
				partner: typed.partner || null,
				place: typed.place || null
			};
			return {
				code: await createOrder(pool(), who.name, {
					...given,
					dueOn: typed.dueOn || null,
					note: typed.note || null,
					lines: lines as never
				})
			};
		});
		if (!('code' in made)) return made;
		redirect(303, '/inbound/' + encodeURIComponent(made.code));
	}
};
