import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { chromium, type Browser, type BrowserContext, type Cookie, type Page } from 'playwright';
import { afterAll, afterEach, beforeAll, expect } from 'vitest';
import { PASSWORD } from '../../demo/firm.ts';
import { freePort, startCluster, type Cluster } from '../../src/lib/server/database/cluster.ts';
import { endApplication, firmOf, startApplication } from '../started.ts';
import { connect, type Sql } from '../../src/lib/server/database/connect.ts';

export interface App {
	base: string;
	browser: Browser;
	/** the application's database, for what a screen does not show */
	sql: Sql;
	/** a signed-in page of its own session */
	signIn(login?: string, size?: { width: number; height: number }): Promise<Page>;
	token(role: string): Promise<string>;
	/** addresses off this machine that any page asked for */
	outside: string[];
	/** starts another instance on the same database, which ends with the rest */
	also(): Promise<string>;
	/** stops the server as a power cut would, and starts it again on the same data */
	restart(): Promise<void>;
}

/**
 * Chromium without its own windows and menus, which nobody sees here and which cost more than half of the time.
 * @param args more for its command line
 */
export const launch = (...args: string[]) =>
	chromium.launch({
		executablePath: '/usr/bin/chromium-headless-shell',
		args: [
			'--no-sandbox',
			'--disable-gpu',
			'--disable-quic',
			'--no-first-run',
			'--disable-background-networking',
			'--disable-component-update',
			'--disable-sync',
			...args
		]
	});

/** One browser for all files of a worker, since each has contexts of its own; it goes with the worker. */
let shared: Promise<Browser> | null = null;

/** Where all is tested as of another day (`--day`), it is that day in the browser too. */
function moveClock(shift: number) {
	const Real = Date;
	const now = () => Real.now() + shift;
	globalThis.Date = new Proxy(Real, {
		construct: (_, given) => Reflect.construct(Real, given.length ? given : [now()]),
		get: (_, name) => (name === 'now' ? now : Reflect.get(Real, name))
	});
}

/** Starts the real thing by its start command on a database of its own, and a browser that notes every request. */
export function startApp({ demo = true } = {}): App {
	const app = { outside: [] } as unknown as App;
	const contexts: BrowserContext[] = [];
	let server: ChildProcess;
	let own: { cluster: Cluster; folder: string } | null = null;
	let env: Record<string, string>;

	const others: ChildProcess[] = [];
	const start = async () => void (server = await startApplication(env));

	beforeAll(async () => {
		let base = process.env.EARMARK_TEST_CLUSTER;
		if (!base) {
			const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
			own = { cluster: await startCluster(folder, true), folder };
			base = own.cluster.url;
		}
		const port = await freePort();
		const url = await firmOf(base, demo, port);
		env = { DATABASE_URL: url, EARMARK_PORT: String(port), EARMARK_DEMO: demo ? '1' : '0' };
		await start();
		app.base = `http://127.0.0.1:${port}`;
		app.sql = connect(url, 'app', 2);
		app.browser = await (shared ??= launch());
	});
	const sessions = new Map<string, Cookie[]>();
	app.signIn = async (login = 'ines', size = { width: 1280, height: 800 }) => {
		const context = await app.browser.newContext({ viewport: size, acceptDownloads: true });
		contexts.push(context);
		// A machine with two cores that runs browser, server and database at once is slow at times.
		// A wait ends when what is waited for is there: long enough for a machine that has others to serve as well.
		context.setDefaultTimeout(120_000);
		if (process.env.EARMARK_SHIFT) await context.addInitScript(moveClock, Number(process.env.EARMARK_SHIFT));
		context.on('request', (r) => {
			if (!/^(http:\/\/127\.0\.0\.1:|data:|blob:)/.test(r.url())) app.outside.push(r.url());
		});
		const page = await context.newPage();
		page.on('pageerror', (e) => expect.soft(e.message, 'an error in the page').toBe(''));
		// A press before the page's script has started would be lost.
		const go = page.goto.bind(page);
		page.goto = async (...to) => {
			const answer = await go(...to);
			if (answer?.headers()['content-type']?.startsWith('text/html') && answer.status() < 500)
				await page.locator('html[data-live]').waitFor({ state: 'attached' });
			return answer;
		};
		// Whoever signed in before in this file comes back with that session, unless it has ended since.
		await context.addCookies(sessions.get(login) ?? []);
		await page.goto(app.base + '/');
		if (!page.url().includes('/sign-in')) return page;
		await page.getByLabel('Sign-in name').fill(login);
		await page.getByLabel('Password', { exact: true }).fill(PASSWORD);
		await page.getByRole('button', { name: 'Sign in' }).click();
		await page.waitForURL(app.base + '/');
		sessions.set(login, await context.cookies());
		return page;
	};
	app.token = async (role) => {
		const { makeToken } = await import('../../src/lib/server/people/tokens.ts');
		return makeToken(app.sql, `test ${role}`, role, 'test');
	};
	app.also = async () => {
		const port = String(await freePort());
		others.push(await startApplication({ ...env, EARMARK_PORT: port }));
		return `http://127.0.0.1:${port}`;
	};
	app.restart = async () => {
		await endApplication(server, 'SIGKILL');
		await start();
	};
	afterEach(async () => {
		for (const c of contexts.splice(0)) await c.close();
	});
	afterAll(async () => {
		await app.sql?.end({ timeout: 2 });
		for (const other of others) other.kill('SIGTERM');
		if (server) await endApplication(server, 'SIGTERM');
		own?.cluster.stop();
		if (own) rmSync(own.folder, { recursive: true, force: true });
	});
	return app;
}
