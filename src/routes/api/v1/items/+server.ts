import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { allow, answer, body } from '$lib/server/request';
import { createItem, listItems } from '$lib/server/setup/items';
import type { ItemInput } from '$lib/server/setup/items';

export const POST = (event) =>
	answer(async () => {
		allow(event, 'write items');
		const item = (await body(event.request)) as ItemInput;
		const { id, created } = await createItem(pool(), item);
		return json({ id, code: item.code }, { status: created ? 201 : 200 });
	});

export const GET = (event) =>
	answer(async () => {
		allow(event, 'read');
		return json({ items: await listItems(pool()) });
	});
