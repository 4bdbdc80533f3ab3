import { error } from '@sveltejs/kit';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { setStatus } from '$lib/server/ledger/status';
import { markPage } from '$lib/server/register/mark';
import { addFile, addNote, attachments, MOST_BYTES } from '$lib/server/register/attachments';
import { recordFact } from '$lib/server/ledger/facts';
import { listFacts } from '$lib/server/setup/facts';
import { numberSays } from '$lib/server/numbering/patterns';
import { printLabels, printsOf } from '$lib/server/labels/jobs';
import { allow, attempt, fields } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

const known = (id: string) => (/^\d{1,18}$/.test(id) ? id : error(404, 'There is no such lot or serial.'));

export const load: PageServerLoad = async ({ params, locals }) => {
	const mark = await markPage(pool(), known(params.id));
	if (!mark) error(404, 'There is no such lot or serial.');
	return {
		mark,
		...(await attachments(pool(), mark.id)),
		says: await numberSays(pool(), mark.id),
		defined: [...(await listFacts(pool()))],
		mayNote: can(locals.person?.role, 'add notes'),
		prints: await printsOf(pool(), `mark ${mark.id}`),
		mayHold: can(locals.person?.role, 'hold'),
		mayPrint: can(locals.person?.role, 'print labels')
	};
};

const kinds = ['hold', 'release', 'reject'] as const;
export const actions: Actions = {
	note: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			await addNote(pool(), allow(event, 'add notes').name, known(event.params.id), typed.text);
			return { said: 'The note is kept.' };
		});
	},
	file: async (event) => {
		const given = (await event.request.formData()).get('file');
		return attempt({}, async () => {
			const who = allow(event, 'add notes');
			const file = given instanceof File ? given : new File([], '');
			// Not read when it is too large anyway.
			const bytes = file.size > MOST_BYTES ? new Uint8Array(MOST_BYTES + 1) : new Uint8Array(await file.arrayBuffer());
			await addFile(pool(), who.name, known(event.params.id), { name: file.name, bytes });
			return { said: `${file.name} is kept.` };
		});
	},
	fact: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			const who = allow(event, 'add notes');
			const { code = '', value = '', reason = '' } = typed;
			const booked = await recordFact(pool(), who, { key: typed.key?.slice(0, 100) || crypto.randomUUID(), mark: known(event.params.id), code, value, reason }); // prettier-ignore
			return { said: `Recorded as event ${booked.id}.` };
		});
	},
	label: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			const who = allow(event, 'print labels');
			const { symbol, dpi, copies, size } = typed;
			const job = await printLabels(pool(), who.name, { marks: [known(event.params.id)], symbol, dpi, copies, size });
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
