import { spawn, spawnSync } from 'node:child_process';
import { readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Pool } from 'undici';
import { freePort } from '../../src/lib/server/database/cluster.ts';
import type { Sql } from '../../src/lib/server/database/connect.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { makeToken } from '../../src/lib/server/people/tokens.ts';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { application } from '../node.mjs';
import { median, ms, quantile } from './measure.ts';

/** How many lots are moved to and fro. */
const LOTS = 200;
const SECONDS = 6;
/** What is compared runs in turn, so many times, for so many seconds each. */
const TURNS = 8;
const TURN = 2;
/** How often a large event is booked beside small ones. */
const LARGE = 3;
const actor = { name: 'bench', role: 'coordinator', source: 'import' } as const;

/** 200 lots at two places, more than any run of moves takes. */
async function stock(sql: Sql): Promise<void> {
	await createItem(sql, 'bench', { code: 'MOVED', name: 'Moved', unit: 'kg', decimals: 3, tracking: 'lot' });
	const lots = Array.from({ length: LOTS }, (_, i) => `L${i + 1}`);
	for (const to of ['QS/M1', 'QS/M2'])
		await book(
			sql,
			actor,
			{
				key: `moved-${to}`,
				kind: 'receipt',
				at: '2026-01-01T00:00:00Z',
				partner: 'S1',
				movements: lots.map((lot) => ({ item: 'MOVED', lot, qty: '1000000', from: '@supplier', to }))
			},
			{ create: { places: true, partners: true } }
		);
}

/** Copies of the tables with every constraint and index, and pgbench's script that writes the same rows into them. */
async function bareTables(owner: Sql, folder: string): Promise<string> {
	const tables = ['event', 'movement', 'balance'];
	for (const t of tables)
		await owner.unsafe(`DROP TABLE IF EXISTS held_${t} CASCADE; CREATE TABLE held_${t} (LIKE ${t} INCLUDING ALL)`);
	await owner.unsafe(
		`INSERT INTO held_balance SELECT * FROM balance WHERE mark_id IN (SELECT id FROM mark WHERE item_id = (SELECT id FROM item WHERE code = 'MOVED'))`
	);
	const keys = await owner<{ t: string; def: string }[]>`
		SELECT conrelid::regclass::text AS t, pg_get_constraintdef(oid) AS def FROM pg_constraint WHERE contype = 'f' AND conrelid::regclass::text = ANY(${tables})`;
	for (const k of keys)
		await owner.unsafe(
			`ALTER TABLE held_${k.t} ADD ${k.def.replace(/REFERENCES (event|movement)\b/, 'REFERENCES held_$1')}`
		);
	const [p] = await owner<{ a: string; b: string; first: string }[]>`
		SELECT (SELECT id FROM place WHERE code = 'QS/M1') AS a, (SELECT id FROM place WHERE code = 'QS/M2') AS b,
			(SELECT min(id) FROM mark WHERE item_id = (SELECT id FROM item WHERE code = 'MOVED')) AS first`;
	const script = join(folder, 'bare.sql');
	writeFileSync(
		script,
		`\\set one random(0, ${LOTS - 2})
\\set two random(:one + 1, ${LOTS - 1})
BEGIN;
SELECT nextval('event_id') AS event \\gset
UPDATE held_balance SET qty = qty - 1 WHERE mark_id = ${p.first} + :one AND place_id = ${p.a};
UPDATE held_balance SET qty = qty + 1 WHERE mark_id = ${p.first} + :one AND place_id = ${p.b};
UPDATE held_balance SET qty = qty - 1 WHERE mark_id = ${p.first} + :two AND place_id = ${p.a};
UPDATE held_balance SET qty = qty + 1 WHERE mark_id = ${p.first} + :two AND place_id = ${p.b};
INSERT INTO held_event (id, key, kind, at, recorded_at, recorded_by, source, request) VALUES (:event, 'bare-' || :event, 'move', now(), now(), 'bench', 'api', repeat('a', 64));
INSERT INTO held_movement (event_id, at, mark_id, qty, from_place, to_place) VALUES (:event, now(), ${p.first} + :one, 1, ${p.a}, ${p.b});
INSERT INTO held_movement (event_id, at, mark_id, qty, from_place, to_place) VALUES (:event, now(), ${p.first} + :two, 1, ${p.a}, ${p.b});
COMMIT;
`
	);
	return script;
}

/** Runs pgbench. @returns transactions a second, and ms for each */
function pgbench(url: string, script: string, clients: number): { rate: number; latency: number } {
	const at = new URL(url);
	const version = readdirSync('/usr/lib/postgresql').sort((a, b) => Number(b) - Number(a))[0];
	const run = spawnSync(
		`/usr/lib/postgresql/${version}/bin/pgbench`,
		[
			...[
				'-n',
				'-M',
				'prepared',
				'-c',
				String(clients),
				'-j',
				String(Math.min(2, clients)),
				'-T',
				String(TURN),
				'-f',
				script
			],
			...['-h', at.hostname, '-p', at.port, '-U', at.username, at.pathname.slice(1)]
		],
		{ encoding: 'utf8', env: { ...process.env, PGPASSWORD: decodeURIComponent(at.password) } }
	);
	const number = (what: RegExp) => Number(what.exec(run.stdout)?.[1]);
	const [rate, latency] = [number(/tps = ([\d.]+)/), number(/latency average = ([\d.]+)/)];
	if (!rate) throw new Error(`pgbench failed: ${run.stderr}`);
	return { rate, latency };
}

/** The application as it runs, in a process of its own. */
export async function serve(url: string): Promise<{ port: number; pid: number; stop: () => Promise<void> }> {
	const port = await freePort();
	const server = spawn(process.execPath, application(process.env.EARMARK_BUILD ?? 'build'), {
		env: { ...process.env, DATABASE_URL: url, EARMARK_PORT: String(port), EARMARK_DEMO: '0', EARMARK_LOG: 'warn' },
		stdio: ['ignore', 'pipe', 'inherit']
	});
	await new Promise<void>((done, fail) => {
		let said = '';
		server.stdout.on('data', (d) => {
			said += d;
			if (said.includes('Ctrl-C stops it')) done();
		});
		server.once('exit', () => fail(new Error(`the application ended: ${said}`)));
	});
	return {
		port,
		pid: server.pid!,
		stop: () =>
			new Promise((done) => {
				server.removeAllListeners('exit');
				server.once('exit', () => done());
				server.kill('SIGTERM');
			})
	};
}

let keys = 0;
const small = () => {
	const one = Math.floor(Math.random() * (LOTS - 1));
	const two = one + 1 + Math.floor(Math.random() * (LOTS - 1 - one));
	return {
		key: `small-${keys++}`,
		kind: 'move',
		at: new Date().toISOString(),
		movements: [one, two].map((n) => ({ item: 'MOVED', lot: `L${n + 1}`, qty: '1', from: 'QS/M1', to: 'QS/M2' }))
	};
};

/** A program that books over HTTP with connections that stay open. */
function caller({ port, token }: Target, clients: number) {
	const pool = new Pool(`http://127.0.0.1:${port}`, { connections: clients });
	const headers = { authorization: `Bearer ${token}`, 'content-type': 'application/json' };
	const post = async (event: object) => {
		const { statusCode, body } = await pool.request({
			...{ path: '/api/v1/events', method: 'POST', headers },
			body: JSON.stringify(event)
		});
		const said = await body.text();
		if (statusCode !== 201) throw new Error(`${statusCode} ${said.slice(0, 300)}`);
	};
	return { post, close: () => pool.close() };
}
/** Where programs book, and with what right. */
interface Target {
	port: number;
	token: string;
}

/** Books small events from so many clients for some seconds. @returns how long each took, in ms */
async function load(to: Target, clients: number, seconds: number): Promise<number[]> {
	// Connections of its own: those that lay idle while something else was measured are closed by now.
	const { post, close } = caller(to, clients);
	const took: number[] = [];
	const end = performance.now() + seconds * 1000;
	await Promise.all(
		Array.from({ length: clients }, async () => {
			while (performance.now() < end) {
				const t = performance.now();
				await post(small());
				took.push(performance.now() - t);
			}
		})
	);
	await close();
	return took;
}

/**
 * Bookings of two movements through HTTP beside the same rows written bare; and how long they wait while one event of
 * 10,000 serials is booked.
 */
export async function measureBookings(url: string, sql: Sql, owner: Sql, folder: string): Promise<void> {
	await stock(sql);
	const script = await bareTables(owner, folder);
	const token = await makeToken(sql, 'bench', 'coordinator', 'bench');
	const app = await serve(url);
	const to = { port: app.port, token };
	try {
		// An application that has run for a while, as it does all day.
		await load(to, 16, 2 * SECONDS);
		// This machine works at two speeds: each is compared with what ran just before it.
		const turns: { bare: number; many: number; bareOne: number; one: number }[] = [];
		for (let turn = 0; turn < TURNS; turn++)
			turns.push({
				bare: pgbench(url, script, 16).rate,
				many: (await load(to, 16, TURN)).length / TURN,
				bareOne: pgbench(url, script, 1).latency,
				one: median(await load(to, 1, TURN))
			});
		const of = (what: (turn: (typeof turns)[number]) => number) => median(turns.map(what));
		console.log(
			`bookings of two movements through HTTP, 16 clients on ${LOTS} lots: ${Math.round(of((t) => t.many))} a second; the same rows bare, by pgbench: ${Math.round(of((t) => t.bare))}; ratio ${of((t) => t.many / t.bare).toFixed(2)} (wanted: at least 0.2)`
		);
		console.log(
			`the same, 1 client, median: ${ms(of((t) => t.one))}; bare: ${ms(of((t) => t.bareOne))}; ratio ${of((t) => t.one / t.bareOne).toFixed(1)} (wanted: at most 6)`
		);

		const alone = await load(to, 4, SECONDS);
		const big = (n: number) => ({
			key: `big-${n}`,
			kind: 'receipt',
			at: new Date().toISOString(),
			partner: 'S1',
			movements: Array.from({ length: 10_000 }, (_, i) => ({
				...{ item: 'BOARD', serial: `BIG${n}-${i}`, qty: 1, from: '@supplier', to: 'QS/DOCK' }
			}))
		});
		const beside: number[] = [];
		for (let n = 0; n < LARGE; n++) {
			let going = true;
			const { post, close } = caller(to, 1);
			const large = post(big(n)).finally(() => (going = false));
			while (going) beside.push(...(await load(to, 4, 0.2)));
			await large;
			await close();
		}
		const [p, q] = [quantile(beside, 0.99), quantile(alone, 0.99)];
		console.log(
			`99 of 100 small bookings of 4 clients within ${ms(q)}; while an event of 10,000 serials is booked: ${ms(p)}; ratio ${(p / q).toFixed(1)} (wanted: at most 3)`
		);
	} finally {
		await app.stop();
	}
}
