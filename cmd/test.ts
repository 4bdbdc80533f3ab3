import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { startCluster } from '../src/lib/server/database/cluster.ts';
import { main } from './settings.ts';

/** Lint, types, then every test on a throw-away cluster; the last line counts. */
await main(async () => {
	const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
	const cluster = await startCluster(folder, true);
	let [passed, failed, skipped] = [0, 0, 0];
	try {
		const run = (what: string, cmd: string, ...args: string[]) => {
			console.log(`\n— ${what}`);
			return spawnSync('npx', ['--no-install', cmd, ...args], {
				stdio: 'inherit',
				env: { ...process.env, EARMARK_TEST_CLUSTER: cluster.url, DATABASE_URL: '', EARMARK_DATA: '', EARMARK_DEMO: '' }
			}).status;
		};
		const check = (what: string, cmd: string, ...args: string[]) => {
			if (run(what, cmd, ...args) === 0) passed++;
			else failed++;
		};
		check('formatting', 'prettier', '--check', '--log-level', 'warn', '.');
		check('lint and layers', 'eslint', '.');
		run('prepare types', 'svelte-kit', 'sync');
		check('types', 'svelte-check', '--tsconfig', './tsconfig.json', '--fail-on-warnings');
		const report = join(folder, 'report.json');
		const status = run(
			'tests',
			'vitest',
			'run',
			'--reporter=default',
			'--reporter=json',
			`--outputFile.json=${report}`,
			...process.argv.slice(2)
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
