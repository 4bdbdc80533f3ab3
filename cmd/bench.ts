import { mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { startCluster } from '../src/lib/server/database/cluster.ts';
import { connect, type Sql } from '../src/lib/server/database/connect.ts';
import { migrate } from '../src/lib/server/database/migrate.ts';
import { book } from '../src/lib/server/ledger/book.ts';
import type { Actor, EventInput } from '../src/lib/core/ledger/input.ts';
import { find } from '../src/lib/server/register/find.ts';
import { listPage } from '../src/lib/server/list/read.ts';
import { registerList } from '../src/lib/server/register/list.ts';
import { readView } from '../src/lib/core/list/list.ts';
import { findPairings } from '../src/lib/server/pairing/find.ts';
import { pairingList } from '../src/lib/server/pairing/list.ts';
import { createItem } from '../src/lib/server/setup/items.ts';
import { forwardParts } from '../src/lib/server/trace/answer.ts';
import { traceView } from '../src/lib/server/trace/view.ts';
import { measureBookings } from './bench/bookings.ts';
import { runHard } from './bench/hard.ts';
import { measureStations } from './bench/station.ts';
import { measureLedger } from './bench/ledger.ts';
import { measureStock } from './bench/stock.ts';
import { measureLarge } from './bench/large.ts';
import { inTurn, median, ms, repeat, time } from './bench/measure.ts';
import { main } from './settings.ts';

type Movement = NonNullable<EventInput['movements']>[number];
const actor: Actor = { name: 'bench', role: 'coordinator', source: 'import' };
const create = { places: true, partners: true };
let clock = Date.UTC(2026, 0, 1);
let keys = 0;
const event = (kind: string, movements: Movement[], more: Partial<EventInput> = {}): EventInput => ({
	key: `bench-${keys++}`,
	kind,
	at: new Date((clock += 60_000)).toISOString(),
	partner: kind === 'shipment' ? 'C1' : 'S1',
	movements,
	...more
});
const today = new Date().toISOString().slice(0, 10);

/** 100,000 marks and 400,000 movements, booked through book(), among them one lot that goes into about 1,000 marks. */
async function generate(sql: Sql) {
	const items = [
		['RAW', 'lot'],
		['BULK', 'lot'],
		['PACK', 'lot'],
		['BOARD', 'serial'],
		['PROBE', 'serial'],
		['METER', 'serial']
	] as const;
	for (const [code, tracking] of items)
		await createItem(sql, 'bench', {
			code,
			name: `Bench ${code.toLowerCase()}`,
			unit: tracking === 'serial' ? 'each' : 'kg',
			decimals: tracking === 'serial' ? 0 : 3,
			tracking,
			...(code === 'METER' ? { runMode: 'unit' as const } : {})
		});
	// The root: 20 bulks, 48 packs of each, and half of the packs at customers.
	await book(
		sql,
		actor,
		event('receipt', [{ item: 'RAW', lot: 'ROOT', qty: '2000', from: '@supplier', to: 'QS/A1' }]),
		{ create }
	);
	for (let b = 0; b < 20; b++) {
		await book(
			sql,
			actor,
			event(
				'output',
				[
					{ item: 'RAW', lot: 'ROOT', qty: '96', from: 'QS/A1', to: '@process', run: `B${b}`, role: 'use' },
					{ item: 'BULK', lot: `B${b}`, qty: '96', from: '@process', to: 'QS/T1', run: `B${b}`, role: 'make' }
				],
				{ runs: [{ code: `B${b}` }] }
			),
			{ create }
		);
		const packs = Array.from({ length: 48 }, (_, p) => `B${b}-P${p}`);
		await book(
			sql,
			actor,
			event(
				'output',
				[
					{ item: 'BULK', lot: `B${b}`, qty: '96', from: 'QS/T1', to: '@process', run: `P${b}`, role: 'use' },
					...packs.map((lot): Movement => ({
						item: 'PACK',
						lot,
						qty: '2',
						from: '@process',
						to: 'QS/A2',
						run: `P${b}`,
						role: 'make'
					}))
				],
				{ runs: [{ code: `P${b}` }] }
			),
			{ create }
		);
		await book(
			sql,
			actor,
			event(
				'shipment',
				packs.filter((_, i) => i % 2).map((lot) => ({ item: 'PACK', lot, qty: '1.5', from: 'QS/A2', to: '@customer' }))
			),
			{ create }
		);
	}
	// The mass: units built one by one from a board and a probe each, moved, and every second batch shipped.
	const batch = 3_000;
	for (let n = 0; n < 33_000; n += batch) {
		const numbers = Array.from({ length: batch }, (_, i) => String(n + i).padStart(6, '0'));
		const way = (head: string, from: string, to: string) =>
			numbers.map((no): Movement => ({ item: head, serial: `${head}-${no}`, qty: 1, from, to }));
		const step = (kind: string, movements: Movement[], more = {}) =>
			book(sql, actor, event(kind, movements, more), { create });
		for (const part of ['BOARD', 'PROBE']) {
			await step('receipt', way(part, '@supplier', 'QS/DOCK'));
			await step('move', way(part, 'QS/DOCK', 'QS/A1'));
			await step('move', way(part, 'QS/A1', 'QS/LINE'));
		}
		const built = (m: Movement, i: number, role: 'use' | 'make'): Movement => ({ ...m, run: `U${numbers[i]}`, role });
		await step(
			'output',
			[
				...['BOARD', 'PROBE'].flatMap((p) => way(p, 'QS/LINE', '@process').map((m, i) => built(m, i, 'use'))),
				...way('METER', '@process', 'QS/LINE').map((m, i) => built(m, i, 'make'))
			],
			{ runs: numbers.map((no) => ({ code: `U${no}`, unit: { item: 'METER', serial: `METER-${no}` } })) }
		);
		await step('move', way('METER', 'QS/LINE', 'QS/A2'));
		await step('move', way('METER', 'QS/A2', 'QS/A3'));
		await step((n / batch) % 2 ? 'shipment' : 'move', way('METER', 'QS/A3', (n / batch) % 2 ? '@customer' : 'QS/A4'));
		process.stdout.write('.');
	}
}

/** One event of 10,000 new serials, and the same rows put bare into copies of the tables without keys to others, checks or triggers. */
async function booking(sql: Sql, owner: Sql): Promise<[number, number]> {
	for (const t of ['event', 'mark', 'movement', 'balance'])
		await owner.unsafe(
			`CREATE TABLE bare_${t} (LIKE ${t} INCLUDING DEFAULTS INCLUDING GENERATED INCLUDING INDEXES INCLUDING STORAGE); INSERT INTO bare_${t} OVERRIDING SYSTEM VALUE SELECT ${t === 'mark' ? 'id, item_id, kind, lot_no, serial_no, DEFAULT' : '*'} FROM ${t}`.replace(
				/INSERT INTO bare_mark.*/,
				'INSERT INTO bare_mark (id, item_id, kind, lot_no, serial_no, parent_id, supplier_lot, made_on, expires_on, facts, status, event_id) SELECT id, item_id, kind, lot_no, serial_no, parent_id, supplier_lot, made_on, expires_on, facts, status, event_id FROM mark'
			)
		);
	await owner.unsafe('ANALYZE');
	const [booked, bare]: number[][] = [[], []];
	for (let round = 0; round < 7; round++) {
		const serials = Array.from({ length: 10_000 }, (_, i) => `R${round}-${String(i).padStart(5, '0')}`);
		const input = event(
			'receipt',
			serials.map((serial) => ({ item: 'BOARD', serial, qty: 1, from: '@supplier', to: 'QS/DOCK' }))
		);
		let id = '';
		booked.push(await time(async () => (id = (await book(sql, actor, input)).id)));
		const marks = await owner<{ id: string; item: string; serial: string; movement: string }[]>`
			SELECT k.id, k.item_id AS item, k.serial_no AS serial, m.id AS movement FROM mark k JOIN movement m ON m.mark_id = k.id WHERE k.event_id = ${id} ORDER BY k.id`;
		const [places] = await owner<{ from: string; to: string }[]>`
			SELECT (SELECT id FROM place WHERE code = '@supplier') AS from, (SELECT id FROM place WHERE code = 'QS/DOCK') AS to`;
		bare.push(
			await time(() =>
				owner.begin(async (tx) => {
					const ids = marks.map((m) => m.id);
					await tx`INSERT INTO bare_mark (id, item_id, kind, serial_no, event_id)
						SELECT i, item, 'serial', n, ${id}::bigint FROM unnest(${ids}::bigint[], ${marks.map((m) => m.item)}::bigint[], ${marks.map((m) => m.serial)}::text[]) x(i, item, n)`;
					await tx`INSERT INTO bare_movement (id, event_id, at, mark_id, qty, from_place, to_place)
						SELECT i, ${id}::bigint, ${input.at}::timestamptz, mark, q, f, t FROM unnest(${marks.map((m) => m.movement)}::bigint[], ${ids}::bigint[], ${marks.map(() => '1')}::numeric[],
							${marks.map(() => places.from)}::bigint[], ${marks.map(() => places.to)}::bigint[]) x(i, mark, q, f, t)`;
					await tx`INSERT INTO bare_balance (mark_id, place_id, qty, serial, virtual) SELECT i, p, q, true, v FROM unnest(${ids}::bigint[]) i,
						(VALUES (${places.from}::bigint, -1, true), (${places.to}::bigint, 1, false)) x(p, q, v)`;
					await tx`INSERT INTO bare_event SELECT * FROM event WHERE id = ${id}`;
				})
			)
		);
	}
	return [median(booked), median(bare)];
}

await main(async () => {
	if (process.argv.includes('--hard')) {
		process.exitCode = runHard() ? 0 : 1;
		return;
	}
	const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
	const cluster = await startCluster(folder);
	const sql = connect(cluster.url, 'app', 4);
	const reader = connect(cluster.url, 'reader', 4);
	const owner = connect(cluster.url, 'owner', 1);
	try {
		await migrate(cluster.url);
		if (process.argv.includes('--large')) return await measureLarge(cluster.url, sql, owner);
		if (process.argv.includes('--stock')) return await measureStock(sql, owner);
		if (process.argv.includes('--station')) return await measureStations(cluster.url, sql, owner);
		const made = await time(() => generate(sql));
		await owner.unsafe('VACUUM ANALYZE');
		const [n] = await sql<
			{ marks: number; movements: number }[]
		>`SELECT (SELECT count(*)::int FROM mark) AS marks, (SELECT count(*)::int FROM movement) AS movements`;
		console.log(
			` ${n.marks.toLocaleString('en')} marks, ${n.movements.toLocaleString('en')} movements, booked in ${Math.round(made / 1000)} s`
		);

		const root = { item: 'RAW', lot: 'ROOT' };
		/** All that is answered, read to its end. */
		const traced = async (db: Sql) => {
			const { marks, where } = (await forwardParts(db, root, {}))!;
			return { marks: [...marks], where: [...where] };
		};
		const answer = await traced(sql);
		const [{ id }] = await sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${root.lot}`;
		// What is compared runs in turn: this machine works at two speeds and changes between them every few seconds.
		const [trace, screen, closure] = await inTurn(75, [
			() => traced(reader),
			() => traceView(reader, id, 'forward'),
			() => reader`
			WITH RECURSIVE reach(id) AS (SELECT ${id}::bigint UNION
				SELECT m.mark_id FROM reach JOIN movement u ON u.mark_id = reach.id AND u.role = 'use' JOIN movement m ON m.run_id = u.run_id AND m.role = 'make')
			SELECT id FROM reach`
		]);
		console.log(
			`forward trace with content, ${answer.marks.length} marks: ${ms(trace)}; bare recursive closure: ${ms(closure)}; ratio ${(trace / closure).toFixed(1)} (wanted: at most 5); as the screen shows it: ${ms(screen)}`
		);

		const [booked, bare] = await booking(sql, owner);
		console.log(
			`one event of 10,000 serials: ${ms(booked)}; the same rows bare: ${ms(bare)}; ratio ${(booked / bare).toFixed(1)} (wanted: at most 3.5)`
		);

		const register = (text: string) => {
			const view = readView(registerList, new URLSearchParams(text));
			return () => listPage(sql, registerList, { ...view, size: 200 }, { today, login: 'bench' });
		};
		console.log(`register, first page of 200 with the count: ${ms(await repeat(15, register('show=all')))}`);
		console.log(`register, what is on hand, with the count: ${ms(await repeat(15, register('')))}`);
		for (const q of ['METER-02171', 'meter', 'B7-P1', 'nothing like it'])
			console.log(`register, search “${q}” with the count: ${ms(await repeat(9, register(`find=${q}`)))}`);
		const deep = encodeURIComponent('["PROBE-030000","1",60000]');
		console.log(`register, a page deep in the list: ${ms(await repeat(9, register(`show=all&after=${deep}`)))}`);
		for (const sort of ['expires', 'item', 'qty'])
			console.log(`register, sorted by ${sort}: ${ms(await repeat(5, register(`show=all&sort=${sort}`)))}`);
		console.log(
			`scan line, a known serial: ${ms(await repeat(9, () => find(sql, 'meter-021710')))}; an unknown one, with the nearest: ${ms(await repeat(9, () => find(sql, 'METER-0217x')))}`
		);

		const contents = (text: string) => {
			const view = readView(pairingList, new URLSearchParams(text));
			return () => listPage(sql, pairingList, { ...view, size: 200 }, { today, login: 'bench' });
		};
		for (const q of ['', 'find=METER-02171', 'find=meter', 'partItem=PROBE', 'sort=partNumber'])
			console.log(`what is in what, ${q || 'newest first'}, with the count: ${ms(await repeat(5, contents(q)))}`);
		const pages = () => findPairings(sql, { partItem: 'PROBE', partSerial: 'PROBE-021710' }, undefined, 200);
		console.log(`what is in what, for programs, by a part: ${ms(await repeat(9, pages))}`);

		console.log(`${cpus().length} cores`);
		await measureBookings(cluster.url, sql, owner, folder);
		await measureLedger(cluster.url, sql, owner);
	} finally {
		await sql.end();
		await reader.end();
		await owner.end();
		cluster.stop();
		rmSync(folder, { recursive: true, force: true });
	}
});
