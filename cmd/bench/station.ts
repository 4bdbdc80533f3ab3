import { randomUUID } from 'node:crypto';
import { Pool } from 'undici';
import type { Sql } from '../../src/lib/server/database/connect.ts';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { savePattern } from '../../src/lib/server/numbering/patterns.ts';
import { hashPassword, signIn } from '../../src/lib/server/people/sessions.ts';
import { cardsOf, drawForCards, findMade } from '../../src/lib/server/production/cards.ts';
import { putPairs } from '../../src/lib/server/production/pairs.ts';
import { bookReviewed, reviewPage } from '../../src/lib/server/production/review.ts';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { saveStation } from '../../src/lib/server/setup/stations.ts';
import { serve } from './bookings.ts';
import { median, ms, quantile, repeat, time } from './measure.ts';

const UNITS = 5000;
const STATIONS = 8;
/** Units that the stations put together while they are measured; the others are there before. */
const MEASURED = 160;
/** From one scan of a station to its next, in ms: a person takes longer. */
const PACE = 500;
const PARTS = ['P-BOARD', 'P-PROBE', 'P-DISPLAY', 'P-PUMP'];
const actor = { name: 'bench', role: 'coordinator', source: 'import' } as const;
const partOf = (part: string, n: number) => `${part}-${String(n).padStart(5, '0')}`;

/** An order of 5,000 units with four numbered parts each, the parts at the line, most units put together already. */
export async function prepare(sql: Sql): Promise<{ code: string; serials: string[] }> {
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
	for (const item of PARTS)
		await book(
			sql,
			actor,
			{
				...{ key: `station ${item}`, kind: 'receipt', at: '2026-01-01T00:00:00Z', partner: 'S1' },
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
	const serials = (await cardsOf(sql, order)).cards.map((c) => c.serial);
	for (let s = 0; s < STATIONS; s++)
		await saveStation(sql, 'bench', { code: `ST${s}`, name: `Station ${s}`, place: 'QS/LINE', review: true }, true);
	for (let n = 0; n < UNITS - MEASURED; n += 400) {
		const rows = serials
			.slice(n, Math.min(n + 400, UNITS - MEASURED))
			.flatMap((unit, i) => PARTS.map((part) => ({ unit, part: partOf(part, n + i) })));
		await putPairs(sql, actor, code, { rows });
	}
	return { code, serials };
}

/**
 * Eight stations that scan into one order of 5,000 units, through HTTP; the review of all of them; and their booking beside
 * the same rows written bare.
 */
export async function measureStations(url: string, sql: Sql, owner: Sql): Promise<void> {
	await sql`INSERT INTO person (login, name, role, password_hash) VALUES ('bench', 'Bench', 'coordinator', ${await hashPassword('bench')}) ON CONFLICT DO NOTHING`;
	const { code, serials } = await prepare(sql);
	await owner.unsafe('ANALYZE');
	const app = await serve(url);
	const took: number[] = [];
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
			took.push(performance.now() - started);
			if (statusCode !== 200 || !JSON.parse(said).taken) throw new Error(`${statusCode} ${said.slice(0, 300)}`);
		};
		const waits = (n: number) => new Promise((done) => setTimeout(done, n));
		// Warm, as an application is that has run for a while.
		await scan(0, serials[0], null);
		await Promise.all(
			Array.from({ length: STATIONS }, async (_, s) => {
				await waits((s * PACE) / STATIONS);
				for (let n = UNITS - MEASURED + s; n < UNITS; n += STATIONS) {
					const before = { order: code, serial: serials[n] };
					for (const text of [serials[n], ...PARTS.map((p) => partOf(p, n))]) {
						const next = performance.now() + PACE;
						await scan(s, text, text === serials[n] ? null : before);
						await waits(Math.max(0, next - performance.now()));
					}
				}
			})
		);
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

	// What waits of the units goes as they are booked: so it does in the bare rows.
	for (const t of ['draft_row', 'unit_work']) await owner.unsafe(`CREATE TABLE kept_${t} AS SELECT * FROM ${t}`);
	let event = '';
	const booked = await time(async () => {
		const [done] = await bookReviewed(sql, actor, { key: 'bench review', units: [{ order: code }] });
		if (done.units !== UNITS)
			throw new Error(`${done.units} units were booked: ${JSON.stringify(done.faults).slice(0, 300)}`);
		event = done.event!;
	});
	// Bare, a part's balance is changed where it lay, as booking has to.
	const lay = `SELECT b.mark_id, b.place_id, m.qty, b.serial, b.virtual FROM balance b JOIN movement m ON m.event_id = ${event} AND m.mark_id = b.mark_id AND m.from_place = b.place_id AND m.role = 'use'`;
	const bare: number[] = [];
	for (let round = 0; round < 3; round++) {
		for (const t of ['draft_row', 'unit_work'])
			await owner.unsafe(
				`DROP TABLE IF EXISTS naked_${t}; CREATE TABLE naked_${t} (LIKE ${t} INCLUDING DEFAULTS INCLUDING INDEXES INCLUDING STORAGE); INSERT INTO naked_${t} SELECT * FROM kept_${t}`
			);
		for (const t of ['event', 'mark', 'movement', 'balance', 'run']) {
			await owner.unsafe(
				`DROP TABLE IF EXISTS naked_${t}; CREATE TABLE naked_${t} (LIKE ${t} INCLUDING DEFAULTS INCLUDING INDEXES INCLUDING STORAGE)`
			);
			if (t !== 'event')
				await owner.unsafe(
					`INSERT INTO naked_${t} SELECT * FROM ${t} WHERE ${t === 'balance' ? `mark_id NOT IN (SELECT mark_id FROM movement WHERE event_id = ${event})` : `event_id <> ${event}`}`
				);
		}
		await owner.unsafe(`INSERT INTO naked_balance ${lay}; ANALYZE naked_balance`);
		bare.push(
			await time(() =>
				owner.begin(async (tx) => {
					await tx`DELETE FROM naked_unit_work`;
					await tx`DELETE FROM naked_draft_row`;
					await tx`INSERT INTO naked_mark SELECT * FROM mark WHERE event_id = ${event}`;
					await tx`INSERT INTO naked_run SELECT * FROM run WHERE event_id = ${event}`;
					await tx`INSERT INTO naked_movement SELECT * FROM movement WHERE event_id = ${event}`;
					await tx`UPDATE naked_balance n SET qty = b.qty FROM movement m JOIN balance b ON b.mark_id = m.mark_id AND b.place_id = m.from_place
						WHERE m.event_id = ${event} AND m.role = 'use' AND n.mark_id = b.mark_id AND n.place_id = b.place_id`;
					await tx`INSERT INTO naked_balance SELECT * FROM balance b WHERE mark_id IN (SELECT mark_id FROM movement WHERE event_id = ${event})
						AND NOT EXISTS (SELECT 1 FROM naked_balance n WHERE n.mark_id = b.mark_id AND n.place_id = b.place_id)`;
					await tx`INSERT INTO naked_event SELECT * FROM event WHERE id = ${event}`;
				})
			)
		);
	}
	console.log(
		`booking all of them, ${UNITS.toLocaleString('en')} units in one event: ${ms(booked)}; the same rows bare: ${ms(median(bare))}; ratio ${(booked / median(bare)).toFixed(1)} (wanted: at most 3.5)`
	);
}
