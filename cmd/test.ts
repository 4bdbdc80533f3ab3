import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join, resolve } from 'node:path';
import { StartError, startCluster } from '../src/lib/server/database/cluster.ts';
import { main } from './settings.ts';

/** What moves the clock of the database server: its address as Debian's package faketime installs it. */
const FAKETIME = '/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1';

/** How the tests, the application and the database are started so that for all of them it is another moment. */
function clockAt(moment: string): { tests: NodeJS.ProcessEnv; database: NodeJS.ProcessEnv } {
	const shift = Date.parse(moment) - Date.now();
	if (Number.isNaN(shift)) throw new StartError(`“${moment}” is no moment. Write one as 2028-02-29T12:00:00Z.`);
	return {
		tests: { EARMARK_SHIFT: String(shift), NODE_OPTIONS: `--import ${resolve('cmd/day.mjs')}` },
		database: {
			LD_PRELOAD: FAKETIME,
			FAKETIME: `${shift < 0 ? '' : '+'}${Math.round(shift / 1000)}s`,
			DONT_FAKE_MONOTONIC: '1'
		}
	};
}

/** Lint, types, then every test on a throw-away cluster; the last line counts. `--day MOMENT` does it as of another day. */
await main(async () => {
	const args = process.argv.slice(2);
	const day = args.indexOf('--day');
	const clock = day < 0 ? null : clockAt(args.splice(day, 2)[1] ?? '');
	const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
	const cluster = await startCluster(folder, true, clock?.database);
	let [passed, failed, skipped] = [0, 0, 0];
	try {
		const step = (what: string, cmd: string, ...args: string[]) => {
			console.log(`\n— ${what}`);
			return spawnSync('npx', ['--no-install', cmd, ...args], {
				stdio: 'inherit',
				env: {
					...process.env,
					...clock?.tests,
					...{ EARMARK_TEST_CLUSTER: cluster.url, DATABASE_URL: '', EARMARK_DATA: '', EARMARK_DEMO: '' }
				}
			}).status;
		};
		const check = (what: string, cmd: string, ...args: string[]) => {
			if (step(what, cmd, ...args) === 0) passed++;
			else failed++;
		};
		check('formatting', 'prettier', '--check', '--log-level', 'warn', '.');
		check('lint and layers', 'eslint', '.');
		step('prepare types', 'svelte-kit', 'sync');
		check('types', 'svelte-check', '--tsconfig', './tsconfig.json', '--fail-on-warnings');
		const report = join(folder, 'report.json');
		const status = step(
			'tests',
			'vitest',
			'run',
			'--reporter=default',
			'--reporter=json',
			`--outputFile.json=${report}`,
			...args
		);
		const counts = JSON.parse(readFileSync(report, 'utf8'));
		passed += counts.numPassedTests;
		failed += counts.numFailedTests;
		skipped += counts.numPendingTests + counts.numTodoTests;
		// A file that could not even be loaded, or an error outside every test, counts too.
		if (status !== 0 && !counts.numFailedTests) failed++;
	} finally {
		cluster.stop();
		rmSync(folder, { recursive: true, force: true });
	}
	console.log(`tests: ${passed} passed, ${failed} failed${skipped ? `, ${skipped} skipped` : ''}`);
	process.exitCode = failed ? 1 : 0;
});
