import { sentence, type Finding } from '../../core/checks/check.ts';
import { rightsFor } from '../../core/ledger/events.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import { Problem } from '../../core/problem/problem.ts';
import { id } from '../../core/text/input.ts';
import { pool } from '../database/pool.ts';
import { endOf, startOf } from '../../core/time/clock.ts';
import { yieldReport } from '../floor/report.ts';
import { routeOf, setRoute } from '../floor/routes.ts';
import { takeStep, wayOf } from '../floor/steps.ts';
import { book } from '../ledger/book.ts';
import { correct } from '../ledger/corrections.ts';
import { setStatus, setStatusContained } from '../ledger/changes.ts';
import { sealedBeyond } from '../ledger/follow.ts';
import { consistencyOf, entriesFrom, headNow, inclusionOf, sealAll } from '../ledger/seal.ts';
import { allFacts } from '../marks/facts.ts';
import type { Container } from '../marks/inside.ts';
import { marksNamed } from '../marks/named.ts';
import { firmZone } from '../marks/zone.ts';
import { findPairings } from '../pairing/find.ts';
import { parse } from '../parse.ts';
import { notYet, sizeNow } from '../trace/moment.ts';
import { bookedOf } from '../register/life.ts';
import { markNow } from '../register/mark.ts';
import { createItem, listItems } from '../setup/items.ts';
import { savePartner } from '../setup/places.ts';
import { allocationFor } from '../stock/allocations.ts';
import { makePromise, releasePromises } from '../document/promises.ts';
import { traceStream } from '../work/pool.ts';
import type { Call } from './call.ts';
import {
	consistencyQuery,
	correctionBody,
	createQuery,
	entriesQuery,
	inclusionQuery,
	lifeQuery,
	pairingsQuery,
	statusBody,
	traceQuery,
	unitQuery,
	yieldQuery
} from './schemas.ts';

/** Whether the database answers. */
export async function answerHealth(): Promise<Response> {
	try {
		await pool()`SELECT 1`;
		return Response.json({ status: 'ok' });
	} catch {
		throw new Problem('The database does not answer.', 503);
	}
}

/** All items. */
export const answerItems = async (): Promise<Response> => Response.json({ items: await listItems(pool()) });

/** Makes an item. */
export async function makeItem({ who, body }: Call): Promise<Response> {
	const { created, ...item } = await createItem(pool(), who.name, body);
	return Response.json({ id: item.id, code: item.code }, { status: created ? 201 : 200 });
}

const noted = (notes: readonly Finding[]) =>
	notes.slice(0, 200).map((f) => ({ message: sentence(f), code: f.code, at: `movements[${f.line}]` }));

/** Books an event: with the rights that its kind and its movements ask. */
export async function answerEvents({ who, body, query, allow }: Call): Promise<Response> {
	if (!body || typeof body !== 'object' || Array.isArray(body)) throw new Problem('The body is not an event.', 400);
	const given = body as EventInput & { order?: unknown };
	const movements: unknown[] = Array.isArray(given.movements) ? given.movements : [];
	for (const right of rightsFor(given.kind, movements)) allow(right);
	const ours = (m: unknown) => !!m && typeof m === 'object' && ('orderLine' in m || 'mark' in m);
	if (given.order || movements.some(ours))
		throw new Problem(
			'Orders are fulfilled on their own pages. Leave order, orderLine and mark out; name the order as document.'
		);
	const asked = (parse(createQuery, query).create ?? '').split(',').filter(Boolean);
	if (asked.length) allow('write places and partners');
	const booked = await book(pool(), who, given, {
		create: { places: asked.includes('places'), partners: asked.includes('partners') }
	});
	const { movements: count, again, notes } = booked;
	return Response.json(
		{ id: booked.id, movements: count, ...(notes.length ? { notes: noted(notes) } : {}) },
		{ status: again ? 200 : 201 }
	);
}

/** There is no such lot or serial. */
const unknown = (q: { item: string; lot?: string | null; serial?: string | null }) =>
	new Problem(
		[
			{
				message: `There is no ${q.serial ? 'serial' : 'lot'} ${q.serial ?? q.lot} of item ${q.item}. Check the number.`,
				code: 'unknown'
			}
		],
		404
	);
const oneOfTwo = (q: { lot?: string | null; serial?: string | null }) => {
	if (!!q.lot === !!q.serial) throw new Problem([{ message: 'Name a lot or a serial, one of the two.', code: 'form' }]);
};

/** Changes the status of a lot or serial. */
export async function answerStatus({ who, body }: Call): Promise<Response> {
	const { item, lot, serial, contained, ...given } = parse(statusBody, body);
	oneOfTwo({ lot, serial });
	const [mark] = await marksNamed(pool(), [{ item, lot, serial }]);
	if (!mark) throw unknown({ item, lot, serial });
	if (contained) {
		const { booked, changed, gone } = await setStatusContained(pool(), who, { ...given, mark });
		const named = (c: Container) => ({
			item: c.item,
			lot: c.kind === 'lot' ? c.number : null,
			serial: c.kind === 'serial' ? c.number : null
		});
		return Response.json(
			{
				id: booked.id,
				changed: changed.map(named),
				gone: gone.flatMap((c) => c.gone.map((g) => ({ ...named(c), ...g })))
			},
			{ status: booked.again ? 200 : 201 }
		);
	}
	const booked = await setStatus(pool(), who, { ...given, mark });
	return Response.json({ id: booked.id }, { status: booked.again ? 200 : 201 });
}

/** Corrects what is recorded of a lot or serial. */
export async function answerCorrections({ who, body }: Call): Promise<Response> {
	const { item, lot, serial, also = [], ...given } = parse(correctionBody, body);
	const names = [{ item, lot, serial }, ...also];
	names.forEach(oneOfTwo);
	const [mark, ...others] = (await marksNamed(pool(), names)).map((id, i) => {
		if (id === null) throw unknown(names[i]);
		return id;
	});
	const booked = await correct(pool(), who, { ...given, mark, also: others });
	const notes = booked.notes.map((f) => ({ message: sentence(f), code: f.code, at: 'value' }));
	return Response.json({ id: booked.id, ...(notes.length ? { notes } : {}) }, { status: booked.again ? 200 : 201 });
}

/** Traces a lot or serial, in a thread of its own. */
export async function answerTrace({ query }: Call): Promise<Response> {
	const q = parse(traceQuery, query);
	oneOfTwo(q);
	const { direction, item, lot, serial, since, asOf } = q;
	const now = await sizeNow(pool());
	const ledgerSize = q.ledgerSize ?? now;
	if (ledgerSize > now) throw notYet(ledgerSize, now);
	const found = await traceStream({ direction, root: { item, lot, serial }, times: { since, asOf }, ledgerSize });
	if (!found) throw unknown(q);
	return new Response(found, { headers: { 'content-type': 'application/json' } });
}

/** Parts in units. */
export async function answerPairings({ query }: Call): Promise<Response> {
	const { after, count, ...asked } = parse(pairingsQuery, query);
	return Response.json(await findPairings(pool(), asked, after, count));
}

/** Sets an item's route. */
export async function answerRoute({ who, params, body }: Call): Promise<Response> {
	const changed = await setRoute(pool(), who.name, params.item, body);
	const route = (await routeOf(pool(), params.item))!;
	return Response.json({ item: params.item, operations: route.operations.length }, { status: changed ? 201 : 200 });
}

/** Does something to a unit on the floor. */
export async function answerStep({ who, body }: Call): Promise<Response> {
	const { known, ...stepped } = await takeStep(pool(), who, body);
	return Response.json(stepped, { status: known || stepped.again ? 200 : 201 });
}

/** One unit's way. */
export async function answerSteps({ query }: Call): Promise<Response> {
	const { item, serial } = parse(unitQuery, query);
	const way = await wayOf(pool(), item, serial);
	if (!way)
		throw new Problem(
			[{ message: `${serial} of ${item} was never released to the floor. Check the number.`, code: 'unknown' }],
			404
		);
	return Response.json(way);
}

/** The yield of an item's operations. */
export async function answerYield({ query }: Call): Promise<Response> {
	const { item, from, to } = parse(yieldQuery, query);
	const zone = await firmZone(pool());
	const isDay = (t: string) => /^\d{4}-\d\d-\d\d$/.test(t);
	const report = await yieldReport(
		pool(),
		item,
		isDay(from) ? startOf(zone, from) : new Date(from),
		isDay(to) ? endOf(zone, to) : new Date(to)
	);
	const seconds = (ms: number | null) => (ms === null ? null : ms / 1000);
	return Response.json({
		operations: report.operations.map((o) => ({
			...o,
			firstPassYield: o.firstPassYield?.toFraction() ?? null,
			cycleMedian: seconds(o.cycleMedian),
			cycle90: seconds(o.cycle90)
		})),
		rolledThroughputYield: report.rolledThroughputYield?.toFraction() ?? null
	});
}

/** The head of the ledger, with everything sealed that is booked. */
export const answerHead = async (): Promise<Response> => Response.json(await headNow(pool()));

/** Entries of the ledger in order; where there is none yet, the next one as soon as it is sealed. */
export async function answerEntries({ query }: Call): Promise<Response> {
	const { from, count, wait } = parse(entriesQuery, query);
	await sealAll(pool());
	let entries = await entriesFrom(pool(), from, count);
	if (!entries.length && wait) {
		await sealedBeyond(from, wait * 1000);
		entries = await entriesFrom(pool(), from, count);
	}
	return Response.json({ entries });
}

/** What proves that an event is in the ledger. */
export async function answerInclusion({ query }: Call): Promise<Response> {
	const { event, size } = parse(inclusionQuery, query);
	return Response.json(await inclusionOf(pool(), event, size));
}

/** What proves that the ledger of one size begins with that of another. */
export async function answerConsistency({ query }: Call): Promise<Response> {
	const { from, to } = parse(consistencyQuery, query);
	return Response.json(await consistencyOf(pool(), from, to));
}

/** What would be taken of an item, and why the rest would stay. */
export const answerAllocation = async ({ body }: Call): Promise<Response> =>
	Response.json(await allocationFor(pool(), body));

/** Promises a lot quantity or a serial to a line of an order. */
export const answerPromise = async ({ who, body }: Call): Promise<Response> =>
	Response.json(await makePromise(pool(), who, body), { status: 201 });

/** Gives a promise up. */
export const answerRelease = async ({ who, params }: Call): Promise<Response> =>
	Response.json((await releasePromises(pool(), who, [params.id]))[0]);

/** Makes a customer or supplier, or changes one. */
export async function putPartner({ who, params, body }: Call): Promise<Response> {
	const { created, ...partner } = await savePartner(pool(), who.name, params.partner, body);
	return Response.json(partner, { status: created ? 201 : 200 });
}

/** There is no mark with that id. */
const noMark = (id: string) =>
	new Problem(
		[
			{
				message: `There is no lot or serial with id ${id.slice(0, 40)}. Look it up in GET /api/v1/marks.`,
				code: 'unknown'
			}
		],
		404
	);

/** One lot or serial, as it is. */
export async function answerMark({ params }: Call): Promise<Response> {
	const { data } = id.safeParse(params.id);
	const mark = data && (await markNow(pool(), data));
	if (!mark) throw noMark(params.id);
	return Response.json(mark);
}

/** The life of a lot or serial. */
export async function answerLife({ params, query }: Call): Promise<Response> {
	const { after = null, count } = parse(lifeQuery, query);
	const { data } = id.safeParse(params.id);
	const [mark] = data ? await pool()`SELECT 1 FROM mark WHERE id = ${data} AND kind <> 'unmarked'` : [];
	if (!data || !mark) throw noMark(params.id);
	return Response.json(await bookedOf(pool(), data, await allFacts(pool()), { after, count }));
}
