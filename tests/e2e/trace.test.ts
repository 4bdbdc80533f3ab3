import { sealAll } from '../../src/lib/server/ledger/seal.ts';
import { saveFirm } from '../../src/lib/server/setup/firm.ts';
import { readFile } from 'node:fs/promises';
import { beforeAll, describe, expect, it } from 'vitest';
import { book } from '../../src/lib/server/ledger/book.ts';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { findingsOf, ines } from '../db/cluster.ts';
import { startApp } from './app.ts';
import { accessible } from './sheet.ts';

const app = startApp();
const BATCHES = 60;
const PIECES = 49;
let root: string;

beforeAll(async () => {
	const { sql } = app;
	await createItem(sql, 'ines', { code: 'T-RAW', name: 'Traced powder', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(sql, 'ines', { code: 'T-BULK', name: 'Traced bulk', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(sql, 'ines', { code: 'T-PACK', name: 'Traced pack', unit: 'each', tracking: 'serial' });
	const at = (n: number) => new Date(Date.UTC(2026, 0, 5, 8, n)).toISOString();
	const to = { to: 'QS/A1' };
	await book(sql, ines, {
		...{ key: 't-root', kind: 'receipt', at: at(0), partner: 'QUILLMERE', reason: 'For the test' },
		movements: [{ item: 'T-RAW', lot: 'T-ROOT', qty: String(BATCHES), from: '@supplier', ...to }]
	});
	for (let b = 0; b < BATCHES; b++) {
		const packs = Array.from({ length: PIECES }, (_, i) => `TP-${b}-${String(i + 1).padStart(2, '0')}`);
		const [bulk, pack] = [`T-${b}`, `T-${b}-P`];
		const through = { from: '@process', ...to, role: 'make' as const };
		await book(sql, ines, {
			...{ key: `t-${b}`, kind: 'output', at: at(3 * b + 1), reason: 'For the test', document: bulk },
			runs: [{ code: bulk }, { code: pack }],
			movements: [
				{ item: 'T-RAW', lot: 'T-ROOT', qty: '1', from: 'QS/A1', to: '@process', run: bulk, role: 'use' },
				{ item: 'T-BULK', lot: `TB-${b}`, qty: '1', run: bulk, ...through },
				{ item: 'T-BULK', lot: `TB-${b}`, qty: '1', from: 'QS/A1', to: '@process', run: pack, role: 'use' },
				...packs.map((serial) => ({ item: 'T-PACK', serial, qty: '1', run: pack, ...through }))
			]
		});
		await book(sql, ines, {
			...{
				key: `t-${b}-s`,
				kind: 'shipment',
				at: at(3 * b + 2),
				partner: 'SKEN',
				reason: 'For the test',
				document: `T-S${b}`
			},
			movements: packs
				.slice(0, 24)
				.map((serial) => ({ item: 'T-PACK', serial, qty: '1', from: 'QS/A1', to: '@customer' }))
		});
	}
	root = (await sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'T-ROOT'`)[0].id;
});

describe('a trace of thousands', () => {
	it('shows a page of it: turns pages, opens ranges and folded bars, finds, and keeps all of that in its address', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/trace?mark=${root}&direction=forward`);
		await page.getByText('100 %').waitFor();
		await page.getByText(`${(BATCHES * (PIECES + 1) + 1).toLocaleString('en')} numbers`).waitFor();
		const pages = page.locator('.pages');
		const rows = page.locator('table').last().locator('tbody tr');
		await pages.getByText(`1–100 of ${2 * BATCHES} lines`).waitFor();
		expect(await rows.count()).toBe(100);
		await accessible(page);
		// A range opens to its pieces.
		await rows
			.first()
			.getByRole('button', { name: /^Open TP-/ })
			.press('Enter');
		await pages.getByText(`1–100 of ${2 * BATCHES + 25} lines`).waitFor();
		await page.locator('tr.inner').first().waitFor();
		await pages.getByRole('link', { name: 'Next' }).press('Enter');
		await pages.getByText(`101–${2 * BATCHES + 25} of`).waitFor();
		await expect.poll(() => rows.count()).toBe(2 * BATCHES + 25 - 100);
		await page.goBack();
		await pages.getByText('1–100 of').waitFor();
		// What is typed is found in all of it, whatever the page; a piece finds its range.
		await page.getByRole('textbox', { name: 'Find in it' }).fill('tp-7-30');
		await page.waitForURL(/find=tp-7-30/);
		await expect.poll(() => rows.count()).toBe(1);
		expect(await rows.innerText()).toMatch(/TP-7-25\s*…\s*TP-7-49/);
		// A folded bar shows more of its column; any other leads to its numbers.
		const bars = page.getByRole('figure', { name: /^Stages/ }).getByRole('link');
		const before = await bars.count();
		await page.getByRole('link', { name: 'Show 54 more, 54' }).press('Enter');
		await page.getByRole('link', { name: 'Show 34 more, 34' }).waitFor();
		expect(await bars.count()).toBe(before + 20);
		await page.getByRole('link', { name: 'Find TB-3', exact: true }).click();
		await page.waitForURL(/tab=numbers.*find=TB-3|find=TB-3.*tab=numbers/);
		await expect.poll(async () => (await rows.first().innerText()).includes('TB-3')).toBe(true);
		// The address alone shows the same.
		const other = await app.signIn('auditor');
		await other.goto(page.url());
		await other.getByRole('link', { name: 'Show 34 more, 34' }).waitFor();
		await expect.poll(() => other.locator('table').last().locator('tbody tr').count()).toBe(await rows.count());
	});
	it('by generation is folded, and unfolds step by step', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/trace?mark=${root}&direction=forward&tab=numbers`);
		const rows = page.locator('table').last().locator('tbody tr');
		await expect.poll(() => rows.count()).toBe(BATCHES + 1);
		await page.getByRole('button', { name: 'Unfold TB-0' }).press('Enter');
		await expect.poll(() => rows.count()).toBe(BATCHES + 2);
		const packs = rows.filter({ hasText: /TP-0-01\s*…\s*TP-0-49/ });
		await packs.getByRole('button', { name: /^Unfold/ }).press('Enter');
		await expect.poll(() => rows.count()).toBe(100);
		await page.getByRole('button', { name: 'Fold TB-0' }).press('Enter');
		await expect.poll(() => rows.count()).toBe(BATCHES + 1);
		await page.getByRole('link', { name: /^By customer/ }).click();
		await page.getByText('Sken Island Fisheries', { exact: true }).first().waitFor();
	});
	it('that takes long says what it does, and is stopped', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/register/${root}`);
		await page.locator('[data-live]').waitFor();
		// The ledger has grown: what was worked out before is of another moment.
		await saveFirm(app.sql, 'ines', { countLimit: '7' });
		await sealAll(app.sql);
		const held = await app.sql.reserve();
		try {
			// Nobody reads movements meanwhile.
			await held`BEGIN`;
			await held`SET LOCAL ROLE NONE`;
			await held`LOCK TABLE movement IN ACCESS EXCLUSIVE MODE`;
			await page.getByRole('link', { name: 'Trace forward' }).click();
			await page.getByText('Reading the ledger').waitFor();
			await accessible(page);
			await page.getByRole('button', { name: 'Stop' }).press('Enter');
			await page.getByText('It was stopped.').waitFor();
		} finally {
			await held`ROLLBACK`;
			held.release();
		}
		await page.getByRole('link', { name: 'Trace again' }).press('Enter');
		await page.getByText('100 %').waitFor();
	});
	it('is saved as a file, which says what it does meanwhile and is stopped', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/trace?mark=${root}&direction=forward`);
		const link = page.getByRole('link', { name: 'Where it is now as CSV' });
		await link.waitFor();
		const held = await app.sql.reserve();
		const work = crypto.randomUUID();
		const doing = async () =>
			((await (await page.request.get(`${app.base}/work/${work}`)).json()) as { said: unknown }).said;
		try {
			await held`BEGIN`;
			await held`SET LOCAL ROLE NONE`;
			await held`LOCK TABLE movement IN ACCESS EXCLUSIVE MODE`;
			await link.press('Enter');
			await page.getByText('Reading the ledger').waitFor();
			await accessible(page);
			await page.getByRole('button', { name: 'Stop' }).press('Enter');
			await page.getByText('It was stopped.').waitFor();
			await page.getByRole('button', { name: 'Stop' }).waitFor({ state: 'detached' });
			// Whoever goes away waits for it no longer: what was asked by them ends.
			await page.evaluate(
				({ href, name }) => {
					const gone = new AbortController();
					void fetch(`${href}&work=${name}`, { signal: gone.signal }).catch(() => null);
					setTimeout(() => gone.abort(), 2000);
				},
				{ href: (await link.getAttribute('href'))!, name: work }
			);
			await expect.poll(doing).toBe('Reading the ledger');
			await expect.poll(doing).toBeNull();
		} finally {
			await held`ROLLBACK`;
			held.release();
		}
		const [file] = await Promise.all([page.waitForEvent('download'), link.press('Enter')]);
		expect(file.suggestedFilename()).toBe('trace-forward-T-ROOT-where.csv');
		expect((await readFile(await file.path(), 'utf8')).trim().split('\n')).toHaveLength(1 + BATCHES * PIECES);
	});
	it('and labels of many pieces say how many are drawn', async () => {
		const page = await app.signIn('ines');
		const marks = await app.sql<{ id: string }[]>`SELECT id FROM mark WHERE number LIKE 'TP-%' ORDER BY id LIMIT 400`;
		const made = await page.request.post(`${app.base}/api/v1/labels`, {
			headers: { origin: app.base },
			data: { marks: marks.map((m) => m.id), symbol: 'QR code', dpi: '300', copies: '1', size: '70 × 35' }
		});
		expect(made.status()).toBe(201);
		await page.goto(`${app.base}/devices`);
		const link = page.getByRole('link', { name: /^PDF of job/ }).first();
		const [file] = await Promise.all([
			page.waitForEvent('download'),
			link.press('Enter'),
			page.getByText(/Drawing label \d+ of 400/).waitFor()
		]);
		expect(file.suggestedFilename()).toMatch(/^labels-.*[.]pdf$/);
		expect((await readFile(await file.path())).subarray(0, 5).toString()).toBe('%PDF-');
	});
	it('comes to programs whole, whoever asks at once', async () => {
		const token = await app.token('auditor');
		const ask = async () => {
			const answer = await fetch(`${app.base}/api/v1/trace?direction=forward&item=T-RAW&lot=T-ROOT`, {
				headers: { authorization: `Bearer ${token}` }
			});
			const { marks, where, rootQty } = (await answer.json()) as { marks: []; where: []; rootQty: string };
			return [answer.status, marks.length, where.length, rootQty];
		};
		const answers = await Promise.all(Array.from({ length: 8 }, ask));
		for (const a of answers) expect(a).toEqual([200, BATCHES * (PIECES + 1) + 1, BATCHES * PIECES, String(BATCHES)]);
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});
