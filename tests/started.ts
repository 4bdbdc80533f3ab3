import { spawn, type ChildProcess } from 'node:child_process';
import { application } from '../cmd/node.mjs';
import { copyOf } from './db/template.ts';

/** Starts the application by its start command; comes back once it answers. @throws Error with what it said where it ended */
export async function startApplication(env: Record<string, string>): Promise<ChildProcess> {
	const child = spawn(process.execPath, application(process.env.EARMARK_BUILD ?? 'build-test'), {
		env: { ...process.env, EARMARK_LOG: 'silent', ...env },
		stdio: ['ignore', 'pipe', 'inherit']
	});
	await new Promise<void>((done, fail) => {
		let said = '';
		const ended = () => fail(new Error(`the application ended: ${said}`));
		child.once('exit', ended);
		child.stdout!.on('data', (d) => {
			said += d;
			if (!said.includes('Ctrl-C stops it')) return;
			child.off('exit', ended);
			done();
		});
	});
	return child;
}
/** Ends it, and waits until it is gone. */
export const endApplication = (child: ChildProcess, signal: NodeJS.Signals): Promise<void> =>
	new Promise((done) => {
		if (child.exitCode !== null || child.signalCode) return done();
		child.once('exit', () => done());
		child.kill(signal);
	});

/**
 * A database of its own with the demo firm, or with nothing but an administrator. The start command makes it once for all
 * files on the same cluster; each works on a copy.
 * @param base of the cluster
 * @param port where the application may listen meanwhile
 */
export const firmOf = (base: string, demo: boolean, port: number): Promise<string> =>
	copyOf(base, demo ? 'demo' : 'empty', async (url) => {
		const env = { DATABASE_URL: url, EARMARK_PORT: String(port), EARMARK_DEMO: demo ? '1' : '0' };
		await endApplication(await startApplication(env), 'SIGTERM');
	});
