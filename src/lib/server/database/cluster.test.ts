import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { connect } from './connect.ts';
import { startCluster } from './cluster.ts';

/*
 * An application that was killed leaves its database server running. The next start takes the folder over; a second
 * start beside a living one does not.
 */
const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const program = `
	import { startCluster } from './src/lib/server/database/cluster.ts';
	const { url } = await startCluster(${JSON.stringify(folder)});
	console.log('up ' + url);
	setInterval(() => {}, 1000);`;
const start = async () => {
	const child = spawn(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', program], {
		stdio: ['ignore', 'pipe', 'inherit']
	});
	const url = await new Promise<string>((done, fail) => {
		let said = '';
		child.stdout.on('data', (d) => {
			said += d;
			const up = /up (\S+)\n/.exec(said);
			if (up) done(up[1]);
		});
		child.once('exit', () => fail(new Error(said)));
	});
	return { child, url };
};
/** The database that is always there: the application makes its own when it migrates. */
const ofServer = (url: string) => url.replace(/earmark$/, 'postgres');
const serverPid = () => Number(readFileSync(join(folder, 'pg', 'postmaster.pid'), 'utf8').split('\n')[0]);
const lives = (pid: number) => {
	try {
		process.kill(pid, 0);
		return true;
	} catch {
		return false;
	}
};

it('a start takes over what a killed application left running, and refuses beside a living one', async () => {
	const first = await start();
	const sql = connect(ofServer(first.url), 'owner', 1);
	await sql`CREATE TABLE kept (n integer)`;
	await sql`INSERT INTO kept VALUES (7)`;
	await sql.end();
	await expect(startCluster(folder)).rejects.toThrow(
		`Another Earmark is running on ${folder} (process ${first.child.pid}). Stop it with: kill ${first.child.pid}.`
	);
	const left = serverPid();
	const ended = new Promise((done) => first.child.once('exit', done));
	first.child.kill('SIGKILL');
	await ended;
	expect(lives(left), 'the database server outlives its application').toBe(true);

	const second = await startCluster(folder);
	try {
		expect(serverPid()).not.toBe(left);
		const again = connect(ofServer(second.url), 'owner', 1);
		expect(await again`SELECT n FROM kept`).toMatchObject([{ n: 7 }]);
		await again.end();
	} finally {
		second.stop();
	}
});

it('a database server that dies alone is started again, on the same address, with all that was answered', async () => {
	const third = await startCluster(folder);
	let gaveUp = '';
	third.watch((sentence) => (gaveUp = sentence));
	const sql = connect(ofServer(third.url), 'owner', 2);
	try {
		for (const signal of ['SIGKILL', 'SIGQUIT'] as const) {
			await sql`INSERT INTO kept VALUES (8)`;
			const before = serverPid();
			process.kill(before, signal);
			await expect
				.poll(() => sql`SELECT 1`.then(() => serverPid() !== before).catch(() => false), { timeout: 120_000 })
				.toBe(true);
		}
		expect(await sql`SELECT count(*)::int AS n FROM kept WHERE n = 8`).toMatchObject([{ n: 2 }]);
		expect(gaveUp).toBe('');
	} finally {
		await sql.end({ timeout: 1 });
		third.stop();
	}
	// What was stopped on purpose stays so.
	expect(existsSync(join(folder, 'pg', 'postmaster.pid'))).toBe(false);
});
