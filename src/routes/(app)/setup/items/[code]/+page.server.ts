import { Problem } from '$lib/core/problem/problem';
import { example } from '$lib/core/numbering/pattern';
import { amount, total } from '$lib/core/quantity/quantity';
import { bareStock } from '$lib/server/stock/number';
import { pool } from '$lib/server/database/pool';
import { historyOf } from '$lib/server/history/history';
import { listPatterns } from '$lib/server/numbering/patterns';
import { MOST_BYTES, storeFile, typeOf } from '$lib/server/register/attachments';
import { action, fileAction, page, readJson } from '$lib/server/request';
import { listFacts } from '$lib/server/setup/facts';
import { changeItem, itemNames, listItems, ruleMeans, setPicture } from '$lib/server/setup/items';
import { listKinds } from '$lib/server/setup/kinds';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async () => {
		const { code } = event.params;
		const [[item], all, patterns, facts, kinds, history] = await Promise.all([
			listItems(pool(), code),
			itemNames(pool()),
			listPatterns(pool()),
			listFacts(pool()),
			listKinds(pool()),
			historyOf(pool(), 'item', code)
		]);
		if (!item) throw new Problem(`There is no item ${code.slice(0, 60)}.`, 404);
		return {
			item,
			history,
			kinds: kinds.map(({ code, name }) => ({ code, name })),
			facts: facts.map(({ code, name }) => ({ code, name })),
			patterns: patterns.map(({ code, name, blocks }) => ({ code, name, like: example(blocks) })),
			all: all.map(({ code, name, unit }) => ({ code, name, unit }))
		};
	});

const MEASURES = ['net', 'gross', 'length', 'width', 'height', 'volumetric'];

export const actions: Actions = {
	picture: fileAction('write items', MOST_BYTES, async ({ who, file, event }) => {
		if (typeOf(file.bytes) === 'application/pdf')
			throw new Problem([{ message: `${file.name} is a PDF. Take a picture: PNG or JPEG.`, at: 'file' }]);
		const { sha256 } = await storeFile(pool(), who.name, file);
		await setPicture(pool(), who.name, event.params.code ?? '', sha256);
		return { said: 'The picture is kept, and shown wherever the item is checked by eye.' };
	}),
	noPicture: action('write items', async ({ who, event }) => {
		await setPicture(pool(), who.name, event.params.code ?? '', null);
		return { said: 'The picture is taken away.' };
	}),
	save: action('write items', async ({ who, typed, event }) => {
		const code = event.params.code ?? '';
		const text = (name: string) => typed[name]?.trim() || null;
		const rules = readJson(typed.rules);
		const change = {
			name: typed.name ?? '',
			...(typed.tracking ? { tracking: typed.tracking } : {}),
			shelfLife: text('shelfLife'),
			endOfMonth: typed.endOfMonth === 'yes',
			expiryFrom: typed.expiryFrom || null,
			warranty: text('warranty'),
			leastLeft: text('leastLeft'),
			minimumDaysLeft: text('minimumDaysLeft') === null ? null : Number(text('minimumDaysLeft')),
			earlyNotice: text('earlyNotice') === null ? null : Number(text('earlyNotice')),
			preference: text('preference'),
			oneLot: typed.oneLot === 'yes',
			gtin: text('gtin'),
			lotPattern: text('lotPattern'),
			serialPattern: text('serialPattern'),
			drawnAt: typed.drawnAt || 'sheet',
			misfit: typed.misfit || 'stop',
			supplierNumber: typed.supplierNumber || 'beside',
			review: typed.review === 'yes',
			contentQty: text('contentQty'),
			contentUnit: text('contentUnit'),
			lossTolerance: text('lossTolerance'),
			measures: Object.fromEntries(MEASURES.map((m) => [m, text(m)])),
			kind: text('kind'),
			ownRule: typed.ownRule !== 'no',
			rules,
			parts: readJson(typed.parts),
			byproducts: readJson(typed.byproducts)
		};
		// A rule is saved after its meaning was shown: what was shown comes back with the second press.
		const about = JSON.stringify([change.kind, change.ownRule, rules]);
		const means = await ruleMeans(pool(), code, change);
		if (means.length && typed.confirmed !== about) return { means, about };
		await changeItem(pool(), who.name, code, change);
		const bare = typed.tracking ? await bareStock(pool(), code) : [];
		const left = bare.length
			? ` ${amount(total(bare.map((b) => b.qty)), bare[0].unit)} on hand have no number of it yet: number them bin by bin, in Stock, Numbering. Then say in the rule where it is asked.`
			: '';
		return { said: `Saved. It counts from the next booking on.${left}` };
	})
};
