import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { addDuration } from '../../core/dates/dates.ts';
import { Problem } from '../../core/problem/problem.ts';
import { correct } from '../ledger/corrections.ts';
import { setStatus } from '../ledger/changes.ts';
import { listPage } from '../list/read.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { readView } from '../../core/list/list.ts';
import { createDocument } from '../document/create.ts';
import { stockNotes } from '../today/today.ts';
import { makePromise } from '../document/promises.ts';
import { stockList, totalList } from './list.ts';

const db = testDatabase();
const list = async (query: string) =>
	(
		await listPage(db.sql, stockList, readView(stockList, new URLSearchParams(`size=200&${query}`)), {
			...{ today: '2026-06-01', login: 'ines' }
		})
	).rows;
const shown = async (query: string) =>
	(await list(query)).map((r) => `${r.number ?? r.itemCode} ${r.place} ${r.qty}`).sort();
const places = ['QS/A1', 'QS/A2', 'ND/B1'];
const day = (n: number, hour: number) => new Date(Date.UTC(2026, 2, 1 + n, hour)).toISOString();

beforeAll(async () => {
	for (const code of ['QS', 'ND', ...places]) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', unit: 'each', tracking: 'none' });
	await db.sql`UPDATE firm SET zone = 'UTC'`;
	// A fixed sequence, so that a failure can be looked at again.
	let seed = 11;
	const random = (n: number) => (seed = (seed * 48271) % 2147483647) % n;
	const booked: { key: string; n: number }[] = [];
	for (let n = 0; n < 160; n++) {
		const key = `e${n}`;
		const [from, to] = [places[random(3)], places[random(3)]];
		const moved = [
			{ item: 'GEL', lot: `G-${random(4)}`, qty: String(1 + random(9)) },
			{ item: 'CELL', serial: `C-${random(8)}`, qty: '1' },
			{ item: 'CAP', qty: String(1 + random(20)) }
		][random(3)];
		const ends = [
			{ kind: 'receipt', from: '@supplier', to },
			{ kind: 'move', from, to },
			{ kind: 'shipment', partner: 'C1', from, to: '@customer' },
			{ kind: 'adjust', reason: 'x', from, to: '@adjust' }
		][random(5) % 4];
		const { kind, partner, reason, ...way } = { partner: null, reason: null, ...ends };
		try {
			// Some of it is entered later than it happened.
			const at = day(Math.max(0, Math.floor(n / 4) - random(4)), random(24));
			if (n % 9 === 8 && booked.length) {
				const [undone] = booked.splice(random(booked.length), 1);
				await bookTest(db.sql, { key, kind: 'undo', undoes: undone.key, at: day(40, n % 24), reason: 'wrong' });
			} else {
				await bookTest(db.sql, { key, kind, partner, reason, at, movements: [{ ...moved, ...way }] });
				booked.push({ key, n });
			}
		} catch (e) {
			if (!(e instanceof Problem)) throw e;
		}
	}
});

describe('stock as of a moment', () => {
	it('is what a replay of the ledger’s entries up to then comes to, for any moment', async () => {
		const entries = await db.sql<{ at: Date; number: string; from: string; to: string; qty: string }[]>`
			SELECT m.at, coalesce(k.number, i.code) AS number, f.code AS from, t.code AS to, m.qty::text FROM movement m JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
			JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place`;
		expect(entries.length).toBeGreaterThan(30);
		await fc.assert(
			fc.asyncProperty(
				fc.integer({ min: -1, max: 45 }),
				fc.integer({ min: 0, max: 24 * 60 - 1 }),
				fc.boolean(),
				async (d, minute, whole) => {
					const moment = new Date(Date.UTC(2026, 2, 1 + d, 0, minute));
					const text = moment.toISOString().slice(0, 16).replace('T', ' ');
					const until = whole ? Date.UTC(2026, 2, 2 + d) - 1 : moment.getTime();
					const there = new Map<string, number>();
					for (const e of entries) {
						if (e.at.getTime() > until) continue;
						for (const [place, sign] of [
							[e.from, -1],
							[e.to, 1]
						] as const)
							if (!place.startsWith('@'))
								there.set(`${e.number} ${place}`, (there.get(`${e.number} ${place}`) ?? 0) + sign * Number(e.qty));
					}
					const expected = [...there].filter(([, qty]) => qty > 0).map(([at, qty]) => `${at} ${qty}`);
					expect(await shown(`asOf=${encodeURIComponent(whole ? text.slice(0, 10) : text)}`)).toEqual(expected.sort());
				}
			),
			{ numRuns: 60 }
		);
	});

	it('has the status and the date that were recorded then', async () => {
		await bookTest(db.sql, {
			...{ kind: 'receipt', at: '2026-05-01T08:00:00Z' },
			movements: [{ item: 'GEL', lot: 'H-1', qty: '5', from: '@supplier', to: 'QS/A1', expiresOn: '2027-01-31' }]
		});
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'H-1'`;
		await setStatus(db.sql, ines, { key: 'h1', act: 'hold', mark: id, reason: 'Cloudy', at: '2026-05-03T08:00:00Z' });
		await correct(db.sql, ines, {
			...{
				key: randomUUID(),
				mark: id,
				field: 'expiresOn',
				value: '2027-06-30',
				reason: 'Misread',
				at: '2026-05-05T08:00:00Z'
			}
		});
		const then = async (at: string) => {
			const row = (await list(`find=H-1${at && `&asOf=${at}`}`)).at(0);
			return row && [row.status, row.expires];
		};
		expect(await then('2026-04-30')).toBeUndefined();
		expect(await then('2026-05-02')).toEqual(['released', '2027-01-31']);
		expect(await then('2026-05-03 07:59')).toEqual(['released', '2027-01-31']);
		expect(await then('2026-05-04')).toEqual(['held', '2027-01-31']);
		expect(await then('2026-05-06')).toEqual(['held', '2027-06-30']);
		expect(await then('')).toEqual(['held', '2027-06-30']);
		// What is no moment asks nothing.
		expect(readView(stockList, new URLSearchParams("asOf=2026-02-31&x=')--")).filters).toEqual({});
	});

	it('says what is free now, and finds by promise, by how long nothing moved, and by what is left', async () => {
		await bookTest(db.sql, {
			...{ kind: 'receipt', at: '2026-05-01T08:00:00Z' },
			movements: [
				{ item: 'GEL', lot: 'P-1', qty: '100', from: '@supplier', to: 'QS/A1' },
				{ item: 'GEL', lot: 'P-1', qty: '20', from: '@supplier', to: 'QS/A2' }
			]
		});
		await bookTest(db.sql, {
			...{ kind: 'shipment', partner: 'C1', at: new Date(Date.now() - 60_000).toISOString() },
			movements: [{ item: 'GEL', lot: 'P-1', qty: '95', from: 'QS/A1', to: '@customer' }]
		});
		const order = await createDocument(db.sql, 'ines', {
			kind: 'sale',
			partner: 'C1',
			place: 'QS',
			lines: [{ item: 'GEL', qty: '9' }]
		});
		await makePromise(db.sql, ines, { key: 'p1', order, line: 1, item: 'GEL', lot: 'P-1', qty: '9' });
		const rows = await list('find=P-1&sort=place');
		expect(rows.map((r) => [r.place, r.qty, r.free, r.held])).toEqual([
			['QS/A1', '5', '0', `promised to ${order}`],
			['QS/A2', '20', '16', `promised to ${order}`]
		]);
		expect((await list(`promised=${order.toLowerCase()}`)).map((r) => r.place).sort()).toEqual(['QS/A1', 'QS/A2']);
		expect((await list('find=P-1&still.from=30')).map((r) => r.place)).toEqual(['QS/A2']);
		expect((await list('find=P-1&left.to=25')).map((r) => r.place).sort()).toEqual(['QS/A1', 'QS/A2']);
		expect(await list('find=P-1&left.to=20')).toEqual([]);
	});

	it('adds up by item to what its rows are, everywhere, at one place, and at any moment', async () => {
		const order = await createDocument(db.sql, 'ines', {
			...{ kind: 'sale', partner: 'C1', place: 'QS', lines: [{ item: 'GEL', qty: '3' }] }
		});
		const [{ number }] = await db.sql<{ number: string }[]>`
			SELECT m.number FROM balance b JOIN mark m ON m.id = b.mark_id JOIN item i ON i.id = m.item_id WHERE i.code = 'GEL' AND b.qty >= 3 AND NOT b.virtual AND m.status = 'released' ORDER BY m.id LIMIT 1`;
		await makePromise(db.sql, ines, { key: 'p2', order, line: 1, item: 'GEL', lot: number, qty: '3' });
		const totalsOf = async (query: string) =>
			(
				await listPage(db.sql, totalList, readView(totalList, new URLSearchParams(query)), {
					...{ today: '2026-06-01', login: 'ines' }
				})
			).rows;
		/** The same from the rows of stock, added up here. */
		const added = async (query: string) => {
			const items = new Map<string, Record<string, unknown> & { marks: Set<string>; bins: Set<string> }>();
			for (const r of await list(query)) {
				const of = items.get(r.itemCode!) ?? {
					...{ qty: 0, free: 0, stopped: 0, expires: null, marks: new Set<string>(), bins: new Set<string>() }
				};
				items.set(r.itemCode!, of);
				of.qty = Number(of.qty) + Number(r.qty);
				of.free = r.free === null ? null : Number(of.free) + Number(r.free);
				if (r.status !== 'released') of.stopped = Number(of.stopped) + Number(r.qty);
				if (r.expires && (!of.expires || r.expires < String(of.expires))) of.expires = r.expires;
				if (r.number) of.marks.add(r.mark!);
				of.bins.add(r.place!);
			}
			return [...items].map(([item, { marks, bins, ...of }]) => ({
				item,
				...of,
				numbers: marks.size,
				places: bins.size
			}));
		};
		const by = (a: { item: string }, b: { item: string }) => (a.item < b.item ? -1 : 1);
		const same = async (query: string) => {
			const got = (await totalsOf(query)).map((r) => ({
				item: r.itemCode!,
				qty: Number(r.qty),
				free: r.free === null ? null : Number(r.free),
				stopped: Number(r.stopped),
				expires: r.expires,
				numbers: Number(r.numbers),
				places: Number(r.places)
			}));
			expect(got.sort(by), query).toEqual((await added(query)).sort(by));
			return got;
		};
		const all = await same('');
		const gel = all.find((r) => r.item === 'GEL')!;
		expect([gel.stopped, gel.qty - gel.free!]).toEqual([5, 12]);
		for (const place of ['QS', ...places]) await same(`place=${place}`);
		expect(await same('place=ZZ')).toEqual([]);
		await same('item=GEL');
		await fc.assert(
			fc.asyncProperty(fc.integer({ min: -1, max: 65 }), fc.constantFrom('', ...places), async (d, place) => {
				const asOf = new Date(Date.UTC(2026, 2, 1 + d)).toISOString().slice(0, 10);
				await same(`asOf=${asOf}${place && `&place=${place}`}`);
			}),
			{ numRuns: 25 }
		);
		// Sorted by what is summed.
		const sorted = (await totalsOf('sort=-qty')).map((r) => Number(r.qty));
		expect(sorted).toEqual([...sorted].sort((a, b) => b - a));
	});

	it('is noticed so many days before its expiry as its item says, thirty otherwise', async () => {
		const soon = (days: number) => addDuration('2026-06-01', `P${days}D`);
		await createItem(db.sql, 'ines', {
			code: 'SLOW',
			name: 'Slow',
			unit: 'kg',
			decimals: 3,
			tracking: 'lot',
			earlyNotice: 90
		});
		const comes = (item: string, number: string, days: number) => ({
			...{ item, lot: number, qty: '1', from: '@supplier', to: 'QS/A1', expiresOn: soon(days) }
		});
		await bookTest(db.sql, {
			...{ kind: 'receipt', at: '2026-05-20T08:00:00Z' },
			movements: [
				comes('GEL', 'N-30', 30),
				comes('GEL', 'N-31', 31),
				comes('SLOW', 'N-90', 90),
				comes('SLOW', 'N-91', 91)
			]
		});
		const { expiring } = await stockNotes(db.sql, '2026-06-01');
		// Where there are many, what is on hand is gathered: the same comes of it.
		expect(await stockNotes(db.sql, '2026-06-01', 0)).toEqual(await stockNotes(db.sql, '2026-06-01'));
		expect(expiring.map((e) => e.number)).toEqual(['N-30', 'N-90']);
	});
});
