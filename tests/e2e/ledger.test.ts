import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir, userInfo } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import Fraction from 'fraction.js';
import { describe, expect, it } from 'vitest';
import { sha, verifyConsistency, verifyInclusion } from '../proofs.ts';
import { findingsOf } from '../db/cluster.ts';
import { startApp } from './app.ts';

const app = startApp();
let token = '';
const get = async (path: string) => {
	token ||= await app.token('auditor');
	const r = await fetch(`${app.base}/api/v1/ledger/${path}`, { headers: { authorization: `Bearer ${token}` } });
	return { status: r.status, body: await r.json() };
};
const bytes = (hex: string) => Buffer.from(hex, 'hex');
const path = (list: string[]) => list.map(bytes);
let writer = '';
const book = async (key: string, lot: string, qty: string) => {
	writer ||= await app.token('coordinator');
	const r = await fetch(`${app.base}/api/v1/events`, {
		method: 'POST',
		headers: { authorization: `Bearer ${writer}`, 'content-type': 'application/json' },
		body: JSON.stringify({
			...{ key, kind: 'receipt', at: '2026-11-20T08:00:00Z', partner: 'QUILLMERE' },
			movements: [{ item: 'BOTTLE-30', lot, qty, from: '@supplier', to: 'QS/DOCK' }]
		})
	});
	return { status: r.status, body: await r.json() };
};

describe('an outsider with the role auditor and nothing of ours', () => {
	it('holds a paper’s head against the ledger, and finds each event in it', async () => {
		const paper = (await get('head')).body;
		expect(paper).toEqual({
			size: expect.any(Number),
			root: expect.stringMatching(/^[0-9a-f]{64}$/),
			at: expect.any(String)
		});
		expect(paper.size).toBeGreaterThan(100);

		const booked = await book('outsider-1', 'OUT-1', '3');
		expect(booked.status).toBe(201);
		const head = (await get('head')).body;
		expect(head.size).toBeGreaterThan(paper.size);
		const grown = (await get(`consistency?from=${paper.size}&to=${head.size}`)).body;
		expect(grown).toMatchObject({ from: paper.size, to: head.size });
		expect(verifyConsistency(grown.from, grown.to, path(grown.path), bytes(paper.root), bytes(head.root))).toBe(true);

		const proof = (await get(`inclusion?event=${booked.body.id}&size=${head.size}`)).body;
		const { entries } = (await get(`entries?from=${proof.index}&count=1`)).body;
		const leaf = sha(Buffer.concat([Buffer.from([0]), Buffer.from(entries[0].entry)]));
		expect(leaf.toString('hex')).toBe(proof.leaf);
		expect(verifyInclusion(leaf, proof.index, proof.size, path(proof.path), bytes(head.root))).toBe(true);
		expect(JSON.parse(entries[0].entry)).toMatchObject({
			kind: 'receipt',
			partner: 'QUILLMERE',
			movements: [{ item: 'BOTTLE-30', lot: 'OUT-1', qty: '3', from: '@supplier', to: 'QS/DOCK' }]
		});
	});
	it('checks an event with the script that the documentation gives, which has nothing of ours', async () => {
		const text = readFileSync('docs/ledger.md', 'utf8');
		const script = join(mkdtempSync(join(tmpdir(), `earmark-${userInfo().username}-`)), 'check.mjs');
		writeFileSync(script, /```js\n([\s\S]*?)```/.exec(text)![1]);
		const { size, root } = (await get('head')).body;
		const ids = await app.sql<{ id: string }[]>`SELECT id FROM event ORDER BY id`;
		const run = (id: string, head: string) =>
			promisify(execFile)(process.execPath, [script, app.base, token, id, String(size), head]).then((r) => r.stdout);
		for (const { id } of [ids[0], ids[Math.floor(ids.length / 2)], ids.at(-1)!]) {
			const said = await run(id, root.slice(0, 16));
			expect(said).toContain(`The ledger of ${size} entries holds:`);
			expect(JSON.parse(said.split('\n')[1]).event).toBe(id);
			expect(await run(id, 'f'.repeat(16))).toContain('NOT in that ledger.');
		}
	});
	it('makes the whole root from the entries alone', async () => {
		const head = (await get('head')).body;
		const leaves: Buffer[] = [];
		while (leaves.length < head.size) {
			const { entries } = (await get(`entries?from=${leaves.length}&count=500`)).body;
			for (const e of entries) leaves.push(sha(Buffer.concat([Buffer.from([0]), Buffer.from(e.entry)])));
		}
		const root = (list: Buffer[]): Buffer => {
			if (list.length === 1) return list[0];
			const half = 2 ** Math.ceil(Math.log2(list.length) - 1);
			return sha(Buffer.concat([Buffer.from([1]), root(list.slice(0, half)), root(list.slice(half))]));
		};
		expect(root(leaves.slice(0, head.size)).toString('hex')).toBe(head.root);
	});
	it.each([
		['inclusion?event=999999999', 404, 'There is no event 999999999. Check the number.'],
		['inclusion?event=x', 422, 'This is no id.'],
		['inclusion?event=1&size=1', 422, 'a ledger of 1 entries does not hold it. Give a larger size.'],
		['inclusion?event=1&size=999999999', 422, 'entries, not 999,999,999. Give at most that many.'],
		['consistency?from=999999999', 422, 'does not begin with 999,999,999. Give the smaller size first.'],
		['consistency?from=5&to=2', 422, 'A ledger of 2 entries does not begin with 5. Give the smaller size first.'],
		['consistency?from=-1', 422, 'Give from as a whole number from 1'],
		['entries?from=many', 422, 'Give from as a whole number from 0'],
		['entries?from=1.5', 422, 'Give from as a whole number from 0'],
		['entries?count=5000', 422, 'Give count as a whole number from 1 to 1000.'],
		['entries?wait=31', 422, 'Give wait as a whole number from 0 to 30.']
	])('%s is answered %i in words', async (asked, status, says) => {
		const { status: got, body } = await get(asked);
		expect([got, body.detail]).toEqual([status, expect.stringContaining(says)]);
	});
	it('asks nothing without a token', async () => {
		for (const call of ['head', 'entries', 'inclusion?event=1', 'consistency?from=1'])
			expect((await fetch(`${app.base}/api/v1/ledger/${call}`)).status).toBe(401);
	});
});

describe('a program that follows the ledger', () => {
	/** A second stock table, kept right by the entries alone. */
	const stock = new Map<string, Fraction>();
	let next = 0;
	const take = (entries: { index: number; entry: string }[]) => {
		for (const { index, entry } of entries) {
			expect(index).toBe(next++);
			for (const m of JSON.parse(entry).movements ?? [])
				for (const [place, sign] of [
					[m.to, 1],
					[m.from, -1]
				]) {
					const key = `${m.mark} ${place}`;
					stock.set(key, (stock.get(key) ?? new Fraction(0)).add(new Fraction(m.qty).mul(sign)));
				}
		}
	};
	const catchUp = async () => {
		for (;;) {
			const { entries } = (await get(`entries?from=${next}&count=200`)).body;
			if (!entries.length) return;
			take(entries);
		}
	};
	const same = async () => {
		const rows = await app.sql<{ key: string; qty: string }[]>`
			SELECT b.mark_id || ' ' || p.code AS key, trim_scale(b.qty)::text AS qty FROM balance b JOIN place p ON p.id = b.place_id WHERE b.qty <> 0`;
		const mine = [...stock].filter(([, q]) => q.compare(0) !== 0).map(([k, q]) => [k, q.toString(12)]);
		expect(Object.fromEntries(mine)).toEqual(Object.fromEntries(rows.map((r) => [r.key, r.qty])));
	};
	it('has the same stock, is told of the next event while it waits, and after an end with nothing', async () => {
		await catchUp();
		await same();
		const asked = performance.now();
		const waiting = get(`entries?from=${next}&wait=20`);
		await book('follow-1', 'FOLLOW-1', '4');
		take((await waiting).body.entries);
		expect(performance.now() - asked).toBeLessThan(20_000);
		await catchUp();
		await same();
		expect((await get(`entries?from=${next}&wait=1`)).body).toEqual({ entries: [] });
	});
	it('goes on after the application was killed under it, and misses nothing', async () => {
		const bookings = Array.from({ length: 12 }, (_, i) => book(`killed-${i}`, `KILLED-${i}`, '1').catch(() => null));
		await Promise.all(bookings.slice(0, 3));
		await app.restart();
		await Promise.all(bookings);
		for (let i = 0; i < 12; i++)
			expect([200, 201]).toContain(
				(await book(`killed-${i}`, `KILLED-${i}`, '1').catch(() => ({ status: 422 }))).status
			);
		await catchUp();
		await same();
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});
