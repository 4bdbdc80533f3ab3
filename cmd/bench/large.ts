import { cpus } from 'node:os';
import type { Sql } from '../../src/lib/server/database/connect.ts';
import { sealAll } from '../../src/lib/server/ledger/seal.ts';
import { startAsker, type Asker } from './large/asker.ts';
import { makeLargeFirm } from './large/firm.ts';
import { measurePapers } from './large/papers.ts';
import { measureSheets } from './large/sheets.ts';
import { measureTogether } from './large/together.ts';
import { measureForProgram, measureTraces } from './large/traces.ts';
import { measureViews } from './large/views.ts';
import { count, verifyRun } from './ledger.ts';
import { taken, time, undisturbed } from './measure.ts';

/** How many marks the large firm has. */
const MARKS = 1_000_000;

/** Makes the large firm, and measures what grows with it. */
export async function measureLarge(url: string, sql: Sql, owner: Sql): Promise<void> {
	const made = await time(() => makeLargeFirm(owner, MARKS));
	const [n] = await sql<{ marks: number; movements: number; events: number; runs: number; orders: number }[]>`
		SELECT (SELECT count(*)::int FROM mark) AS marks, (SELECT count(*)::int FROM movement) AS movements, (SELECT count(*)::int FROM event) AS events,
			(SELECT count(*)::int FROM run) AS runs, (SELECT count(*)::int FROM orders) AS orders`;
	console.log(
		`${count(n.marks)} marks, ${count(n.movements)} movements, ${count(n.events)} events, ${count(n.runs)} runs, ${count(n.orders)} orders, written in bulk in ${Math.round(made / 1000)} s; ${cpus().length} cores`
	);
	const sealed = await time(() => sealAll(sql));
	console.log(
		`sealing all of it: ${Math.round(sealed / 1000)} s, ${count((n.movements / sealed) * 1000)} movements a second`
	);
	await owner.unsafe('VACUUM ANALYZE');
	const { took, memory, said } = await undisturbed(() => verifyRun(url));
	console.log(
		`verify: ${(took / 1000).toFixed(1)} s (wanted: at most 81), ${count((n.events / took) * 1000)} events a second, ${Math.round(memory)} MB; it said: ${said.trim().split('\n').at(-1)}`
	);
	const started = async (work: (app: Asker) => Promise<void>) => {
		const app = await startAsker(url, sql);
		try {
			await work(app);
		} finally {
			await app.stop();
		}
	};
	await started(async (app) => {
		await measureViews(sql, app);
		await measureTraces(sql, app);
		await measureSheets(sql, app);
		await measurePapers(sql, app);
	});
	// As it is after a start: what it holds besides is no part of these.
	await started(measureForProgram);
	await started((app) => measureTogether(sql, app));
	console.log(taken());
}
