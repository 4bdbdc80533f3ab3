import { spawnSync } from 'node:child_process';
import {
	appendFileSync,
	cpSync,
	mkdirSync,
	mkdtempSync,
	readFileSync,
	readdirSync,
	rmSync,
	writeFileSync
} from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { afterAll, describe, expect, it, vi } from 'vitest';
import { serverProgram } from '../../src/lib/server/database/cluster.ts';
import { connect, type Sql } from '../../src/lib/server/database/connect.ts';
import {
	createDatabase,
	migrate,
	sameVersion,
	versionOf,
	versionOfCode
} from '../../src/lib/server/database/migrate.ts';
import { watchVersion } from '../../src/lib/server/database/version.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { guardsAsDelivered, guardsOf } from '../../src/lib/server/ledger/guards.ts';
import { entriesFrom, headAt, sealAll } from '../../src/lib/server/ledger/seal.ts';
import { verify } from '../../src/lib/server/ledger/verify.ts';
import { backDifferences, differences, readGolden } from '../golden/golden.ts';
import { backAnswer, forwardAnswer } from '../traced.ts';
import { findingsOf, ines, testDatabase } from './cluster.ts';

const db = testDatabase();
const folders: string[] = [];
afterAll(() => folders.forEach((f) => rmSync(f, { recursive: true, force: true })));

/** A copy of the database's code, to be changed. */
function codeCopy(): string {
	const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
	folders.push(folder);
	cpSync('db', folder, { recursive: true });
	mkdirSync(join(folder, 'migrations'), { recursive: true });
	return folder;
}
const beside = (name: string) => {
	const url = new URL(db.url);
	url.pathname += `_${name}`;
	return url.href;
};
async function asOwner<T>(url: string, work: (owner: Sql) => Promise<T>): Promise<T> {
	const owner = connect(url, 'owner', 2);
	try {
		return await work(owner);
	} finally {
		await owner.end();
	}
}

/*
 * Golden ledger 1 as the version before the baseline booked it, with a correction, a note, a hold, an order and its draft.
 */
describe('a database of the last former migration', () => {
	const url = () => beside('former');
	it('is adopted: the same head and the same traces, verify finds nothing, and its guards are those of a new one', async () => {
		await createDatabase(url());
		const { hostname, port, username, password, pathname } = new URL(url());
		const loaded = spawnSync(
			serverProgram('psql'),
			['-q', '-v', 'ON_ERROR_STOP=1', '-h', hostname, '-p', port, '-U', username, '-d', pathname.slice(1)],
			{
				input: gunzipSync(readFileSync('tests/db/adopted/at-0047.sql.gz')),
				env: { ...process.env, PGPASSWORD: decodeURIComponent(password) },
				encoding: 'utf8'
			}
		);
		expect(loaded.stderr).toBe('');
		await migrate(url());
		await asOwner(url(), async (owner) => {
			const { size, root } = await headAt(owner, await sealAll(owner));
			expect([size, root]).toEqual([671, '9dc38c81ee33ea18450409600304b7147a32fafcdab5ed5413ec0a97a3f199e1']);
			const guards = await guardsAsDelivered(url());
			expect((await verify(owner, { guards })).findings).toEqual([]);
		});
		const sql = connect(url(), 'app', 4);
		try {
			const golden = readGolden(1);
			for (const want of golden.forward)
				expect(differences((await forwardAnswer(sql, want.root, {})) as never, want)).toEqual([]);
			for (const want of golden.back)
				expect(backDifferences((await backAnswer(sql, want.root, {})) as never, want)).toEqual([]);
			expect(await sql`SELECT data ->> 'lot' AS lot FROM draft_row`).toEqual([{ lot: 'R-77' }]);
			// Work goes on.
			await book(sql, ines, {
				...{ key: 'new', kind: 'adjust', at: '2026-12-01T08:00:00Z', reason: 'Found' },
				movements: [{ item: 'RAW1', lot: 'NEW-1', qty: '1', from: '@adjust', to: 'QS/A1' }]
			});
			expect(await findingsOf(sql)).toEqual([]);
		} finally {
			await sql.end();
		}
	});
	it('that is older still is refused by name', async () => {
		const older = beside('older');
		await createDatabase(older);
		await asOwner(older, async (owner) => {
			await owner.unsafe(`CREATE TABLE migration (name text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now(), hash text);
				INSERT INTO migration VALUES ('0001_ledger.sql'), ('0046_catalogue_version.sql')`);
			await expect(migrate(older)).rejects.toThrow(
				'This database is of an Earmark that is too old (it stands at 0046_catalogue_version.sql). Start a version whose newest migration is 0047_sought.sql on it first, then this one.'
			);
			expect(await owner`SELECT to_regclass('event') AS made`).toEqual([{ made: null }]);
		});
	});
});

describe('a change of the database’s code', () => {
	const url = () => beside('changed');
	it('reaches a database once, however many start together; a newer one is refused by an older version', async () => {
		await Promise.all([migrate(url()), migrate(url()), migrate(url())]);
		const folder = codeCopy();
		const original = codeCopy();
		writeFileSync(join(folder, 'migrations/0049_first.sql'), 'CREATE TABLE first (n integer)');
		await Promise.all([migrate(url(), folder), migrate(url(), folder)]);
		await expect(migrate(url(), original)).rejects.toThrow(
			'This database has been used by a newer Earmark (it holds 0049_first.sql).'
		);
		writeFileSync(join(folder, 'migrations/0049_first.sql'), 'CREATE TABLE first (n bigint)');
		writeFileSync(join(folder, 'migrations/0050_second.sql'), 'CREATE TABLE second (n integer)');
		await expect(migrate(url(), folder)).rejects.toThrow('0049_first.sql reads otherwise than when it was applied');
		await asOwner(url(), async (owner) =>
			expect(await owner`SELECT to_regclass('second') AS made`).toEqual([{ made: null }])
		);
	});
	it('of a table that a new database begins with is a migration of its own', async () => {
		const folder = codeCopy();
		const other = beside('edited');
		await migrate(other, folder);
		appendFileSync(join(folder, 'tables/01_setup.sql'), '-- another word\n');
		await expect(migrate(other, folder)).rejects.toThrow('0048_baseline reads otherwise than when it was applied');
	});
	it('of functions and views is made anew, what is gone goes, and an instance that is older stops by name', async () => {
		const other = beside('functions');
		await migrate(other);
		const told: string[] = [];
		const sql = connect(other, 'app', 1);
		const stop = watchVersion(
			() => sql,
			(sentence) => told.push(sentence)
		);
		const folder = codeCopy();
		const file = join(folder, 'functions/02_stock.sql');
		writeFileSync(
			file,
			readFileSync(file, 'utf8').replaceAll('shown_day(', 'shown_date(') +
				"\nCREATE VIEW one AS SELECT 1 AS n;\nCOMMENT ON VIEW one IS 'One.';\n"
		);
		await migrate(other, folder);
		await asOwner(other, async (owner) => {
			const made = await owner`SELECT proname FROM pg_proc WHERE proname IN ('shown_day', 'shown_date')`;
			expect(made).toEqual([{ proname: 'shown_date' }]);
			expect(await owner`SELECT n FROM one`).toEqual([{ n: 1 }]);
			expect(sameVersion(await versionOf(owner), versionOfCode(folder))).toBe(true);
		});
		await vi.waitFor(() => expect(told).toHaveLength(1), 10_000);
		expect(told[0]).toBe(
			'The database has been brought up to another version of Earmark (it stands at 0048_baseline). This one stops; start that version here too.'
		);
		await stop();
		await sql.end();
		// Back again: as delivered.
		await migrate(other);
		await asOwner(other, async (owner) => {
			const [there, wanted] = [await guardsOf(owner), await guardsAsDelivered(other)];
			expect([...there].filter(([name, is]) => wanted!.get(name) !== is)).toEqual([]);
		});
	});
});

describe('a new table', () => {
	it('is sealed by one call: its rows are entries, never change, and a change past the guards is found', async () => {
		const url = beside('sealed');
		const folder = codeCopy();
		await migrate(url);
		writeFileSync(
			join(folder, 'migrations/0049_verdict.sql'),
			`CREATE TABLE verdict (id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, mark_id bigint NOT NULL REFERENCES mark, said text NOT NULL);
			SELECT seal_table('verdict', '{id}', 'SELECT, INSERT', append_only => true)`
		);
		await migrate(url, folder);
		const sql = connect(url, 'app', 2);
		try {
			await sql`INSERT INTO verdict (mark_id, said) SELECT 1, 'usable' WHERE false`;
			await asOwner(url, async (owner) => {
				await owner`INSERT INTO item (code, name, unit, tracking) VALUES ('RAW', 'Raw', 'kg', 'lot')`;
				await book(
					sql,
					ines,
					{
						...{ key: 'in', kind: 'receipt', at: '2026-03-01T08:00:00Z', partner: 'S1' },
						movements: [{ item: 'RAW', lot: 'R-1', qty: '1', from: '@supplier', to: 'QS/A1' }]
					},
					{ create: { places: true, partners: true } }
				);
				await sql`INSERT INTO verdict (mark_id, said) SELECT id, 'usable' FROM mark`;
				const entries = await sealAll(sql).then((n) => entriesFrom(sql, 0, n));
				expect(entries.filter((e) => JSON.parse(e.entry).of === 'verdict')).toHaveLength(1);
				await expect(sql`UPDATE verdict SET said = 'scrap'`).rejects.toMatchObject({ code: '42501' });
				await expect(owner`UPDATE verdict SET said = 'scrap'`).rejects.toMatchObject({ code: 'EM001' });
				await expect(owner`TRUNCATE verdict`).rejects.toMatchObject({ code: 'EM001' });
				expect(await findingsOf(sql)).toEqual([]);
				await owner.unsafe(`ALTER TABLE verdict DISABLE TRIGGER USER; UPDATE verdict SET said = 'scrap'`);
				expect((await findingsOf(sql)).map((f) => f.table)).toContain('verdict');
			});
		} finally {
			await sql.end();
		}
		// Its version gone again, the database is refused.
		await expect(migrate(url)).rejects.toThrow(
			'This database has been used by a newer Earmark (it holds 0049_verdict.sql).'
		);
	});
});

/** Tables of which no entry of the ledger tells, and why. */
const UNCOVERED: Record<string, string> = {
	balance: 'worked out from movements; verify holds it against them',
	card_print: 'how often a card was printed',
	catalogue: 'a counter of changes that are recorded themselves',
	count_list: 'what a count is to look at; what was found is recorded',
	draft_row: 'not booked yet',
	drawn_number: 'one entry a draw, by its ids and a hash',
	floor: 'the last step of a unit; steps are recorded',
	former_chain: 'the head of the former chain, which verify works out anew',
	label_print: 'how often a label was printed',
	ledger_leaf: 'the entries themselves',
	ledger_node: 'worked out from the entries',
	list_choice: 'what somebody sees of a list',
	mail: 'what is sent; heads of the ledger in it are proved by the ledger',
	mailbox: 'the simulated mail server',
	mailbox_message: 'the simulated mail server',
	migration: 'the version of the database',
	notice: 'what a supplier announced; what came is booked',
	notice_row: 'what a supplier announced; what came is booked',
	paper_mark: 'one entry a paper, by a hash',
	print_job: 'what the simulated printer does',
	printer: 'the simulated printer',
	row_version: 'what entries are made of',
	scan: 'what a draft came from; the way of knowing is booked with the movement',
	seal_queue: 'what waits to become an entry',
	sealed_table: 'a guard: verify holds it against what is delivered',
	session: 'who is signed in now',
	sign_in_failure: 'who tried to sign in lately',
	sign_in_known: 'where somebody signed in before',
	station_scan: 'what a draft came from; the way of knowing is booked with the movement',
	tag: 'the simulated radio tags',
	tag_use: 'what the simulated readers did',
	unfinished_event: 'empty whenever nobody books',
	unit_work: 'not booked yet'
};
/** Tables whose rows are in the entry of their event. */
const OF_EVENTS = ['event', 'mark', 'mark_alias', 'mark_change', 'movement', 'order_event', 'run', 'run_closing'];

describe('the database’s code', () => {
	it('covers every table by entries, or a reason stands here', async () => {
		const tables = await db.owner<{ name: string }[]>`
			SELECT c.relname AS name FROM pg_class c WHERE c.relkind = 'r' AND c.relnamespace = 'public'::regnamespace`;
		const sealed = await db.owner<{ name: string }[]>`SELECT name FROM sealed_table`;
		const told = [...Object.keys(UNCOVERED), ...OF_EVENTS, ...sealed.map((t) => t.name)];
		expect(told.toSorted()).toEqual(tables.map((t) => t.name).toSorted());
	});
	it('says what every table and view is for', async () => {
		const without = await db.owner`
			SELECT c.relname FROM pg_class c WHERE c.relkind IN ('r', 'v') AND c.relnamespace = 'public'::regnamespace
				AND obj_description(c.oid, 'pg_class') IS NULL`;
		expect(without).toEqual([]);
	});
	it('has lines that can be read', () => {
		const files = ['db', 'db/tables', 'db/functions'].flatMap((f) =>
			readdirSync(f)
				.filter((name) => name.endsWith('.sql'))
				.map((name) => join(f, name))
		);
		const long = files.flatMap((f) =>
			readFileSync(f, 'utf8')
				.split('\n')
				.flatMap((line, i) => (line.length >= 140 ? [`${f}:${i + 1}`] : []))
		);
		expect(files.length).toBeGreaterThan(15);
		expect(long).toEqual([]);
	});
});
