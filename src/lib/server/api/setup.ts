import { z } from 'zod';
import { Problem } from '../../core/problem/problem.ts';
import { pool } from '../database/pool.ts';
import { listPatterns, patternInput, savePattern } from '../numbering/patterns.ts';
import { fieldsOf, parse } from '../parse.ts';
import { factInput, listFacts, saveFact } from '../setup/facts.ts';
import { changeItem, itemChange, listItems } from '../setup/items.ts';
import { getKind, kindInput, saveKind } from '../setup/kinds.ts';
import { placeInput, savePlace } from '../setup/places.ts';
import type { Call, Operation } from './call.ts';
import { keeping, type Kept } from './doing.ts';
import { refusals } from './refusals.ts';

/** What is set up under a code of its own, by whoever sets up items. */
const put = (
	kind: Pick<Kept, 'path' | 'summary' | 'body'> & { refused: string },
	there: (code: string) => Promise<boolean>,
	save: (by: string, input: unknown, old: string | null) => Promise<void>
): Operation =>
	keeping({
		...kind,
		right: 'write items',
		body: kind.body.omit({ code: true }),
		refused: { 422: kind.refused },
		async save(by, code, given) {
			const old = await there(code);
			await save(by, { ...given, code }, old ? code : null);
			return !old;
		}
	});

const putPlace = (path: string, summary: string): Operation =>
	keeping({
		path,
		summary,
		right: 'write places and partners',
		body: placeInput.omit({ code: true }),
		refused: {
			409: 'QS/A1 is there already, as “Shelf A1”. A place keeps its name and its time zone.',
			422: 'There is no site QS. Add the site first.'
		},
		save: (by, code, given) => savePlace(pool(), by, { ...given, code })
	});

/** Changes what is given of an item; the rest stays. */
async function patchItem({ who, params, body }: Call): Promise<Response> {
	const [was] = await listItems(pool(), params.item);
	if (!was)
		throw new Problem(
			[{ message: `There is no item ${params.item.slice(0, 60)}. Check the code.`, code: 'unknown' }],
			404
		);
	const parts = was.parts.map(({ item, qty }) => ({ item, qty }));
	const kept = Object.entries({ ...was, parts }).filter(([field]) => field in itemChange.shape);
	// What is left out stays, whatever it would come to where an item is made.
	const given = Object.entries(parse(itemPatch, body)).filter(([field]) => field in fieldsOf(body));
	await changeItem(pool(), who.name, was.code, Object.fromEntries([...kept, ...given]));
	return Response.json({ code: was.code });
}
const itemPatch = itemChange.partial();

/** The calls that set up what the firm works with. */
export const setupCalls: readonly Operation[] = [
	putPlace('/api/v1/places/{site}', 'Makes a site, or says whether goods arrive there.'),
	putPlace('/api/v1/places/{site}/{bin}', 'Makes a bin of a site, or says whether goods arrive there.'),
	put(
		{
			path: '/api/v1/patterns/{pattern}',
			summary: 'Makes a pattern that numbers are drawn by, or changes one that nothing was drawn from.',
			body: patternInput,
			refused: 'A pattern needs a sequence: without one every number is the same. Add it.'
		},
		async (c) => (await listPatterns(pool(), c)).length > 0,
		(by, input, old) => savePattern(pool(), by, input, old)
	),
	put(
		{
			path: '/api/v1/kinds/{kind}',
			summary:
				'Makes a kind of items with its marking rule, or changes one: what goes by its rule goes by the new one.',
			body: kindInput,
			refused: 'Type a name.'
		},
		async (c) => (await getKind(pool(), c)) !== null,
		(by, input, old) => saveKind(pool(), by, input, old)
	),
	put(
		{
			path: '/api/v1/facts/{fact}',
			summary: 'Defines an extra field that marking rules may ask, or changes one.',
			body: factInput,
			refused: 'The lower limit 8 is above the upper limit 2. Turn them round.'
		},
		async (c) => (await listFacts(pool(), [c])).length > 0,
		(by, input, old) => saveFact(pool(), by, input, old)
	),
	{
		method: 'PATCH',
		path: '/api/v1/items/{item}',
		summary: 'Changes what is given of an item, its marking rule and its parts among it; the rest stays as it is.',
		right: 'write items',
		body: itemPatch,
		answers: { 200: { says: 'It is changed.', schema: z.object({ code: z.string() }) } },
		refusals: {
			...refusals('write items'),
			404: 'There is no item PROBE. Check the code.',
			422: 'PROBE carries serial, and numbers of that are booked: what it carries is only added to.'
		},
		run: patchItem
	}
];
