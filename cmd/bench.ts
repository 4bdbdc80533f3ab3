import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { startCluster } from '../src/lib/server/database/cluster.ts';
import { connect, type Sql } from '../src/lib/server/database/connect.ts';
import { migrate } from '../src/lib/server/database/migrate.ts';
import { book } from '../src/lib/server/ledger/book.ts';
import type { Actor, EventInput } from '../src/lib/server/ledger/input.ts';
import { find } from '../src/lib/server/register/find.ts';
import { registerCount, registerPage } from '../src/lib/server/register/search.ts';
import { createItem } from '../src/lib/server/setup/items.ts';
import { forwardAnswer } from '../src/lib/server/trace/answer.ts';
import { findRoots } from '../src/lib/server/trace/slice.ts';
import { traceView } from '../src/lib/server/trace/view.ts';
import { main } from './settings.ts';

type Movement = NonNullable<EventInput['movements']>[number];
const actor: Actor = { name: 'bench', role: 'coordinator', source: 'import' };
const create = { places: true, partners: true };
let clock = Date.UTC(2026, 0, 1);
let keys = 0;
const event = (kind: string, movements: Movement[], more: Partial<EventInput> = {}): EventInput => ({
	...{
		key: `bench-${keys++}`,
		kind,
		at: new Date((clock += 60_000)).toISOString(),
		partner: kind === 'shipment' ? 'C1' : 'S1'
	},
	...{ movements, ...more }
});
const median = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
async function time(work: () => Promise<unknown>): Promise<number> {
	const t = performance.now();
	await work();
	return performance.now() - t;
}
const ms = (n: number) => `${n < 10 ? n.toFixed(1) : Math.round(n)} ms`;

/** 100,000 marks and 400,000 movements, booked through book(), among them one lot that goes into about 1,000 marks. */
async function generate(sql: Sql) {
	const items = [['RAW', 'lot'], ['BULK', 'lot'], ['PACK', 'lot'], ['PART', 'serial']] as const; // prettier-ignore
	for (const [code, tracking] of items)
		await createItem(sql, {
			code,
			name: `Bench ${code.toLowerCase()}`,
			unit: code === 'PART' ? 'each' : 'kg',
			decimals: code === 'PART' ? 0 : 3,
			tracking
		});
	// The root: 20 bulks, 48 packs of each, and half of the packs at customers.
	await book(
		sql,
		actor,
		event('receipt', [{ item: 'RAW', lot: 'ROOT', qty: '2000', from: '@supplier', to: 'QS/A1' }]),
		{ create }
	);
	for (let b = 0; b < 20; b++) {
		await book(sql, actor, event('output', [
			{ item: 'RAW', lot: 'ROOT', qty: '96', from: 'QS/A1', to: '@process', run: `B${b}`, role: 'use' },
			{ item: 'BULK', lot: `B${b}`, qty: '96', from: '@process', to: 'QS/T1', run: `B${b}`, role: 'make' }
		], { runs: [{ code: `B${b}` }] }), { create }); // prettier-ignore
		const packs = Array.from({ length: 48 }, (_, p) => `B${b}-P${p}`);
		await book(sql, actor, event('output', [
			{ item: 'BULK', lot: `B${b}`, qty: '96', from: 'QS/T1', to: '@process', run: `P${b}`, role: 'use' },
			...packs.map((lot): Movement => ({ item: 'PACK', lot, qty: '2', from: '@process', to: 'QS/A2', run: `P${b}`, role: 'make' }))
		], { runs: [{ code: `P${b}` }] }), { create }); // prettier-ignore
		await book(sql, actor, event('shipment', packs.filter((_, i) => i % 2).map((lot) => ({ item: 'PACK', lot, qty: '1.5', from: 'QS/A2', to: '@customer' }))), { create }); // prettier-ignore
	}
	// The mass: serials that come in, move twice, and half of which leave; some return, so that it makes 400,000.
	for (let n = 0; n < 99_000; n += 9_900) {
		const serials = Array.from({ length: 9_900 }, (_, i) => `SN-${String(n + i).padStart(6, '0')}`);
		const way = (from: string, to: string) =>
			serials.map((serial): Movement => ({ item: 'PART', serial, qty: 1, from, to }));
		await book(sql, actor, event('receipt', way('@supplier', 'QS/DOCK')), { create });
		await book(sql, actor, event('move', way('QS/DOCK', 'QS/A1')), { create });
		await book(sql, actor, event('move', way('QS/A1', 'QS/A2')), { create });
		await book(sql, actor, event(n % 19_800 ? 'shipment' : 'move', way('QS/A2', n % 19_800 ? '@customer' : 'QS/A3')), {
			create
		});
		process.stdout.write('.');
	}
}

/** One event of 10,000 new serials, and the same rows put bare into copies of the tables without keys to others, checks or triggers. */
async function booking(sql: Sql, owner: Sql): Promise<[number, number]> {
	for (const t of ['event', 'mark', 'movement', 'balance'])
		await owner.unsafe(`CREATE TABLE bare_${t} (LIKE ${t} INCLUDING DEFAULTS INCLUDING GENERATED INCLUDING INDEXES INCLUDING STORAGE); INSERT INTO bare_${t} OVERRIDING SYSTEM VALUE SELECT ${t === 'mark' ? 'id, item_id, kind, lot_no, serial_no, DEFAULT' : '*'} FROM ${t}`.replace(/INSERT INTO bare_mark.*/, 'INSERT INTO bare_mark (id, item_id, kind, lot_no, serial_no, parent_id, supplier_lot, made_on, expires_on, facts, status, event_id) SELECT id, item_id, kind, lot_no, serial_no, parent_id, supplier_lot, made_on, expires_on, facts, status, event_id FROM mark')); // prettier-ignore
	await owner.unsafe('ANALYZE');
	const [booked, bare]: number[][] = [[], []];
	for (let round = 0; round < 7; round++) {
		const serials = Array.from({ length: 10_000 }, (_, i) => `R${round}-${String(i).padStart(5, '0')}`);
		const input = event(
			'receipt',
			serials.map((serial) => ({ item: 'PART', serial, qty: 1, from: '@supplier', to: 'QS/DOCK' }))
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
	const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
	const cluster = await startCluster(folder);
	const sql = connect(cluster.url, 'app', 4);
	const owner = connect(cluster.url, 'owner', 1);
	try {
		await migrate(cluster.url);
		const made = await time(() => generate(sql));
		await owner.unsafe('VACUUM ANALYZE');
		const [n] = await sql<{ marks: number; movements: number }[]>`SELECT (SELECT count(*)::int FROM mark) AS marks, (SELECT count(*)::int FROM movement) AS movements`; // prettier-ignore
		console.log(
			` ${n.marks.toLocaleString('en')} marks, ${n.movements.toLocaleString('en')} movements, booked in ${Math.round(made / 1000)} s`
		);

		const repeat = async (times: number, work: () => Promise<unknown>) => {
			await work();
			const list: number[] = [];
			for (let i = 0; i < times; i++) list.push(await time(work));
			return median(list);
		};
		const root = { item: 'RAW', lot: 'ROOT' };
		const answer = (await forwardAnswer(sql, root, {}))!;
		const [id] = (await findRoots(sql, root))!;
		const trace = await repeat(15, () => forwardAnswer(sql, root, {}));
		const screen = await repeat(15, () => traceView(sql, id, 'forward'));
		const closure = await repeat(15, () => sql`
			WITH RECURSIVE reach(id) AS (SELECT ${id}::bigint UNION
				SELECT m.mark_id FROM reach JOIN movement u ON u.mark_id = reach.id AND u.role = 'use' JOIN movement m ON m.run_id = u.run_id AND m.role = 'make')
			SELECT id FROM reach`); // prettier-ignore
		console.log(`forward trace with content, ${answer.marks.length} marks: ${ms(trace)}; bare recursive closure: ${ms(closure)}; ratio ${(trace / closure).toFixed(1)} (wanted: at most 6); as the screen shows it: ${ms(screen)}`); // prettier-ignore

		const [booked, bare] = await booking(sql, owner);
		console.log(`one event of 10,000 serials: ${ms(booked)}; the same rows bare: ${ms(bare)}; ratio ${(booked / bare).toFixed(1)} (wanted: at most 4)`); // prettier-ignore

		const page = await repeat(15, () => Promise.all([registerPage(sql, {}), registerCount(sql, {})]));
		console.log(`register, first page of 200 with the count: ${ms(page)}`);
		for (const q of ['SN-04711', 'sn', 'B7-P1', 'nothing like it'])
			console.log(`register, search “${q}” with the count: ${ms(await repeat(9, () => Promise.all([registerPage(sql, { q }), registerCount(sql, { q })])))}`); // prettier-ignore
		const deep = { number: 'SN-090000', id: '1' };
		console.log(`register, a page deep in the list: ${ms(await repeat(9, () => registerPage(sql, {}, deep)))}`);
		console.log(`scan line, a known serial: ${ms(await repeat(9, () => find(sql, 'sn-047110')))}; an unknown one, with the nearest: ${ms(await repeat(9, () => find(sql, 'SN-0471x')))}`); // prettier-ignore
	} finally {
		await sql.end();
		await owner.end();
		cluster.stop();
		rmSync(folder, { recursive: true, force: true });
	}
});
