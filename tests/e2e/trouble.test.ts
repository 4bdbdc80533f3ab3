import { spawnSync } from 'node:child_process';
import { chmodSync, chownSync, mkdirSync, mkdtempSync, rmSync, statfsSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort, serverCommand, serverProgram } from '../../src/lib/server/database/cluster.ts';
import { connect, type Sql } from '../../src/lib/server/database/connect.ts';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { brokenInvariants } from '../db/checker.ts';
import { findingsOf } from '../db/cluster.ts';
import { embedded, small, UP_AGAIN, type Answer } from './embedded.ts';

/** A folder of the database's own disk, which can be filled; where this machine lets nobody make one, it is a folder. */
const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
const disk = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=900m', 'tmpfs', folder]).status === 0;
const replicas = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
afterAll(() => {
	if (disk) spawnSync('umount', ['-l', folder]);
	rmSync(folder, { recursive: true, force: true });
	rmSync(replicas, { recursive: true, force: true });
});

const app = embedded(folder);

/** Runs one of PostgreSQL's programs as whoever the server runs as. */
function run(program: string, ...args: string[]): void {
	const [command, rest] = serverCommand(serverProgram(program), args);
	const done = spawnSync(command, rest, { cwd: '/', encoding: 'utf8', stdio: ['ignore', 'ignore', 'pipe'] });
	if (done.status !== 0) throw new Error(`${program}: ${done.stderr}`);
}

/** Each answer that a caller may get while the database is in trouble. */
const expectSaid = ({ status, retry, text }: Answer, allowed: number[]) => {
	expect(allowed, text).toContain(status);
	if (status === 503) expect(retry).toBe('2');
};

describe('a replica', () => {
	const at = join(replicas, 'pg');
	let replica: Sql;
	let port = 0;
	const startReplica = () => {
		const settings = `-p ${port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=`;
		run('pg_ctl', '-D', at, '-w', '-l', join(at, 'server.log'), '-o', settings, 'start');
	};
	const killReplica = () => run('pg_ctl', '-D', at, '-m', 'immediate', '-w', 'stop');
	beforeAll(async () => {
		port = await freePort();
		// Known before it is there: until then it is one that does not answer.
		const url = app.url().replace(/:\d+\//, `:${port}/`);
		await app.end('SIGTERM');
		await app.start({ DATABASE_READ_URL: url });
		chmodSync(replicas, 0o711);
		mkdirSync(at, { mode: 0o700 });
		if (process.getuid?.() === 0) {
			const { uid, gid } = statSync(join(folder, 'pg'));
			chownSync(at, uid, gid);
		}
		run('pg_basebackup', '-D', at, '-d', app.url().replace(/\/earmark$/, '/'), '-R', '-X', 'stream', '-c', 'fast');
		startReplica();
		replica = connect(url, 'owner', 1);
	});
	afterAll(async () => {
		await replica.end({ timeout: 1 }).catch(() => undefined);
		killReplica();
	});

	/** How much of a lot a trace finds at QS/A2, and at QS/A1. */
	async function traced(lot: string) {
		const answer = await app.call(`trace?direction=forward&item=RAW1&lot=${lot}`);
		expect(answer.status, answer.text).toBe(200);
		const { where } = JSON.parse(answer.text) as { where: { at: string; qty: string }[] };
		return where.map((w) => [w.at, w.qty]).sort();
	}
	const known = new Map<string, number>();
	/** Four callers, each of a lot of its own: what each was told is booked is in the trace that it asks for next. */
	async function everyTraceIsOfNow(until: () => boolean): Promise<number> {
		let traces = 0;
		const caller = async (lot: string) => {
			do {
				const { status, text } = await app.call('events', small(lot));
				expect(status, text).toBe(201);
				const times = (known.get(lot) ?? 0) + 1;
				known.set(lot, times);
				expect(await traced(lot)).toEqual([
					['QS/A1', String(100_000 - times * 0.5)],
					['QS/A2', String(times * 0.5)]
				]);
				traces++;
			} while (!until());
		};
		await Promise.all(['L1', 'L2', 'L3', 'L4'].map(caller));
		return traces;
	}
	/** How many of the application's connections to it read a trace last, not only whether it has come so far. */
	const readers = async () =>
		(
			await replica<{ n: number }[]>`SELECT count(*)::int AS n FROM pg_stat_activity
				WHERE datname = current_database() AND pid <> pg_backend_pid() AND query LIKE '%of_marks%'`
		)[0].n;
	const times = (n: number) => {
		let done = 0;
		return () => ++done >= n;
	};

	it('answers traces while it follows', async () => {
		await everyTraceIsOfNow(times(8));
		expect(await readers()).toBeGreaterThan(0);
	});
	it('that stands still is passed by, and answers again once it has come after', async () => {
		await replica`SELECT pg_wal_replay_pause()`;
		await everyTraceIsOfNow(times(8));
		expect(await readers()).toBe(0);
		await replica`SELECT pg_wal_replay_resume()`;
		await everyTraceIsOfNow(times(8));
		expect(await readers()).toBeGreaterThan(0);
	});
	it('that is killed is passed by, in the middle of traces too', async () => {
		let dead = false;
		const traces = everyTraceIsOfNow(() => dead);
		await new Promise((done) => setTimeout(done, 500));
		killReplica();
		await new Promise((done) => setTimeout(done, 500));
		dead = true;
		expect(await traces).toBeGreaterThan(8);
		startReplica();
	});
	it('that was promoted is passed by: it goes its own way', async () => {
		// Asked until it is: the connection of before was killed with it, and a promotion takes its time.
		const promoted = () => replica<{ is: boolean }[]>`
			SELECT CASE WHEN pg_is_in_recovery() THEN pg_promote(false) END, NOT pg_is_in_recovery() AS is`;
		await expect.poll(() => promoted().then(([{ is }]) => is, String), { timeout: UP_AGAIN }).toBe(true);
		await everyTraceIsOfNow(times(8));
		expect(await readers()).toBe(0);
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});

describe('connections', () => {
	it('that are used up are said, and what is booked then is booked once; it answers again by itself', async () => {
		const [{ most }] = await app.owner<{ most: number }[]>`SELECT current_setting('max_connections')::int AS most`;
		// All that the application holds is ended, and taken before it comes back.
		const hog = connect(app.url(), 'owner', most);
		const took: Promise<unknown>[] = [];
		const answers: Answer[] = [];
		const bodies = Array.from({ length: 60 }, () => small('L7'));
		let letGo = () => {};
		const held = new Promise<void>((done) => (letGo = done));
		for (let n = 0; n < most; n++)
			took.push(
				hog.reserve().then(
					(own) => held.then(() => own.release()),
					() => undefined
				)
			);
		const others = app.owner`SELECT count(pg_terminate_backend(pid)) FROM pg_stat_activity
			WHERE application_name = 'earmark' AND pid <> pg_backend_pid() AND state IN ('idle', 'active') AND backend_start < ${new Date(Date.now() - 3000)}`;
		await others.catch(() => undefined);
		const begun = performance.now();
		const some = async (from: number) => {
			for (let n = from; n < bodies.length; n += 6) {
				const answer = await app.call('events', bodies[n]);
				expectSaid(answer, [201, 503]);
				answers.push(answer);
				const trace = await app.call('trace?direction=forward&item=RAW1&lot=L7');
				expectSaid(trace, [200, 503]);
				answers.push(trace);
			}
		};
		await Promise.all(Array.from({ length: 6 }, (_, n) => some(n)));
		console.log(
			`connections used up: ${answers.filter((a) => a.status === 503).length} of ${answers.length} calls were told to come again, in ${Math.round(performance.now() - begun)} ms`
		);
		expect(answers.some((a) => a.status === 503)).toBe(true);
		letGo();
		await hog.end({ timeout: 0 });
		await Promise.all(took);
		await app.letGo();
		await app.answersAgain();
		for (const body of bodies) expect([200, 201]).toContain((await app.call('events', body)).status);
		const [{ n }] = await app.sql<{ n: number }[]>`
			SELECT count(DISTINCT e.id)::int AS n FROM event e WHERE e.key = ANY(${bodies.map((b) => b.key)})`;
		expect(n).toBe(bodies.length);
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});

describe.runIf(disk)('a full disk', () => {
	it('keeps no half of a promise or a booking; with room again all goes on by itself', async () => {
		await app.owner`INSERT INTO partner (code, name, kind) VALUES ('C9', 'Customer', 'customer')`;
		const order = await createDocument(app.sql, 'ines', {
			...{ kind: 'sale', partner: 'C9', place: 'QS' },
			lines: [{ item: 'RAW1', qty: '100000' }]
		});
		const promised = (n: number) => ({
			...{ key: `promise-${n}`, order, line: 1, item: 'RAW1', lot: `L${8 + (n % 8)}`, qty: '1' },
			reason: 'x'.repeat(180)
		});
		const filler = join(folder, 'filler');
		const fill = () => {
			const { bavail, bsize } = statfsSync(folder);
			writeFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize - 64 * 1024)), { flag: 'a' });
		};
		const [answers, kept]: [Answer[], string[]] = [[], []];
		const [asked, bodies] = [new Map<string, object>(), [] as ReturnType<typeof small>[]];
		let [working, n] = [true, 0];
		const caller = async () => {
			while (working) {
				const promise = promised(n++);
				asked.set(promise.key, promise);
				const answer = await app.call('promises', promise);
				expectSaid(answer, [201, 422, 503, 507, 0]);
				if (answer.status === 201) kept.push(promise.key);
				const body = small(`L${n % 8}`);
				bodies.push(body);
				const booked = await app.call('events', body);
				expectSaid(booked, [201, 503, 507, 0]);
				if (booked.status === 201) kept.push(body.key);
				answers.push(answer, booked);
			}
		};
		const callers = Promise.all(Array.from({ length: 4 }, caller));
		while (kept.length < 20) await new Promise((done) => setTimeout(done, 20));
		fill();
		const full = () => answers.filter((a) => a.status === 507 || a.status === 503).length;
		const until = Date.now() + 60_000;
		while (full() < 20 && Date.now() < until) await new Promise((done) => setTimeout(done, 20));
		rmSync(filler);
		const begun = performance.now();
		await app.letGo();
		await app.answersAgain();
		const back = performance.now() - begun;
		working = false;
		await callers;
		const by = (status: number) => answers.filter((a) => a.status === status).length;
		console.log(
			`disk full: ${by(507)} told so, ${by(503)} told to come again, ${by(201)} kept; answered again after ${Math.round(back)} ms`
		);
		expect(by(507)).toBeGreaterThan(0);
		expect(back).toBeLessThan(UP_AGAIN);
		const there = await app.sql<{ key: string }[]>`SELECT key FROM promise UNION ALL SELECT key FROM event`;
		const found = new Set(there.map((t) => t.key));
		expect(kept.filter((k) => !found.has(k))).toEqual([]);
		for (const body of bodies) expect([200, 201]).toContain((await app.call('events', body)).status);
		expect(await brokenInvariants(app.owner)).toEqual([]);
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});
