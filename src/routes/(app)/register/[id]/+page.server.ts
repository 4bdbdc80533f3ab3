import { error } from '@sveltejs/kit';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { setStatus } from '$lib/server/ledger/status';
import { markPage } from '$lib/server/register/mark';
import { printLabels, printsOf } from '$lib/server/labels/jobs';
import { allow, attempt, fields } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

const known = (id: string) => (/^\d{1,18}$/.test(id) ? id : error(404, 'There is no such lot or serial.'));

export const load: PageServerLoad = async ({ params, locals }) => {
	const mark = await markPage(pool(), known(params.id));
	if (!mark) error(404, 'There is no such lot or serial.');
	return {
		mark,
		prints: await printsOf(pool(), `mark ${mark.id}`),
		mayHold: can(locals.person?.role, 'hold'),
		mayPrint: can(locals.person?.role, 'print labels')
	};
};

const kinds = ['hold', 'release', 'reject'] as const;
export const actions: Actions = {
	label: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			const who = allow(event, 'print labels');
			const { symbol, dpi, copies } = typed;
			const job = await printLabels(pool(), who.name, { marks: [known(event.params.id)], symbol, dpi, copies });
			return {
				said:
					job.printed === job.size
						? `Printed, as job ${job.id}.`
						: `Sent as job ${job.id}; it waits for the printer. See Devices.`
			};
		});
	},
	status: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			const who = allow(event, 'hold');
			const kind = kinds.find((k) => k === typed.kind) ?? 'hold';
			const reason = (typed.reason ?? '').slice(0, 1000);
			const booked = await setStatus(pool(), who, {
				key: typed.key?.slice(0, 100) || crypto.randomUUID(),
				kind,
				mark: known(event.params.id),
				reason
			});
			return { said: `Recorded as event ${booked.id}.` };
		});
	}
};
