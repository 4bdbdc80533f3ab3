import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { roles } from '../../src/lib/core/people/can.ts';
import { openapi } from '../../src/lib/server/api/openapi.ts';
import { nearMiss, valuesOf } from '../arbitrary.ts';
import { findingsOf, goldenItems } from '../db/cluster.ts';
import { backDifferences, differences, readGolden } from '../golden/golden.ts';
import { OPERATIONS, operationOf } from '../../src/lib/server/api/contract.ts';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { savePolicy } from '../../src/lib/server/setup/policy.ts';
import { startApp } from './app.ts';

/** A fixed sequence, so that a failure can be looked at again. */
const SEED = 20261127;
// An empty firm: no items, places or partners, one administrator. Each golden ledger gets items of its own names.
const app = startApp({ demo: false });
/** Calls, and holds what comes back against what the contract says of it. */
const call = async (token: string | null, path: string, body?: unknown) => {
	const method = body === undefined ? 'GET' : 'POST';
	const answer = await fetch(`${app.base}/api/v1/${path}`, {
		method,
		headers: { 'content-type': 'application/json', ...(token ? { authorization: `Bearer ${token}` } : {}) },
		body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body)
	});
	const said = await answer.json();
	const { operation } = operationOf(method, `/api/v1/${path.replace(/\?.*$/, '')}`)!;
	const promised = operation.answers[answer.status];
	if (promised) expect(promised.schema.safeParse(said).error, `${method} ${path}`).toBeUndefined();
	else expect(Object.keys(operation.refusals), `${method} ${path}`).toContain(String(answer.status));
	return { status: answer.status, type: answer.headers.get('content-type'), body: said };
};
/** All pages of a list, one after another. */
const pagesOf = async <T>(token: string, path: string, rows: string): Promise<T[]> => {
	const all: T[] = [];
	for (let after: string | null = ''; after !== null;) {
		const { status, body } = await call(token, `${path}${after && `&after=${encodeURIComponent(after)}`}`);
		expect(status, path).toBe(200);
		all.push(...body[rows]);
		after = body.next;
	}
	return all;
};
const query = (o: Record<string, string | null | undefined>) =>
	new URLSearchParams(Object.entries(o).filter(([, v]) => v) as [string, string][]);

describe('the interface for programs', () => {
	it('an empty firm has one administrator and nothing else', async () => {
		expect(await app.sql`SELECT 1 FROM item`).toHaveLength(0);
		expect(await app.sql`SELECT role FROM person`).toEqual([{ role: 'administrator' }]);
		expect((await call(null, 'healthz')).body).toEqual({ status: 'ok' });
	});
	it('items: new is 201, the same again 200, another under the code 409', async () => {
		const token = await app.token('coordinator');
		const item = { code: 'X-1', name: 'X', unit: 'kg', tracking: 'lot' };
		expect((await call(token, 'items', item)).status).toBe(201);
		expect((await call(token, 'items', item)).status).toBe(200);
		expect((await call(token, 'items', { ...item, unit: 'g' })).status).toBe(409);
		const wrong = await call(token, 'items', { ...item, code: 'X 2', tracking: 'both', colour: 'red' });
		expect([wrong.status, wrong.type]).toEqual([422, 'application/problem+json']);
		expect(wrong.body.errors.map((e: { at: string }) => e.at)).toEqual(['code', 'tracking', '']);
	});

	it('items take where their numbers and dates come from; a kind that is none is named', async () => {
		const token = await app.token('coordinator');
		const item = {
			code: 'X-2',
			name: 'X',
			unit: 'each',
			tracking: 'serial',
			warranty: 'P24M',
			endOfMonth: true,
			supplierNumber: 'printed'
		};
		expect((await call(token, 'items', item)).status).toBe(201);
		const { body } = await call(token, 'items');
		expect(body.items.find((i: { code: string }) => i.code === 'X-2')).toMatchObject({
			warranty: 'P24M',
			endOfMonth: true,
			supplierNumber: 'printed',
			drawnAt: 'sheet',
			ownRule: true,
			kind: null
		});
		const wrong = await call(token, 'items', { ...item, code: 'X-3', kind: 'NONE', warranty: 'two years' });
		expect([wrong.status, wrong.body.errors[0].at]).toEqual([422, 'warranty']);
		const none = await call(token, 'items', { ...item, code: 'X-3', kind: 'NONE' });
		expect([none.status, none.body.errors[0]]).toEqual([
			422,
			{ message: 'There is no kind NONE. Make it in Setup, Kinds.', at: 'kind' }
		]);
		expect(await app.sql`SELECT 1 FROM item WHERE code = 'X-3'`).toHaveLength(0);
	});
	it('events carry facts and the supplier’s serial, with the same checks and sentences as the screens', async () => {
		const token = await app.token('coordinator');
		await app.sql`INSERT INTO fact (code, name, kind, unit, decimals, low, high, outside, per, created_by) VALUES ('TEMP', 'Temperature', 'number', '°C', 1, 2, 8, 'stop', 'piece', 'test')`;
		await app.sql`INSERT INTO fact_rule (item_id, fact_id, step, how) SELECT i.id, f.id, 'receipt', 'required' FROM item i, fact f WHERE i.code = 'X-2'`;
		const receipt = (serial: string, more: object) => ({
			key: `facts ${serial}`,
			kind: 'receipt',
			at: '2026-03-03T08:00:00Z',
			partner: 'S9',
			movements: [{ item: 'X-2', serial, qty: 1, from: '@supplier', to: 'F9/A1', ...more }]
		});
		const send = (body: unknown) => call(token, 'events?create=places,partners', body);
		for (const [facts, sentence] of [
			[undefined, 'Serial S-1: Temperature is missing. Type it in.'],
			[{ TEMP: 31 }, 'Serial S-1: Temperature 31 °C is outside 2 to 8 °C. Put it aside, or measure again.'],
			[{ TEMP: 'warm' }, 'Serial S-1: Temperature: “warm” is not a number.'],
			[{ TEMP: 4, COLOUR: 'red' }, 'There is no fact COLOUR. Define it in Setup, or correct the code.']
		] as const) {
			const { status, body } = await send(receipt('S-1', { facts }));
			expect([status, body.errors[0].at, body.errors[0].message]).toEqual([
				422,
				'movements[0]',
				expect.stringContaining(sentence)
			]);
		}
		expect(await app.sql`SELECT 1 FROM mark WHERE number = 'S-1'`).toHaveLength(0);
		expect((await send(receipt('S-1', { facts: { TEMP: 4.5 }, supplierSerial: 'TS-900' }))).status).toBe(201);
		expect(await app.sql`SELECT facts, supplier_serial AS theirs FROM mark WHERE number = 'S-1'`).toEqual([
			{ facts: { TEMP: '4.5' }, theirs: 'TS-900' }
		]);
		// The same request again is the same event; another under its key is refused, so that nothing gets lost.
		expect((await send(receipt('S-1', { facts: { TEMP: 4.5 }, supplierSerial: 'TS-900' }))).status).toBe(200);
		expect((await send(receipt('S-1', { facts: { TEMP: 7 } }))).status).toBe(409);
		expect((await app.sql`SELECT facts FROM mark WHERE number = 'S-1'`)[0].facts).toEqual({ TEMP: '4.5' });
	});

	it.each([1, 2, 3])('golden ledger %i goes in and comes back right, forward and back, every one', async (n) => {
		const token = await app.token('coordinator');
		const golden = readGolden(n);
		// The ledgers share serials too, which a firm would be asked about.
		await savePolicy(app.sql, 'test', { 'another item': 'note' });
		// The ledgers share numbers; in one database each has its own items.
		const own = <T>(value: T): T =>
			JSON.parse(
				JSON.stringify(value)
					.replaceAll(/"item":"([A-Z0-9]+)"/g, `"item":"$1-${n}"`)
					.replaceAll(/"(key|undoes|code|run)":"/g, `"$1":"${n}/`)
			);
		for (const item of goldenItems)
			expect((await call(token, 'items', { ...item, code: `${item.code}-${n}` })).status).toBe(201);
		for (const event of own(golden.ledger.events)) {
			const { status, body } = await call(token, 'events?create=places,partners', event);
			expect([status, body], JSON.stringify(event)).toEqual([201, expect.anything()]);
		}
		const first = own(golden.ledger.events[0]);
		expect((await call(token, 'events?create=places,partners', first)).status).toBe(200);
		const wrong: string[] = [];
		for (const want of own(golden.forward)) {
			const { body } = await call(token, `trace?${query({ direction: 'forward', ...want.root })}`);
			wrong.push(...differences(body, want).map((d) => `forward ${JSON.stringify(want.root)}: ${d}`));
		}
		for (const want of own(golden.back)) {
			const { body } = await call(token, `trace?${query({ direction: 'back', ...want.root })}`);
			wrong.push(...backDifferences(body, want).map((d) => `back ${JSON.stringify(want.root)}: ${d}`));
		}
		expect(wrong).toEqual([]);
		expect(golden.forward.length + golden.back.length).toBeGreaterThan(30);
	});

	it('names each faulty line, and books nothing', async () => {
		const token = await app.token('coordinator');
		const before = await app.sql`SELECT max(id) AS last_event FROM event`;
		const move = (more: object) => ({ item: 'X-1', lot: 'L-1', qty: 1, from: '@supplier', to: 'QS/A1', ...more });
		const event = (movements: object[], more: object = {}) => ({
			key: crypto.randomUUID(),
			kind: 'receipt',
			at: '2026-03-01T08:00:00Z',
			movements,
			...more
		});
		const { status, body, type } = await call(
			token,
			'events',
			event([move({}), move({ item: 'NOPE' }), move({ to: 'QS/NOPE' })])
		);
		expect([status, type]).toEqual([422, 'application/problem+json']);
		expect(body.errors.map((e: { at: string; message: string }) => `${e.at} ${e.message.slice(0, 28)}`)).toEqual([
			'movements[1] There is no item NOPE. Add i',
			'movements[2] There is no place QS/NOPE. A'
		]);
		expect((await call(token, 'events', event([move({ qty: -1 })]))).body.errors[0]).toMatchObject({
			at: 'movements[0]',
			message: '-1 is below zero. A quantity is more than zero.'
		});
		expect((await call(token, 'events', event([move({ qty: 'abc' })]))).status).toBe(422);
		expect((await call(token, 'events', event([move({ expiresOn: '2026-02-30' })]))).body.errors[0].message).toContain(
			'There is no 2026-02-30 in the calendar'
		);
		expect((await call(token, 'events', event([move({})], { at: 'yesterday' }))).body.errors[0].message).toBe(
			'Give the time as 2026-03-14T09:30:00Z.'
		);
		expect((await call(token, 'events', event([move({})], { partner: 'NOBODY' }))).body.errors[0].at).toBe('partner');
		expect((await call(token, 'events', event([]))).body.errors[0].message).toBe(
			'Nothing is moved. Give at least one movement.'
		);
		expect((await call(token, 'events', event([move({ lot: 'L'.repeat(10_000) })]))).status).toBe(422);
		expect((await call(token, 'events', '{"key":')).status).toBe(400);
		expect((await call(token, 'trace?direction=forward&item=X-1&lot=NONE')).status).toBe(404);
		expect((await call(token, 'trace?direction=sideways&item=X-1&lot=L')).body.errors[0].message).toBe(
			'Say direction=forward or direction=back.'
		);
		expect(await app.sql`SELECT max(id) AS last_event FROM event`).toEqual(before);
	});

	it('lists by pages: every lot and serial once, what is on hand, what was booked; narrowed as the screens are', async () => {
		const token = await app.token('auditor');
		const marks = await pagesOf<{ id: string; number: string; item: string; onHand: string; kind: string }>(
			token,
			'marks?count=37',
			'marks'
		);
		const known = await app.sql<{ id: string }[]>`SELECT id FROM mark WHERE kind <> 'unmarked' ORDER BY id`;
		expect(known.length).toBeGreaterThan(50);
		expect(marks.map((m) => Number(m.id)).sort((a, b) => a - b)).toEqual(known.map((k) => Number(k.id)));
		const down = await pagesOf<{ number: string }>(token, 'marks?count=1000&sort=-number&kind=serial', 'marks');
		expect(down.map((m) => m.number)).toEqual(
			(
				await app.sql`SELECT number FROM mark WHERE kind = 'serial' ORDER BY number COLLATE natural_order DESC, id DESC`
			).map((r) => r.number)
		);
		const stock = await pagesOf<{ qty: string; item: string; place: string }>(
			token,
			'stock?count=10&item=X-2',
			'stock'
		);
		expect(stock).toMatchObject([{ item: 'X-2', number: 'S-1', place: 'F9/A1', qty: '1', free: '1', unit: 'each' }]);
		const total = (await pagesOf<{ qty: string }>(token, 'stock?count=100', 'stock')).reduce(
			(n, r) => n + Number(r.qty),
			0
		);
		const [{ qty }] = await app.sql`SELECT sum(qty)::float AS qty FROM balance WHERE qty > 0 AND NOT virtual`;
		expect(total).toBeCloseTo(qty, 6);
		expect(await pagesOf(token, 'stock?count=100&asOf=2020-01-01', 'stock')).toEqual([]);
		const events = await pagesOf<{ id: string; kind: string }>(token, 'events?count=50', 'events');
		const booked = await app.sql<{ id: string }[]>`SELECT id FROM event ORDER BY recorded_at DESC, id DESC`;
		expect(events.map((e) => e.id)).toEqual(booked.map((e) => e.id));
		const receipts = await pagesOf<{ kind: string }>(token, 'events?count=50&kind=receipt', 'events');
		expect(receipts.length).toBe(events.filter((e) => e.kind === 'receipt').length);
	});
	it('what a list does not know it refuses, and does not pass for an empty one', async () => {
		const token = await app.token('auditor');
		for (const [path, at, message] of [
			['marks?colour=red', '', 'There is no “colour” here. Remove it, or correct the name.'],
			['marks?expires.to=soon', 'expires.to', 'Give a day, such as 2027-03-31.'],
			['marks?qty.from=many', 'qty.from', 'Give a number, such as 12.5.'],
			['marks?status=lost', 'status', 'Give one of: released, quarantine, held, rejected.'],
			['marks?item=NOPE', 'item', 'There is no item NOPE. Check the code.'],
			['stock?place=ZZ', 'place', 'There is no place ZZ. Check the code.'],
			['stock?asOf=2026-02-31', 'asOf', 'Give a day as 2027-03-31, or a moment as 2027-03-31 14:30.'],
			['events?count=0', 'count', 'Give count as a whole number from 1 to 1000.'],
			['events?after=x', 'after', 'Give after as the page before said it in next.'],
			['events?sort=reasons', 'sort', expect.stringContaining('Give one of: recorded, -recorded')]
		]) {
			const { status, body } = await call(token, path as string);
			expect([status, body.errors[0].at ?? '', body.errors[0].message], path as string).toEqual([422, at, message]);
		}
	});
	it('one lot or serial: what is in force, where it is, and its life by pages', async () => {
		const token = await app.token('auditor');
		const [{ id }] = await app.sql`SELECT id FROM mark WHERE number = 'S-1' AND kind = 'serial'`;
		expect((await call(token, `marks/${id}`)).body).toMatchObject({
			...{ item: 'X-2', number: 'S-1', kind: 'serial', status: 'released', supplierSerial: 'TS-900' },
			...{ facts: { TEMP: '4.5' }, where: [{ place: 'F9/A1', qty: '1', partner: null }] }
		});
		for (const none of ['999999', 'x', '0']) {
			expect((await call(token, `marks/${none}`)).body.errors[0].message).toContain(`no lot or serial with id ${none}`);
			expect((await call(token, `marks/${none}/events`)).status).toBe(404);
		}
		const [most] = await app.sql<{ id: string; n: number }[]>`
			SELECT m.mark_id AS id, count(DISTINCT m.event_id)::int AS n FROM movement m JOIN mark k ON k.id = m.mark_id AND k.kind = 'lot' GROUP BY 1 ORDER BY 2 DESC LIMIT 1`;
		expect(most.n).toBeGreaterThan(4);
		const whole = await pagesOf<{ event: string }>(token, `marks/${most.id}/events?count=1000`, 'events');
		expect(whole.map((e) => Number(e.event))).toEqual(whole.map((e) => Number(e.event)).sort((a, b) => a - b));
		expect(new Set(whole.map((e) => e.event)).size).toBeGreaterThanOrEqual(most.n);
		expect(await pagesOf(token, `marks/${most.id}/events?count=2`, 'events')).toEqual(whole);
	});

	it('promises: the same key is the same promise; another order takes over only with a reason; given up it is free', async () => {
		const token = await app.token('coordinator');
		await call(token, 'items', { code: 'GEL', name: 'Gel', unit: 'kg', tracking: 'lot' });
		const receipt = {
			...{ key: 'gel', kind: 'receipt', at: '2026-03-01T08:00:00Z', partner: 'S9' },
			movements: [{ item: 'GEL', lot: 'G-1', qty: 5, from: '@supplier', to: 'QS/A1' }]
		};
		expect((await call(token, 'events?create=places,partners', receipt)).status).toBe(201);
		await fetch(`${app.base}/api/v1/partners/C9`, {
			...{ method: 'PUT', headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` } },
			body: JSON.stringify({ name: 'Customer', kind: 'customer' })
		});
		const sale = () =>
			createDocument(app.sql, 'ines', { kind: 'sale', partner: 'C9', place: 'QS', lines: [{ item: 'GEL', qty: '4' }] });
		const [order, other] = [await sale(), await sale()];
		const given = { key: 'promise-1', order, line: 1, item: 'GEL', lot: 'G-1', qty: '4' };
		const made = await call(token, 'promises', given);
		expect([made.status, made.body]).toMatchObject([201, { order, line: 1, lot: 'G-1', serial: null, qty: '4' }]);
		expect((await call(token, 'promises', given)).body).toEqual(made.body);
		expect((await call(token, 'promises', { ...given, qty: '3' })).status).toBe(409);
		const free = async () => {
			const { body } = await call(token, 'allocations', { item: 'GEL', qty: 5, purpose: 'shipment' });
			return [body.picks.map((p: { qty: string }) => p.qty), body.short];
		};
		expect(await free()).toEqual([['1'], '4']);
		const second = { ...given, key: 'promise-2', order: other, qty: 2 };
		const refused = await call(token, 'promises', second);
		expect([refused.status, refused.body.errors[0]]).toMatchObject([
			422,
			{ code: 'promise', level: 'reason', at: 'qty' }
		]);
		expect((await call(token, 'promises', { ...second, reason: 'Their line stands still' })).status).toBe(201);
		expect(await free()).toEqual([[], '5']);
		const release = (id: string, as = token) =>
			fetch(`${app.base}/api/v1/promises/${id}`, { method: 'DELETE', headers: { authorization: `Bearer ${as}` } });
		expect((await release(made.body.id, await app.token('auditor'))).status).toBe(403);
		expect((await release('999999')).status).toBe(404);
		expect((await release('x')).status).toBe(404);
		expect(await (await release(made.body.id)).json()).toEqual({ id: made.body.id, order });
		expect((await release(made.body.id)).status).toBe(200);
		expect(await free()).toEqual([['3'], '2']);
	});

	it('a role may do what it may: by what the movements do, not by what the event is called', async () => {
		const [auditor, assembly] = [await app.token('auditor'), await app.token('assembly')];
		const receipt = {
			key: 'role-1',
			kind: 'receipt',
			at: '2026-03-01T08:00:00Z',
			movements: [{ item: 'X-1', lot: 'L-1', qty: 1, from: '@supplier', to: 'QS/A1' }]
		};
		expect((await call(null, 'events', receipt)).status).toBe(401);
		expect((await call('em_wrong', 'events', receipt)).status).toBe(401);
		expect((await call(auditor, 'events', receipt)).status).toBe(403);
		expect((await call(assembly, 'events', { ...receipt, kind: 'use' })).status).toBe(403);
		expect((await call(auditor, 'items', { code: 'Y', name: 'Y', unit: 'kg', tracking: 'lot' })).status).toBe(403);
		expect((await call(auditor, 'items')).status).toBe(200);
	});
});

describe('a program that knows nothing but openapi.json', () => {
	/** Calls by the names that the description gives, and takes what it answers. */
	async function program(token: string) {
		const { paths }: ReturnType<typeof openapi> = await (await fetch(`${app.base}/api/v1/openapi.json`)).json();
		const calls = Object.entries(paths).flatMap(([path, of]) =>
			Object.entries(of).map(([method, call]) => [call.operationId, { path, method, call }] as const)
		);
		const known = new Map(calls);
		return async (name: string, given: Record<string, string>, body?: object) => {
			const { path, method, call } = known.get(name)!;
			const query = new URLSearchParams();
			let at = path;
			for (const { name: field, in: where } of call.parameters ?? [])
				if (where === 'path') at = at.replace(`{${field}}`, encodeURIComponent(given[field]));
				else if (given[field] !== undefined) query.set(field, given[field]);
			const answer = await fetch(`${app.base}${at}?${query}`, {
				method: method.toUpperCase(),
				headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
				body: body && JSON.stringify(body)
			});
			const said = await answer.json();
			expect(Object.keys(call.responses), `${name}: ${said.detail}`).toContain(String(answer.status));
			return { status: answer.status, body: said };
		};
	}
	it('sets up, receives, makes, ships and traces', async () => {
		const run = await program(await app.token('coordinator'));
		const ok = async (...asked: Parameters<typeof run>) => {
			const { status, body } = await run(...asked);
			expect([status < 300, body.detail], asked[0]).toEqual([true, undefined]);
			return body;
		};
		const again = async (status: number, ...asked: Parameters<typeof run>) =>
			expect((await run(...asked)).status, asked[0]).toBe(status);
		const shelf = ['putApiVPlacesSiteBin', { site: 'P9', bin: 'S1' }, { name: 'Shelf 1' }] as const;
		await again(422, ...shelf);
		await ok('putApiVPlacesSite', { site: 'P9' }, { name: 'Works' });
		await again(201, ...shelf);
		await again(200, ...shelf);
		await again(409, shelf[0], shelf[1], { name: 'Another' });
		await ok('putApiVPartnersPartner', { partner: 'WIREWORKS' }, { name: 'Wireworks', kind: 'supplier' });
		await ok('putApiVPartnersPartner', { partner: 'PORT' }, { name: 'The port', kind: 'customer' });
		const blocks = [
			{ kind: 'text', text: 'BX-' },
			{ kind: 'sequence', digits: 4, reset: 'never' }
		];
		await again(201, 'putApiVPatternsPattern', { pattern: 'BX' }, { name: 'Boxes', blocks });
		await again(422, 'putApiVPatternsPattern', { pattern: 'BY' }, { name: 'Boxes', blocks: [blocks[0]] });
		await again(201, 'putApiVFactsFact', { fact: 'HEAT' }, { name: 'Heat number', kind: 'text' });
		await again(200, 'putApiVFactsFact', { fact: 'HEAT' }, { name: 'Heat', kind: 'text' });
		await ok('postApiVItems', {}, { code: 'WIRE9', name: 'Wire', unit: 'kg', decimals: 3, tracking: 'lot' });
		await ok(
			'postApiVItems',
			{},
			{
				...{
					code: 'BOX9',
					name: 'Box',
					unit: 'each',
					tracking: 'serial',
					serialPattern: 'BX',
					warranty: 'P24M',
					runMode: 'unit'
				},
				parts: [{ item: 'WIRE9', qty: '0.2' }]
			}
		);
		const item = async () =>
			(await ok('getApiVItems', {})).items.find((i: { code: string }) => i.code === 'BOX9') as Record<string, unknown>;
		const was = await item();
		await ok('patchApiVItemsItem', { item: 'BOX9' }, { name: 'Junction box' });
		expect(await item()).toEqual({ ...was, name: 'Junction box' });
		await again(422, 'patchApiVItemsItem', { item: 'BOX9' }, { colour: 'red' });
		await again(404, 'patchApiVItemsItem', { item: 'NONE' }, { name: 'x' });

		const order = async (kind: string, given: object) =>
			(await ok('postApiVOrders', {}, { kind, site: 'P9/S1', ...given })).code as string;
		const bought = await order('purchase', { partner: 'WIREWORKS', lines: [{ item: 'WIRE9', qty: 5 }] });
		const rows = (of: string, list: object[]) => ok('putApiVOrdersOrderRows', { order: of }, { rows: list });
		expect((await ok('getApiVOrdersOrder', { order: bought })).ready).toBe(false);
		const sheet = await rows(bought, [{ line: 1, lot: 'W-1', qty: '4.5' }]);
		expect(sheet).toMatchObject({ ready: true, rows: [{ line: 1, lot: 'W-1', qty: '4.5' }] });
		// The same again is the same sheet, and what is not there is named.
		expect((await rows(bought, [{ line: 1, lot: 'W-1', qty: '5' }])).rows).toHaveLength(1);
		const wrong = await run('putApiVOrdersOrderRows', { order: bought }, { rows: [{ line: 7, lot: 'W-1', qty: '5' }] });
		expect([wrong.status, wrong.body.errors[0]]).toMatchObject([422, { at: 'rows[0]' }]);
		const book = (of: string, key: string) => run('postApiVOrdersOrderBook', { order: of }, { key });
		const booked = await book(bought, 'program-1');
		expect([booked.status, booked.body.movements]).toEqual([201, 1]);
		expect(await book(bought, 'program-1')).toEqual({ status: 200, body: booked.body });
		expect((await ok('getApiVOrdersOrder', { order: bought })).closed).not.toBeNull();

		// What a person typed is not swept away unasked.
		const typed = await order('purchase', { partner: 'WIREWORKS', lines: [{ item: 'WIRE9', qty: 1 }] });
		await app.sql`INSERT INTO draft_row (id, order_id, line_id, data, changed_by)
			SELECT gen_random_uuid(), o.id, l.id, '{"lot": "BY-HAND"}', 'admin' FROM orders o JOIN order_line l ON l.order_id = o.id WHERE o.code = ${typed}`;
		const swept = await run('putApiVOrdersOrderRows', { order: typed }, { rows: [] });
		expect([swept.status, swept.body.detail]).toEqual([409, expect.stringContaining(`entered rows in ${typed}`)]);
		expect((await ok('getApiVOrdersOrder', { order: typed })).rows).toMatchObject([{ lot: 'BY-HAND' }]);
		expect((await ok('putApiVOrdersOrderRows', { order: typed }, { rows: [], over: true })).rows).toEqual([]);

		// Announced by its supplier, entered from that, and each box to come drawn its number and given a label.
		const announced = await ok(
			'postApiVNotices',
			{},
			{ order: typed, name: 'n.csv', text: 'item,lot,qty\nWIRE9,W-2,1', enter: true }
		);
		expect(announced.entered).toBe(1);
		expect((await ok('getApiVOrdersOrder', { order: typed })).rows).toMatchObject([{ lot: 'W-2', qty: '1' }]);
		await again(422, 'postApiVNotices', {}, { order: typed, name: 'n.csv', text: 'nothing of it' });
		const drawn = await ok('postApiVNumbersDraw', {}, { item: 'BOX9', count: 3 });
		expect(drawn).toEqual({ kind: 'serial', numbers: ['BX-0001', 'BX-0002', 'BX-0003'] });
		expect((await ok('postApiVNumbersDraw', {}, { item: 'BOX9', count: 1, for: typed })).numbers).toEqual(['BX-0004']);
		await again(422, 'postApiVNumbersDraw', {}, { item: 'WIRE9', count: 1 });
		await again(404, 'postApiVNumbersDraw', {}, { item: 'BOX9', count: 1, for: 'NONE' });
		expect(await ok('postApiVLabels', {}, { place: 'P9/S1' })).toMatchObject({ size: 1 });
		await again(422, 'postApiVLabels', {}, { marks: ['999999'] });

		const made = await order('production', { lines: [{ item: 'BOX9', qty: '2' }] });
		expect((await book(made, 'program-2')).status).toBe(422);
		const { lines } = await ok('getApiVOrdersOrder', { order: made });
		const line = (role: string) => lines.find((l: { role: string }) => l.role === role).line as number;
		const parts = await run(
			'putApiVOrdersOrderRows',
			{ order: made },
			{
				rows: [{ line: line('component'), lot: 'W-1', qty: '0.2' }]
			}
		);
		expect(parts.body.errors[0].message).toContain('Say as unit the finished serial');
		await rows(made, [
			{ line: line('output'), serial: 'BX-0001', count: 2 },
			{ line: line('component'), lot: 'W-1', qty: '0.2', unit: 'BX-0001' },
			{ line: line('component'), lot: 'W-1', qty: '0.25', unit: 'BX-0002' }
		]);
		expect((await book(made, 'program-2')).status).toBe(201);

		const sold = await order('sale', { partner: 'PORT', due: '2027-03-31', lines: [{ item: 'BOX9', qty: '1' }] });
		const refused = await run('putApiVOrdersOrderRows', { order: sold }, { rows: [{ line: 1, serial: 'BX-0009' }] });
		expect(refused.body.errors[0]).toMatchObject({
			at: 'rows[0]',
			message: 'There is no serial BX-0009 of item BOX9. Check the number.'
		});
		expect((await rows(sold, [{ line: 1, serial: 'BX-0002' }])).rows).toMatchObject([
			{ serial: 'BX-0002', place: 'P9/S1' }
		]);
		expect((await book(sold, 'program-3')).status).toBe(201);
		expect((await book(sold, 'program-4')).status).toBeGreaterThanOrEqual(400);

		const trace = await ok('getApiVTrace', { direction: 'forward', item: 'WIRE9', lot: 'W-1' });
		expect(trace.where).toEqual(
			expect.arrayContaining([
				expect.objectContaining({ serial: 'BX-0001', content: '1/5', state: 'on hand' }),
				expect.objectContaining({ serial: 'BX-0002', content: '1/4', state: 'shipped' })
			])
		);
		const [{ id }] = (await ok('getApiVMarks', { item: 'BOX9', number: 'BX-0002', show: 'gone' })).marks;
		const life = await ok('getApiVMarksIdEvents', { id });
		expect(life.events.map((e: { kind: string }) => e.kind)).toEqual(['output', 'shipment']);
		expect(await findingsOf(app.sql)).toEqual([]);
	});
	it('may do no more by an order than its role may', async () => {
		const [assembly, auditor] = [await program(await app.token('assembly')), await program(await app.token('auditor'))];
		const sale = { kind: 'sale', partner: 'PORT', site: 'P9/S1', lines: [{ item: 'BOX9', qty: '1' }] };
		expect((await assembly('postApiVOrders', {}, sale)).status).toBe(403);
		const coordinator = await program(await app.token('coordinator'));
		const { code } = (await coordinator('postApiVOrders', {}, sale)).body;
		for (const run of [assembly, auditor]) {
			expect((await run('putApiVOrdersOrderRows', { order: code }, { rows: [] })).status).toBe(403);
			expect((await run('postApiVOrdersOrderBook', { order: code }, { key: 'no' })).status).toBe(403);
			expect((await run('getApiVOrdersOrder', { order: code })).status).toBe(200);
		}
		expect((await auditor('putApiVPlacesSite', { site: 'X9' }, { name: 'x' })).status).toBe(403);
	});
});

describe('whatever is sent', () => {
	// What the firm of this file knows, so that some of it gets past the form and meets the checks.
	const known = {
		...{
			item: ['X-1', 'X-2', 'GEL', 'NOPE'],
			lot: ['G-1', 'L-1'],
			serial: ['S-1', 'S-2'],
			from: ['@supplier', 'QS/A1']
		},
		...{
			to: ['QS/A1', '@customer', 'ZZ'],
			place: ['QS', 'QS/A1'],
			qty: ['1', '0.5', 'x'],
			kind: ['receipt', 'move', 'scrap']
		},
		...{ purpose: ['shipment', 'use'], unit: ['kg', 'each'], tracking: ['lot', 'serial'], key: ['k-1', 'k-2', 'k-3'] }
	};
	it.each(OPERATIONS.filter((o) => o.right).map((o) => [o.method, o.path, o] as const))(
		'%s %s answers as its contract says, to every role, what fits its form and what nearly does',
		async (method, path, operation) => {
			const tokens = await Promise.all([...roles].map((role) => app.token(role)));
			const described = openapi(OPERATIONS).paths[path][method.toLowerCase()];
			const parameters = described.parameters ?? [];
			const form = (where: 'path' | 'query') => {
				const of = parameters.filter((p) => p.in === where);
				return valuesOf(
					{
						type: 'object',
						properties: Object.fromEntries(of.map((p) => [p.name, p.schema])),
						required: of.filter((p) => p.required).map((p) => p.name)
					},
					known
				);
			};
			const maybe = (values: fc.Arbitrary<unknown>) => fc.oneof(values, nearMiss(values));
			const schema = described.requestBody?.content['application/json'].schema;
			const before = await app.sql`SELECT count(*)::int AS n FROM event`;
			await fc.assert(
				fc.asyncProperty(
					fc.constantFrom(...tokens),
					form('path'),
					maybe(form('query')),
					schema ? maybe(valuesOf(schema, known)) : fc.constant(undefined),
					async (token, named, query, body) => {
						const params = Object.entries(query && typeof query === 'object' ? query : {});
						// A wait for the next entry keeps nobody here.
						const asked = new URLSearchParams(
							params.filter(([k]) => k !== 'wait').map(([k, v]) => [k, String(v).toWellFormed()])
						);
						const at = path.replace(/\{(\w+)\}/g, (_m, name: string) =>
							encodeURIComponent(String((named as Record<string, unknown>)[name] ?? 'x').toWellFormed() || 'x')
						);
						const answer = await fetch(`${app.base}${at}?${asked}`, {
							method,
							headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
							body: body === undefined ? undefined : JSON.stringify(body)
						});
						const promised = operation.answers[answer.status];
						if (promised?.type) return void (await answer.arrayBuffer());
						const said = await answer.json();
						if (promised) {
							expect(promised.schema.safeParse(said).error).toBeUndefined();
							return;
						}
						expect(answer.status).toBeGreaterThanOrEqual(400);
						expect(answer.status).toBeLessThan(500);
						expect(answer.headers.get('content-type')).toBe('application/problem+json');
						expect(said).toMatchObject({ status: answer.status, detail: expect.stringMatching(/[.…:]$/) });
						expect(said.errors.every((e: { message: unknown }) => typeof e.message === 'string')).toBe(true);
					}
				),
				{ numRuns: 60, seed: SEED }
			);
			if (method === 'GET') expect(await app.sql`SELECT count(*)::int AS n FROM event`).toEqual(before);
		}
	);
	it('and the ledger holds', async () => expect(await findingsOf(app.sql)).toEqual([]));
});
