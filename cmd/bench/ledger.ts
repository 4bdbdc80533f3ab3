import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import type { Sql } from '../../src/lib/server/database/connect.ts';
import { headNow, inclusionOf, sealAll } from '../../src/lib/server/ledger/seal.ts';
import { ms, repeat, time } from './measure.ts';

const EVENTS = 100_000;
const CHUNK = 5_000;
/** A number as people read it. */
export const count = (n: number) => Math.round(n).toLocaleString('en');

/** 100,000 events of two movements each, written in bulk past book(), through every trigger. */
async function manyEvents(owner: Sql): Promise<void> {
	for (let n = 0; n < EVENTS; n += CHUNK)
		await owner.unsafe(`
			CREATE TEMP TABLE IF NOT EXISTS bulk (id bigint, n integer); TRUNCATE bulk;
			INSERT INTO bulk SELECT nextval('event_id'), n FROM generate_series(1, ${CHUNK}) n;
			INSERT INTO movement (event_id, at, mark_id, qty, from_place, to_place)
				SELECT b.id, now(), k.id, 0.001, f.id, t.id FROM bulk b CROSS JOIN generate_series(0, 1) i
				JOIN (SELECT id, row_number() OVER (ORDER BY id) - 1 AS n FROM mark WHERE item_id = (SELECT id FROM item WHERE code = 'MOVED')) k ON k.n = (2 * b.n + i) % 200
				JOIN place f ON f.code = 'QS/M1' JOIN place t ON t.code = 'QS/M2' ORDER BY b.id;
			INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source) SELECT id, 'bulk-' || id, 'move', now(), now(), 'bench', 'import' FROM bulk`);
}

/** Runs `./earmark verify` in a process of its own. @returns how long it took and the most memory that it held, in MB */
export async function verifyRun(url: string): Promise<{ took: number; memory: number; said: string }> {
	const child = spawn(process.execPath, ['--import', 'tsx', 'cmd/verify.ts'], {
		env: { ...process.env, DATABASE_URL: url },
		stdio: ['ignore', 'pipe', 'inherit']
	});
	let [said, memory] = ['', 0];
	child.stdout.on('data', (d) => (said += d));
	const look = setInterval(() => {
		try {
			const most = /VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'));
			if (most) memory = Number(most[1]) / 1000;
		} catch {
			// It has just ended.
		}
	}, 100);
	const took = await time(() => new Promise((done) => child.once('exit', done)));
	clearInterval(look);
	return { took, memory, said };
}

/** How fast events are sealed, proved and checked. */
export async function measureLedger(url: string, sql: Sql, owner: Sql): Promise<void> {
	await sealAll(sql);
	await manyEvents(owner);
	const sealed = await time(() => sealAll(sql));
	console.log(`sealing, by one sealer: ${count((EVENTS / sealed) * 1000)} events a second`);
	const [{ id }] = await sql<{ id: string }[]>`SELECT id FROM event ORDER BY id OFFSET 1000 LIMIT 1`;
	const { size } = await headNow(sql);
	console.log(`a proof of one event in a ledger of ${count(size)}: ${ms(await repeat(9, () => inclusionOf(sql, id)))}`);
	// The copies that bare rows went into are no part of Earmark, and would be named.
	for (const t of ['event', 'movement', 'balance', 'mark'])
		await owner.unsafe(`DROP TABLE IF EXISTS held_${t}, bare_${t} CASCADE`);
	await owner.unsafe('VACUUM ANALYZE');
	const { took, memory, said } = await verifyRun(url);
	const [n] = await sql<{ events: number; movements: number }[]>`
		SELECT (SELECT count(*)::int FROM event) AS events, (SELECT count(*)::int FROM movement) AS movements`;
	console.log(
		`verify, ${count(n.events)} events and ${count(n.movements)} movements: ${(took / 1000).toFixed(1)} s, ${count((n.events / took) * 1000)} events a second, ${Math.round(memory)} MB (wanted: under 300 MB); it said: ${said.trim().split('\n').at(-1)}`
	);
}
