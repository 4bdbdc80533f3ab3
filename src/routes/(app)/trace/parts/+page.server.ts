import { compare } from '$lib/core/parts/real';
import { levelsDown, levelsUp, MOST_LEVELS, needed } from '$lib/core/parts/levels';
import { parseQty } from '$lib/core/quantity/quantity';
import { pool } from '$lib/server/database/pool';
import { page } from '$lib/server/request';
import { itemNames } from '$lib/server/setup/items';
import { partsAround } from '$lib/server/setup/parts';
import { wentInto } from '$lib/server/trace/real';
import { id as idParam } from '$lib/core/text/input';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async () => {
		const p = event.url.searchParams;
		const [code, typed] = [(p.get('item') ?? '').trim().slice(0, 60), (p.get('qty') ?? '1').trim().slice(0, 40)];
		const mark = idParam.safeParse(p.get('mark'));
		const [items, real] = await Promise.all([itemNames(pool()), mark.success ? wentInto(pool(), mark.data) : null]);
		if (p.has('mark')) {
			const names = items.map(({ code, name, unit }) => ({ code, name, unit }));
			const asked = { items: names, code: real?.root.item ?? '', typed: real?.root.qty ?? '1', found: null };
			if (!real) return { ...asked, said: 'That number was not made here. Choose an item.', beside: null };
			const plan = levelsDown(await partsAround(pool(), real.root.item), real.root.item, real.root.qty);
			return { ...asked, said: '', beside: { ...real.root, cut: real.cut, rows: compare(plan, real.went) } };
		}
		const item = items.find((i) => i.code === code);
		const asked = { beside: null, items: items.map(({ code, name, unit }) => ({ code, name, unit })), code, typed };
		if (!item) return { ...asked, said: code ? `There is no item ${code}. Choose one of the list.` : '', found: null };
		const read = parseQty(typed, item.decimals, item.unit);
		if ('problem' in read) return { ...asked, said: read.problem, found: null };
		const lines = await partsAround(pool(), code);
		const down = levelsDown(lines, code, read.qty);
		const up = levelsUp(lines, code);
		const cut = Math.max(down.length, up.length) >= MOST_LEVELS;
		return { ...asked, said: '', found: { item, qty: read.qty, down, up, needed: [...needed(down)], cut } };
	});
