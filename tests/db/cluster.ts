import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll } from 'vitest';
import { startCluster, type Cluster } from '../../src/lib/server/database/cluster.ts';
import { connect, type Sql } from '../../src/lib/server/database/connect.ts';
import { migrate } from '../../src/lib/server/database/migrate.ts';
import { createItem, type ItemInput } from '../../src/lib/server/setup/items.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { sealAll } from '../../src/lib/server/ledger/seal.ts';
import { verify } from '../../src/lib/server/ledger/verify.ts';
import { copyOf } from './template.ts';
import type { Actor, EventInput } from '../../src/lib/core/ledger/input.ts';

export interface TestDb {
	/** as the application */
	sql: Sql;
	/** as the owner */
	owner: Sql;
	url: string;
}

/**
 * A database of its own, empty but migrated. `./earmark test` starts one cluster for all test files and names it in
 * EARMARK_TEST_CLUSTER; a single file run by hand starts its own.
 */
export function testDatabase(): TestDb {
	const db = {} as TestDb;
	let own: { cluster: Cluster; folder: string } | null = null;
	beforeAll(async () => {
		let base = process.env.EARMARK_TEST_CLUSTER;
		if (!base) {
			const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
			own = { cluster: await startCluster(folder, true), folder };
			base = own.cluster.url;
		}
		db.url = await copyOf(base, 'migrated', migrate);
		db.sql = connect(db.url, 'app', 8);
		db.owner = connect(db.url, 'owner', 2);
	});
	afterAll(async () => {
		await db.sql?.end();
		await db.owner?.end();
		own?.cluster.stop();
		if (own) rmSync(own.folder, { recursive: true, force: true });
	});
	return db;
}

export const ines: Actor = { name: 'ines', role: 'coordinator', source: 'screen' };

const plain: Pick<ItemInput, 'unit' | 'decimals'> = { unit: 'kg', decimals: 3 };
/** The items that the golden ledgers speak of. */
export const goldenItems: ItemInput[] = [
	...['RAW1', 'RAW2', 'RAW3', 'GEL', 'BULK1', 'BULK2', 'PACK'].map((code) => ({
		...plain,
		code,
		name: code,
		tracking: 'lot' as const
	})),
	{ code: 'CELL', name: 'CELL', unit: 'each', tracking: 'lot and serial' },
	{ code: 'METER', name: 'METER', unit: 'each', tracking: 'serial', runMode: 'unit' },
	{ code: 'KIT', name: 'KIT', unit: 'each', tracking: 'serial', runMode: 'unit' },
	{ code: 'CAP', name: 'Cap', unit: 'each', tracking: 'none' }
];
export async function makeItems(sql: Sql, items = goldenItems) {
	for (const item of items) await createItem(sql, 'ines', item);
}

let counter = 0;
/** Books an event with a key of its own, creating places and partners as needed. */
export const bookTest = (sql: Sql, event: Partial<EventInput> & Pick<EventInput, 'kind'>) =>
	book(
		sql,
		ines,
		{ key: `t${++counter}`, at: '2026-03-01T08:00:00Z', ...event },
		{ create: { places: true, partners: true } }
	);

/** What a check of the whole ledger finds, with everything sealed that is booked. */
export async function findingsOf(sql: Sql) {
	await sealAll(sql);
	return (await verify(sql)).findings;
}
