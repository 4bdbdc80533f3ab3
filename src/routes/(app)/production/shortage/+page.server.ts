import { addDuration, parseDay } from '$lib/core/dates/dates';
import { documentKind, documentPath } from '$lib/core/document/kinds';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { proposedPlace } from '$lib/server/document/pages';
import { firmToday } from '$lib/server/list/page';
import { buyMissing, shortage } from '$lib/server/production/shortage';
import { action, page, readJson } from '$lib/server/request';
import { listPartners, placeCodes } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

/** Days ahead that are looked at, where nothing else is asked. */
const AHEAD = 'P14D';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const today = await firmToday(pool());
		const { searchParams: asked } = event.url;
		const order = asked.get('order')?.trim().slice(0, 60) || null;
		const day = parseDay(asked.get('until') ?? '');
		const until = 'day' in day ? day.day : addDuration(today, AHEAD);
		const may = can(who.role, documentKind('purchase').create);
		const [rows, partners, places, proposed] = await Promise.all([
			shortage(pool(), order, until),
			may ? listPartners(pool()) : [],
			may ? placeCodes(pool()) : [],
			may ? proposedPlace(pool(), 'purchase', who.name) : ''
		]);
		return {
			order,
			until,
			today,
			rows,
			may,
			suppliers: partners.filter((p) => p.kind !== 'customer').map((p) => [p.code, p.name] as const),
			places: places.map((p) => p.code),
			proposed
		};
	});

export const actions: Actions = {
	default: action(documentKind('purchase').create, async ({ who, typed }) => {
		const made = await buyMissing(pool(), who, {
			place: typed.place ?? '',
			dueOn: typed.dueOn ?? '',
			lines: readJson(typed.lines)
		});
		return {
			said: `Made: ${made.join(', ')}.`,
			made: made.map((code) => ({ code, path: documentPath('purchase', code) }))
		};
	})
};
