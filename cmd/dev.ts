import { createServer } from 'vite';
import { fillFirm } from './firm.ts';
import { main, openDatabase, portFree, settings, untilStopped } from './settings.ts';

await main(async () => {
	await portFree(settings.port);
	const database = await openDatabase();
	const lines = await fillFirm(database.url);
	process.env.DATABASE_URL = database.url;
	const vite = await createServer({ server: { port: settings.port, host: '127.0.0.1', strictPort: true } });
	await vite.listen();
	console.log([`Earmark, rebuilt as you edit, is at http://127.0.0.1:${settings.port}`, ...lines].join('\n'));
	untilStopped(
		() => vite.close(),
		() => global.earmarkPool?.end({ timeout: 2 }),
		() => global.earmarkReadPool?.end({ timeout: 2 }),
		database.stop
	);
});
