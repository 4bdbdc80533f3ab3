import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { Problem } from '$lib/core/problem/problem';
import { readPool } from '$lib/server/database/pool';
import { parse } from '$lib/server/people/people';
import { allow, answer } from '$lib/server/request';
import { backAnswer, forwardAnswer } from '$lib/server/trace/answer';

const time = z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' }).optional();
const query = z
	.object({
		direction: z.enum(['forward', 'back'], 'Say direction=forward or direction=back.'),
		item: z.string({ error: 'Name the item.' }).min(1),
		lot: z.string().optional(),
		serial: z.string().optional(),
		since: time,
		asOf: time
	})
	.refine((q) => !!q.lot !== !!q.serial, 'Name a lot or a serial, one of the two.');

export const GET = (event) =>
	answer(async () => {
		allow(event, 'read');
		const q = parse(query, Object.fromEntries(event.url.searchParams));
		const found = await (q.direction === 'forward' ? forwardAnswer(readPool(), q, q) : backAnswer(readPool(), q, q));
		if (!found) throw new Problem(`There is no ${q.serial ? 'serial' : 'lot'} ${q.serial ?? q.lot} of item ${q.item}. Check the number.`, 404); // prettier-ignore
		return json(found);
	});
