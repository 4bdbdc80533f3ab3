import { json } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { verbsForEvent } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { book } from '$lib/server/ledger/book';
import type { EventInput } from '$lib/server/ledger/input';
import { allow, answer, body } from '$lib/server/request';

export const POST = (event) =>
	answer(async () => {
		const input = await body(event.request);
		if (!input || typeof input !== 'object') throw new Problem('The body is not an event.', 400);
		const given = input as EventInput;
		const movements = Array.isArray(given.movements) ? given.movements : [];
		if (given.order || movements.some((m) => m?.orderLine))
			throw new Problem(
				'Orders are fulfilled on their own pages. Leave order and orderLine out; name the order as document.'
			);
		let who = allow(event, 'read');
		for (const verb of verbsForEvent(String(given.kind), movements)) who = allow(event, verb);
		const asked = (event.url.searchParams.get('create') ?? '').split(',').filter(Boolean);
		if (asked.length) allow(event, 'write places and partners');
		const booked = await book(pool(), who, given, {
			create: { places: asked.includes('places'), partners: asked.includes('partners') }
		});
		return json({ id: booked.id, movements: booked.movements }, { status: booked.again ? 200 : 201 });
	});
