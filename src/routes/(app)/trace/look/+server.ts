import { json } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { parse } from '$lib/server/parse';
import { allow, answer, body } from '$lib/server/request';
import { lookInput } from '$lib/server/trace/look';
import { runCancellable } from '$lib/server/work/going';
import { inThread } from '$lib/server/work/pool';
import type { RequestHandler } from './$types';

/** Another look at a trace: lines of its table, or its picture with more bars. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const asked = parse(lookInput, await body(event.request));
		const looked = await runCancellable(asked.look, who.name, (how) => inThread('look', asked, how));
		if (!looked) throw new Problem('There is no such lot or serial.', 404);
		return json(looked);
	});
