import { redirect } from '@sveltejs/kit';
import { parseDay } from '$lib/core/dates/dates';
import { can } from '$lib/core/people/can';
import { Problem } from '$lib/core/problem/problem';
import { endOf } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { firmZone } from '$lib/server/marks/zone';
import { action, idOf, page, readJson } from '$lib/server/request';
import { binsOf } from '$lib/server/setup/places';
import { unitPage, type AsOf } from '$lib/server/unit/contents';
import { rebuildUnit } from '$lib/server/unit/rebuild';
import type { Actions, PageServerLoad } from './$types';

const known = ({ params }: { params: { id?: string } }): string => {
	const id = idOf(params.id);
	if (!id) throw new Problem('There is no such serial.', 404);
	return id;
};

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const asked = event.url.searchParams.get('at') ?? 'now';
		const day = parseDay(asked);
		let asOf: AsOf = asked === 'built' ? 'built' : 'now';
		if (asked !== 'built' && 'day' in day) asOf = endOf(await firmZone(pool()), day.day);
		const unit = await unitPage(pool(), known(event), asOf);
		if (!unit) throw new Problem('There is no unit with parts of its own under this number.', 404);
		return {
			unit,
			asOf: asOf instanceof Date && 'day' in day ? day.day : (asOf as 'built' | 'now'),
			bins: await binsOf(pool(), unit.place),
			may: can(who.role, 'service units'),
			said: event.url.searchParams.get('said') === 'booked'
		};
	});

export const actions: Actions = {
	default: action('service units', async ({ who, typed, event }) => {
		const id = known(event);
		await rebuildUnit(pool(), who, id, {
			key: typed.key?.slice(0, 100) || crypto.randomUUID(),
			reason: typed.reason ?? '',
			parts: readJson(typed.parts),
			scrapRest: typed.scrapRest === 'yes'
		});
		redirect(303, `/register/${id}/parts?said=booked`);
	})
};
