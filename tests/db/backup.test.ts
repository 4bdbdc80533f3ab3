import { spawnSync } from 'node:child_process';
import {
	appendFileSync,
	copyFileSync,
	existsSync,
	mkdirSync,
	mkdtempSync,
	readdirSync,
	readFileSync,
	rmSync,
	statfsSync,
	truncateSync,
	writeFileSync
} from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { backup, readAbout, restore } from '../../src/lib/server/backup/backup.ts';
import { connect } from '../../src/lib/server/database/connect.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { headNow } from '../../src/lib/server/ledger/seal.ts';
import { findingsOf, bookTest, ines, makeItems, testDatabase } from './cluster.ts';

const db = testDatabase();
const folder = mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`));
const file = join(folder, 'whole.backup');
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const place = (name: string) => {
	const url = new URL(db.url);
	url.pathname += `_${name}`;
	return url.href;
};
let going = true;

beforeAll(async () => {
	await makeItems(db.sql);
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			{ item: 'RAW1', lot: 'B-1', qty: '1000000', from: '@supplier', to: 'QS/A1' },
			{ item: 'RAW1', lot: 'B-1', qty: '1', from: '@supplier', to: 'QS/A2' }
		]
	});
	await db.owner`INSERT INTO stored_file (sha256, type, content, added_by) SELECT encode(sha256('certificate'), 'hex'), 'application/pdf', 'certificate', 'ines'`;
});

describe('a backup', () => {
	it('is taken while people book, restores into an empty place, and is the same to the last byte that is proved', async () => {
		const working = (async () => {
			for (let i = 0; going; i++)
				await book(db.sql, ines, {
					...{ key: `while-${i}`, kind: 'move', at: '2026-03-02T08:00:00Z' },
					movements: [{ item: 'RAW1', lot: 'B-1', qty: '1', from: 'QS/A1', to: 'QS/A2' }]
				});
		})();
		const made = await backup(db.url, file).finally(() => (going = false));
		await working;
		expect(existsSync(`${file}.part`)).toBe(false);
		const { about, verified } = await restore(place('back'), file);
		expect(about).toEqual(made);
		expect(verified.findings).toEqual([]);
		expect((await headNow(db.sql)).size).toBeGreaterThanOrEqual(made.size);
		const back = connect(place('back'), 'app', 2);
		try {
			expect((await back`SELECT content FROM stored_file`)[0].content.toString()).toBe('certificate');
			// Work goes on in it: numbers go on after those that are there.
			await book(back, ines, {
				...{ key: 'after', kind: 'move', at: '2026-03-03T08:00:00Z' },
				movements: [{ item: 'RAW1', lot: 'B-1', qty: '1', from: 'QS/A1', to: 'QS/A2' }]
			});
			expect(await findingsOf(back)).toEqual([]);
		} finally {
			await back.end();
		}
	});
	it('overwrites no file, and no database', async () => {
		await expect(backup(db.url, file)).rejects.toThrow('is there already. Name another file, or remove it.');
		await expect(restore(place('back'), file)).rejects.toThrow(
			'There is a database here already, and nothing of it is overwritten.'
		);
	});
	it('that was cut short, or is none, is refused before anything is made', async () => {
		const cut = join(folder, 'cut');
		copyFileSync(file, cut);
		truncateSync(cut, readFileSync(file).length - 1);
		const none = join(folder, 'none');
		writeFileSync(none, 'something else');
		for (const f of [cut, none])
			await expect(restore(place('never'), f)).rejects.toThrow(
				'is no whole backup: its end is missing. Take another one.'
			);
		expect(() => readAbout(join(folder, 'nowhere'))).toThrow('There is no file');
		expect(await db.owner`SELECT 1 FROM pg_database WHERE datname LIKE '%_never'`).toEqual([]);
	});
	it('in which a byte changed is refused', async () => {
		const bent = join(folder, 'bent');
		const bytes = readFileSync(file);
		bytes[Math.floor(bytes.length / 2)] ^= 1;
		writeFileSync(bent, bytes);
		await expect(restore(place('never'), bent)).rejects.toThrow(
			'is not as it was written: its content has another hash.'
		);
	});
	it('whose last block says nothing that can be read is refused in the same words', async () => {
		const damaged = join(folder, 'damaged');
		const bytes = readFileSync(file);
		bytes.fill(0x7b, bytes.length - 900, bytes.length - 880);
		writeFileSync(damaged, bytes);
		await expect(restore(place('never'), damaged)).rejects.toThrow('is no whole backup: its end is missing.');
	});
	it('what a restore that was stopped left is in nobody’s way, and what is refused leaves nothing', async () => {
		const beside = connect(db.url, 'owner', 1);
		await beside.unsafe(`CREATE DATABASE "${new URL(place('later_restoring')).pathname.slice(1)}"`);
		const { verified } = await restore(place('later'), file);
		expect(verified.findings).toEqual([]);
		expect(await beside`SELECT 1 FROM pg_database WHERE datname LIKE '%restoring'`).toEqual([]);
		await beside.end();
	});
	it('of a newer version is refused', async () => {
		const newer = join(folder, 'newer');
		copyFileSync(file, newer);
		const { length } = readFileSync(file);
		truncateSync(newer, length - 1024);
		const block = Buffer.alloc(1024, ' ');
		block.write('EARMARK BACKUP 1\n' + JSON.stringify({ ...readAbout(file), migration: '9999_later.sql' }));
		appendFileSync(newer, block);
		await expect(restore(place('never'), newer)).rejects.toThrow(
			'This backup is of a newer Earmark (it holds 9999_later.sql).'
		);
	});
	it('that cannot be written says so, and leaves nothing', async () => {
		await expect(backup(db.url, join(folder, 'no', 'such', 'folder'))).rejects.toThrow('cannot be written here.');
	});
});

/** A disk of its own, which is soon full; where this machine lets nobody make one, nothing can be tried. */
const disk = join(folder, 'disk');
mkdirSync(disk);
const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=4m', 'tmpfs', disk]).status === 0;
describe.runIf(mounted)('a full disk', () => {
	const run = (command: string, ...args: string[]) => expect(spawnSync(command, args).status, command).toBe(0);
	afterAll(() => run('umount', '-l', disk));
	it('stops a backup with one sentence, and leaves nothing of it', async () => {
		writeFileSync(join(disk, 'filler'), Buffer.alloc(4_190_000));
		await expect(backup(db.url, join(disk, 'x'))).rejects.toThrow(
			`The disk that holds ${join(disk, 'x')} is full. Nothing was kept`
		);
		expect(readdirSync(disk)).toEqual(['filler']);
		rmSync(join(disk, 'filler'));
	});
	it('stops a booking with one sentence, and books nothing of it', async () => {
		const tables = join(disk, 'tables');
		mkdirSync(tables);
		run('chmod', '711', folder);
		run('chown', 'postgres', tables);
		const name = `tiny_${process.pid}`;
		await db.owner.unsafe(`CREATE TABLESPACE ${name} LOCATION '${tables}'`);
		await db.owner.unsafe(`ALTER TABLE movement SET TABLESPACE ${name}`);
		const { bavail, bsize } = statfsSync(disk);
		writeFileSync(join(disk, 'filler'), Buffer.alloc(bavail * bsize - 8192));
		const before = await db.sql`SELECT count(*) AS n FROM event`;
		const many = Array.from({ length: 2000 }, (_, i) => ({
			item: 'CELL',
			lot: 'FULL',
			serial: `FULL-${i}`,
			qty: '1',
			from: '@supplier',
			to: 'QS/A1'
		}));
		await expect(
			book(db.sql, ines, { key: 'full', kind: 'receipt', at: '2026-03-04T08:00:00Z', partner: 'S1', movements: many })
		).rejects.toThrow('The database’s disk is full. Nothing was booked; make room and try again.');
		expect(await db.sql`SELECT count(*) AS n FROM event`).toEqual(before);
		rmSync(join(disk, 'filler'));
		await db.owner`ALTER TABLE movement SET TABLESPACE pg_default`;
		await db.owner.unsafe(`DROP TABLESPACE ${name}`);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
