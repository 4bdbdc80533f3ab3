import { spawnSync } from 'node:child_process';

/**
 * The tests of crashes and of scarce stock in full, where the suite runs them shortened: thirty rounds of kill -9 under load
 * and the other troubles of a database, after which all answers again within 15 s; and twenty thousand bookings of fifty callers.
 * @returns whether all of it held
 */
export function runHard(): boolean {
	// One after the other: how soon all answers again is no matter of what else is tried meanwhile.
	const run = (project: string, files: string[], env: Record<string, string>) =>
		spawnSync('npx', ['--no-install', 'vitest', 'run', '--no-file-parallelism', '--project', project, ...files], {
			stdio: 'inherit',
			env: { ...process.env, ...env }
		}).status === 0;
	const crashes = run('browser', ['tests/e2e/crash.test.ts', 'tests/e2e/trouble.test.ts'], {
		EARMARK_CRASHES: '30',
		EARMARK_UP_AGAIN: '15000'
	});
	const storm = run('server', ['tests/db/sidebyside.test.ts'], { EARMARK_STORM: '20000' });
	return crashes && storm;
}
