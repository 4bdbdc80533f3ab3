import { createServer } from 'node:http';
import { pathToFileURL } from 'node:url';
import { resolve } from 'node:path';
import { endThreads } from '../src/lib/server/work/pool.ts';
import { fillFirm } from './firm.ts';
import { main, openDatabase, portFree, settings, untilStopped } from './settings.ts';

await main(async () => {
	await portFree(settings.port);
	const database = await openDatabase();
	try {
		const lines = await fillFirm(database.url);
		process.env.DATABASE_URL = database.url;
		process.env.ORIGIN ??= `http://127.0.0.1:${settings.port}`;
		process.env.BODY_SIZE_LIMIT ??= '20M';
		const { handler } = await import(pathToFileURL(resolve(process.env.EARMARK_BUILD ?? 'build', 'handler.js')).href);
		const server = createServer(handler);
		await new Promise<void>((done) => server.listen(settings.port, '127.0.0.1', done));
		console.log([`Earmark is at http://127.0.0.1:${settings.port}`, ...lines, 'Ctrl-C stops it.'].join('\n'));
		untilStopped(
			() => {
				server.close();
				server.closeAllConnections();
			},
			endThreads,
			() => global.earmarkPool?.end({ timeout: 2 }),
			() => global.earmarkReadPool?.end({ timeout: 2 }),
			database.stop
		);
	} catch (e) {
		database.stop();
		throw e;
	}
});
