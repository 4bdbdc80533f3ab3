import { error } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { sheetState } from '$lib/server/orders/sheet';
import { binsOf } from '$lib/server/setup/places';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals }) => {
	try {
		const role = locals.person?.role;
		const sheet = await sheetState(pool(), params.code);
		return {
			sheet,
			bins: await binsOf(pool(), sheet.place),
			may: can(role, 'book production'),
			mayUndo: can(role, 'undo')
		};
	} catch (e) {
		if (e instanceof Problem) error(e.status, e.message);
		throw e;
	}
};
