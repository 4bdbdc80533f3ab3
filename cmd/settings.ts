import { createServer } from 'node:net';
import { startCluster, StartError, type Cluster } from '../src/lib/server/database/cluster.ts';
import { migrate } from '../src/lib/server/database/migrate.ts';

/** The settings, all from the environment, with their defaults. */
export const settings = {
	port: Number(process.env.EARMARK_PORT ?? 4173),
	data: process.env.EARMARK_DATA || '.data',
	demo: process.env.EARMARK_DEMO !== '0',
	database: process.env.DATABASE_URL || undefined
};

/**
 * The database of these settings, brought up to the code: the server named by DATABASE_URL, or the embedded one.
 * @throws StartError in one plain sentence
 */
export async function openDatabase(): Promise<{ url: string; stop: () => void; watch: Cluster['watch'] }> {
	const cluster: Cluster | null = settings.database ? null : await startCluster(settings.data);
	const url = settings.database ?? cluster!.url;
	try {
		await migrate(url);
	} catch (e) {
		cluster?.stop();
		if (e instanceof StartError) throw e;
		throw new StartError(
			`The database could not be prepared: ${(e as Error).message}. Check DATABASE_URL, or that its owner may make tables.`
		);
	}
	return { url, stop: () => cluster?.stop(), watch: (gaveUp) => cluster?.watch(gaveUp) };
}

/** @throws StartError when somebody listens there */
export const portFree = (port: number) =>
	new Promise<void>((done, fail) => {
		if (!Number.isInteger(port) || port < 1 || port > 65_535)
			return fail(new StartError('EARMARK_PORT is not a port. Set it to a number from 1 to 65535.'));
		const s = createServer();
		s.once('error', () =>
			fail(new StartError(`Port ${port} is in use. Stop what runs there, or set EARMARK_PORT to another one.`))
		);
		s.listen(port, '127.0.0.1', () => s.close(() => done()));
	});

/** Runs a command; a StartError is one sentence, everything else a trace. */
export async function main(work: () => Promise<void>) {
	try {
		await work();
	} catch (e) {
		console.error(e instanceof StartError ? e.message : e);
		process.exit(1);
	}
}

/** Waits for Ctrl-C or a stop signal, then runs the ends one after the other, once. */
export function untilStopped(...ends: (() => unknown)[]) {
	let stopping = false;
	const stop = async () => {
		if (stopping) return;
		stopping = true;
		for (const end of ends) await end();
		process.exit(0);
	};
	process.on('SIGINT', stop);
	process.on('SIGTERM', stop);
}
