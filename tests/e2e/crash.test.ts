import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { brokenInvariants } from '../db/checker.ts';
import { findingsOf } from '../db/cluster.ts';
import { embedded, small, UP_AGAIN } from './embedded.ts';

/** How often everything is killed: a few times here; EARMARK_CRASHES=30 for the full count. */
const ROUNDS = Number(process.env.EARMARK_CRASHES ?? 4);
const CLIENTS = 16;

const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const app = embedded(folder);

/** The database alone: the application lives, and starts it again by itself. */
async function killAlone(): Promise<void> {
	process.kill(app.database(), 'SIGKILL');
	await app.letGo();
}
async function kill(what: 'application' | 'database' | 'both'): Promise<void> {
	if (what !== 'application') process.kill(app.database(), 'SIGKILL');
	// An application without its database answers that it is lost; whoever runs it starts it anew.
	await app.end();
}

it(
	'nothing that was answered is lost, nothing is half booked, no key is booked twice, and sealing goes on',
	async () => {
		const bodies = new Map<string, object>();
		const took: number[] = [];
		for (let round = 0; round < ROUNDS; round++) {
			const [answered, open]: string[][] = [[], []];
			let working = true;
			const load = Promise.all(
				Array.from({ length: CLIENTS }, async () => {
					while (working) {
						const body = small();
						bodies.set(body.key, body);
						const { status } = await app.call('events', body);
						if (status === 201) answered.push(body.key);
						else {
							open.push(body.key);
							expect([0, 503]).toContain(status);
						}
					}
				})
			);
			while (answered.length < 150) await new Promise((done) => setTimeout(done, 20));
			const what = (['application', 'database', 'both', 'database alone'] as const)[round % 4];
			if (what === 'database alone') await killAlone();
			else await kill(what);
			const begun = performance.now();
			if (what === 'database alone') await app.answersAgain();
			working = false;
			await load;
			if (what !== 'database alone') await app.start();
			took.push(performance.now() - begun);
			const there = await app.sql<{ key: string; n: number }[]>`
			SELECT e.key, count(m.id)::int AS n FROM event e JOIN movement m ON m.event_id = e.id WHERE e.key LIKE 'small-%' GROUP BY e.id`;
			const whole = new Map(there.map((t) => [t.key, t.n]));
			expect(answered.filter((k) => whole.get(k) !== 2)).toEqual([]);
			expect(there.filter((t) => t.n !== 2)).toEqual([]);
			// What was not answered is asked again under its key: it is booked now, or had been.
			for (const key of open) expect([200, 201]).toContain((await app.call('events', bodies.get(key))).status);
			expect(await brokenInvariants(app.owner)).toEqual([]);
			expect(await findingsOf(app.sql)).toEqual([]);
		}
		console.log(
			`killed ${ROUNDS} times under ${CLIENTS} callers; up again after ${took.map((t) => Math.round(t)).join(', ')} ms`
		);
		expect(Math.max(...took)).toBeLessThan(UP_AGAIN);
	},
	60_000 + ROUNDS * 180_000
);
