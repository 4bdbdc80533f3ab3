import { randomUUID } from 'node:crypto';
import { Pool } from 'undici';
import type { Sql } from '../../src/lib/server/database/connect.ts';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { savePattern } from '../../src/lib/server/numbering/patterns.ts';
import { hashPassword } from '../../src/lib/server/people/passwords.ts';
import { signIn } from '../../src/lib/server/people/sessions.ts';
import { cardsOf, drawForCards, findMade } from '../../src/lib/server/production/cards.ts';
import { putPairs } from '../../src/lib/server/production/pairs.ts';
import { bookReviewed, reviewPage } from '../../src/lib/server/production/review.ts';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { saveStation } from '../../src/lib/server/setup/stations.ts';
import { serve } from './bookings.ts';
import { median, ms, quantile, repeat, time } from './measure.ts';

const UNITS = 5000;
const STATIONS = 8;
/** Orders that are booked, each beside its bare rows. */
const ORDERS = 3;
/** Units that the stations put together before they are measured, and while; the others are there before. */
const WARM = 64;
const MEASURED = 160;
/** From one scan of a station to its next, in ms: a person takes longer. */
const PACE = 500;
const PARTS = ['P-BOARD', 'P-PROBE', 'P-DISPLAY', 'P-PUMP'];
const actor = { name: 'bench', role: 'coordinator', source: 'import' } as const;

/** The pattern of the units, the items, and eight stations that ask for a review. */
async function setUp(sql: Sql): Promise<void> {
	await savePattern(sql, 'bench', {
		...{ code: 'STATION', name: 'Units' },
		blocks: [
			{ kind: 'text', text: 'ST-' },
			{ kind: 'sequence', digits: 5, reset: 'never' }
		]
	});
	for (const code of PARTS) await createItem(sql, 'bench', { code, name: code, unit: 'each', tracking: 'serial' });
	await createItem(sql, 'bench', {
		...{
			code: 'ST',
			name: 'Unit',
			unit: 'each',
			tracking: 'serial',
			runMode: 'unit',
			serialPattern: 'STATION',
			review: true
		},
		parts: PARTS.map((item) => ({ item, qty: '1' }))
	});
}

/** An order of 5,000 units with four numbered parts each, the parts at the line. */
async function orderOf(sql: Sql, nth: number): Promise<{ code: string; units: { serial: string; parts: string[] }[] }> {
	const partOf = (part: string, n: number) => `${part}-${nth}-${String(n).padStart(5, '0')}`;
	for (const item of PARTS)
		await book(
			sql,
			actor,
			{
				...{ key: `station ${item} ${nth}`, kind: 'receipt', at: '2026-01-01T00:00:00Z', partner: 'S1' },
				movements: Array.from({ length: UNITS }, (_, n) => ({
					item,
					serial: partOf(item, n),
					qty: '1',
					from: '@supplier',
					to: 'QS/LINE'
				}))
			},
			{ create: { places: true, partners: true } }
		);
	const code = await createDocument(sql, 'bench', {
		kind: 'production',
		place: 'QS/LINE',
		lines: [{ item: 'ST', qty: String(UNITS) }]
	});
	const order = await findMade(sql, code);
	await drawForCards(sql, 'bench', order);
	const { cards } = await cardsOf(sql, order);
	return { code, units: cards.map((c, n) => ({ serial: c.serial, parts: PARTS.map((part) => partOf(part, n)) })) };
}

/**
 * Eight stations that scan into one order of 5,000 units, through HTTP; the review of all of them; and their booking beside
 * the same rows written bare, for three such orders.
 */
export async function measureStations(url: string, sql: Sql, owner: Sql): Promise<void> {
	await sql`INSERT INTO person (login, name, role, password_hash) VALUES ('bench', 'Bench', 'coordinator', ${await hashPassword('bench')}) ON CONFLICT DO NOTHING`;
	await setUp(sql);
	const orders = [];
	for (let nth = 1; nth <= ORDERS; nth++) orders.push(await orderOf(sql, nth));
	for (let s = 0; s < STATIONS; s++)
		await saveStation(sql, 'bench', { code: `ST${s}`, name: `Station ${s}`, place: 'QS/LINE', review: true }, true);
	const [{ code, units }] = orders;
	for (const order of orders) {
		const done = order === orders[0] ? order.units.slice(WARM + MEASURED) : order.units;
		for (let n = 0; n < done.length; n += 400) {
			const rows = done.slice(n, n + 400).flatMap((u) => u.parts.map((part) => ({ unit: u.serial, part })));
			await putPairs(sql, actor, order.code, { rows });
		}
	}
	await owner.unsafe('ANALYZE');
	const took: number[] = [];
	const app = await serve(url);
	try {
		const cookie = `session=${await signIn(sql, 'bench', 'bench', '127.0.0.1')}`;
		const base = `http://127.0.0.1:${app.port}`;
		const pool = new Pool(base, { connections: STATIONS });
		const headers = { cookie, origin: base, 'content-type': 'application/json', accept: 'application/json' };
		const scan = async (station: number, text: string, before: object | null) => {
			const started = performance.now();
			const { statusCode, body } = await pool.request({
				...{ path: `/station/ST${station}/scan`, method: 'POST', headers },
				body: JSON.stringify({ scan: { id: randomUUID(), text, before, bin: null } })
			});
			const said = await body.text();
			if (statusCode !== 200 || !JSON.parse(said).taken) throw new Error(`${statusCode} ${said.slice(0, 300)}`);
			return performance.now() - started;
		};
		const waits = (n: number) => new Promise((done) => setTimeout(done, n));
		const work = (from: number, to: number, seen: (took: number) => void) =>
			Promise.all(
				Array.from({ length: STATIONS }, async (_, s) => {
					await waits((s * PACE) / STATIONS);
					for (const { serial, parts } of units.slice(from, to).filter((_u, n) => n % STATIONS === s))
						for (const text of [serial, ...parts]) {
							const next = performance.now() + PACE;
							seen(await scan(s, text, text === serial ? null : { order: code, serial }));
							await waits(Math.max(0, next - performance.now()));
						}
				})
			);
		// Warm, as an application is that has run for a while: the code is compiled, every connection has its plans.
		await work(0, WARM, () => {});
		await work(WARM, WARM + MEASURED, (n) => took.push(n));
		await pool.close();
	} finally {
		await app.stop();
	}
	const [{ id: order }] = await sql<{ id: string }[]>`SELECT id FROM orders WHERE code = ${code}`;
	const insert = await repeat(30, () =>
		owner.begin(async (tx) => {
			await tx`CREATE TEMP TABLE IF NOT EXISTS bare_draft (LIKE draft_row INCLUDING ALL)`;
			await tx`INSERT INTO bare_draft (id, order_id, line_id, data, changed_by) SELECT gen_random_uuid(), ${order}, min(id), '{"mark": "1", "unit": "x", "qty": "1"}', 'x' FROM order_line WHERE order_id = ${order}`;
		})
	);
	console.log(
		`a scan of ${STATIONS} stations at one order of ${UNITS.toLocaleString('en')} units with 4 parts each, each scanning every ${PACE} ms, through HTTP: median ${ms(median(took))}, 95 of 100 within ${ms(quantile(took, 0.95))} (wanted: at most 100 ms); one row written bare: ${ms(insert)}`
	);
	console.log(
		`the review, a page of 50 of ${UNITS.toLocaleString('en')} units: ${ms(await repeat(5, () => reviewPage(sql, { order: code })))}`
	);
	const [booked, bare]: number[][] = [[], []];
	for (const { code } of orders) {
		await keepRows(owner);
		let event = '';
		booked.push(
			await time(async () => {
				const [done] = await bookReviewed(sql, actor, { key: `bench review ${code}`, units: [{ order: code }] });
				if (done.units !== UNITS)
					throw new Error(`${done.units} units were booked: ${JSON.stringify(done.faults).slice(0, 300)}`);
				event = done.event!;
			})
		);
		bare.push(await writeBare(owner, code, event));
	}
	console.log(
		`booking all of them, ${UNITS.toLocaleString('en')} units in one event, ${ORDERS} orders in turn: ${booked.map(ms).join(', ')}; the same rows bare: ${bare.map(ms).join(', ')}; ratio ${(median(booked) / median(bare)).toFixed(1)} (wanted: at most 3.5)`
	);
}

/** What waits of the units, as it is before they are booked. */
async function keepRows(owner: Sql): Promise<void> {
	for (const t of ['draft_row', 'unit_work'])
		await owner.unsafe(
			`DROP TABLE IF EXISTS naked_${t}; CREATE TABLE naked_${t} (LIKE ${t} INCLUDING DEFAULTS INCLUDING INDEXES INCLUDING STORAGE);
			INSERT INTO naked_${t} SELECT * FROM ${t}; ANALYZE naked_${t}`
		);
}

/**
 * The rows of one booking, written into tables with the same indexes and the same rows beside them.
 * @param code of the order whose rows go from the sheet
 * @returns ms
 */
async function writeBare(owner: Sql, code: string, event: string): Promise<number> {
	for (const t of ['event', 'mark', 'movement', 'balance', 'run']) {
		await owner.unsafe(
			`DROP TABLE IF EXISTS naked_${t}; CREATE TABLE naked_${t} (LIKE ${t} INCLUDING DEFAULTS INCLUDING INDEXES INCLUDING STORAGE)`
		);
		if (t !== 'event')
			await owner.unsafe(
				`INSERT INTO naked_${t} SELECT * FROM ${t} WHERE ${t === 'balance' ? `mark_id NOT IN (SELECT mark_id FROM movement WHERE event_id = ${event})` : `event_id <> ${event}`}`
			);
	}
	// Bare, a part's balance is changed where it lay, as booking has to.
	await owner.unsafe(
		`INSERT INTO naked_balance SELECT b.mark_id, b.place_id, m.qty, b.serial, b.virtual FROM balance b JOIN movement m ON m.event_id = ${event} AND m.mark_id = b.mark_id AND m.from_place = b.place_id AND m.role = 'use'; ANALYZE naked_balance`
	);
	return time(() =>
		owner.begin(async (tx) => {
			for (const t of ['unit_work', 'draft_row'])
				await tx`DELETE FROM ${tx(`naked_${t}`)} WHERE order_id = (SELECT id FROM orders WHERE code = ${code})`;
			await tx`INSERT INTO naked_mark SELECT * FROM mark WHERE event_id = ${event}`;
			await tx`INSERT INTO naked_run SELECT * FROM run WHERE event_id = ${event}`;
			await tx`INSERT INTO naked_movement SELECT * FROM movement WHERE event_id = ${event}`;
			await tx`UPDATE naked_balance n SET qty = b.qty FROM movement m JOIN balance b ON b.mark_id = m.mark_id AND b.place_id = m.from_place
				WHERE m.event_id = ${event} AND m.role = 'use' AND n.mark_id = b.mark_id AND n.place_id = b.place_id`;
			await tx`INSERT INTO naked_balance SELECT * FROM balance b WHERE mark_id IN (SELECT mark_id FROM movement WHERE event_id = ${event})
				AND NOT EXISTS (SELECT 1 FROM naked_balance n WHERE n.mark_id = b.mark_id AND n.place_id = b.place_id)`;
			await tx`INSERT INTO naked_event SELECT * FROM event WHERE id = ${event}`;
		})
	);
}
