import { redirect } from '@sveltejs/kit';
import { CORRECTABLE, isCorrectable, type CorrectableField } from '$lib/core/ledger/corrections';
import { listPartners } from '$lib/server/setup/places';
import { showDay } from '$lib/core/dates/dates';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { correct } from '$lib/server/ledger/corrections';
import { allFacts } from '$lib/server/marks/facts';
import { markPage, type MarkPage } from '$lib/server/register/mark';
import { touchesOf } from '$lib/server/register/touches';
import { action, idOf, page, readJson } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

const known = ({ params }: { params: { id?: string } }): string => {
	const id = idOf(params.id);
	if (!id) throw new Problem('There is no such lot or serial.', 404);
	return id;
};
/** What is recorded of it now, as it is typed. */
const recorded = (mark: MarkPage, field: CorrectableField): string | null =>
	field === 'number'
		? mark.number
		: field === 'lot'
			? (mark.lot?.number ?? null)
			: field === 'expiresOn'
				? mark.ownExpiresOn
				: mark[field];

export const load: PageServerLoad = (event) =>
	page(event, 'correct numbers', async () => {
		const id = known(event);
		const [mark, defined, partners] = await Promise.all([markPage(pool(), id), allFacts(pool()), listPartners(pool())]);
		if (!mark) throw new Problem('There is no such lot or serial.', 404);
		const own = Object.entries(CORRECTABLE).flatMap(([name, what]) => {
			if (!isCorrectable(name) || !(what.of as readonly string[]).includes(mark.kind)) return [];
			const now = recorded(mark, name);
			return [
				{
					name: name as string,
					label: what.label as string,
					reads: what.reads as string,
					now,
					shown:
						what.reads === 'partner'
							? (mark.ownerName ?? 'nobody else: it is ours')
							: now && what.reads === 'day'
								? showDay(now)
								: now
				}
			];
		});
		const facts = defined.map((f) => {
			const now = mark.facts.find((r) => r.code === f.code)?.value ?? null;
			return { name: f.code, label: f.name, reads: 'fact', now, shown: now };
		});
		const fields = [...own, ...facts];
		const asked = event.url.searchParams.get('field') ?? '';
		const field = fields.some((f) => f.name === asked) ? asked : 'number';
		const { life, ...rest } = mark;
		return {
			mark: {
				id: rest.id,
				kind: rest.kind,
				number: rest.number,
				status: rest.status,
				itemName: rest.itemName,
				item: rest.item,
				expiresOn: rest.expiresOn
			},
			corrected: life.filter((e) => e.kind === 'correct').length,
			fields,
			field,
			defined: [...defined],
			partners: partners.map((p) => [p.code, p.name] as const),
			touches: await touchesOf(pool(), id, field, '', new Date())
		};
	});

export const actions: Actions = {
	default: action('correct numbers', async ({ who, typed, event }) => {
		const id = known(event);
		await correct(pool(), who, {
			key: typed.key?.slice(0, 100) || crypto.randomUUID(),
			mark: id,
			field: typed.field ?? '',
			value: typed.value ?? '',
			reason: typed.reason ?? '',
			expiryToo: typed.expiryToo === 'on',
			also: readJson(typed.also),
			...(typed.field === 'number' ? { into: idOf(typed.into) } : {})
		});
		redirect(303, `/register/${id}?said=corrected`);
	})
};
