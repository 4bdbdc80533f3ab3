import { spawn } from 'node:child_process';
import { createServer } from 'node:http';
import { pathToFileURL } from 'node:url';
import { resolve } from 'node:path';
import { StartError } from '../src/lib/server/database/cluster.ts';
import { main, openDatabase, portFree, settings, untilStopped } from './settings.ts';

/** Fills an empty database. @returns what to tell whoever started it */
const filled = (url: string) =>
	new Promise<string[]>((done, failed) => {
		const child = spawn(process.execPath, ['--import', 'tsx', 'cmd/fill.ts'], {
			env: { ...process.env, DATABASE_URL: url },
			stdio: ['ignore', 'inherit', 'inherit', 'ipc']
		});
		let lines: string[] | null = null;
		child.on('message', (said: string[]) => (lines = said));
		child.on('error', failed);
		child.on('exit', (code) =>
			lines
				? done(lines)
				: failed(new StartError(`The database could not be filled (${code ?? 'stopped'}). Start again.`))
		);
	});

await main(async () => {
	await portFree(settings.port);
	const database = await openDatabase();
	try {
		const lines = await filled(database.url);
		process.env.DATABASE_URL = database.url;
		process.env.ORIGIN ??= `http://127.0.0.1:${settings.port}`;
		process.env.BODY_SIZE_LIMIT ??= '20M';
		const { handler } = await import(pathToFileURL(resolve(process.env.EARMARK_BUILD ?? 'build', 'handler.js')).href);
		const server = createServer(handler);
		// Longer than a caller or a proxy in front keeps a connection, as a rule: what closes first is then never this side,
		// and nobody sends a request into a connection that is just being closed.
		server.keepAliveTimeout = 65_000;
		await new Promise<void>((done) => server.listen(settings.port, '127.0.0.1', done));
		console.log([`Earmark is at http://127.0.0.1:${settings.port}`, ...lines, 'Ctrl-C stops it.'].join('\n'));
		database.watch((sentence) => {
			console.error(sentence);
			process.exit(1);
		});
		untilStopped(
			() => {
				server.close();
				server.closeAllConnections();
			},
			() => global.earmarkThreads?.destroy(),
			() => global.earmarkPool?.end({ timeout: 2 }),
			() => global.earmarkReadPool?.end({ timeout: 2 }),
			database.stop
		);
	} catch (e) {
		database.stop();
		throw e;
	}
});
