import { describe, expect, it } from 'vitest';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { startApp } from './app.ts';
import { accessible, foot, scan } from './sheet.ts';

const app = startApp();
const promised = (order: string) => app.sql<{ number: string }[]>`
	SELECT k.number FROM promise_now n JOIN mark k ON k.id = n.mark_id WHERE n.order_code = ${order} ORDER BY k.number`;
const numbers = async (order: string) => (await promised(order)).map((r) => r.number);

describe('a promise', () => {
	it('is made as suggested in two actions, seen with the number, and taken over by another order only with a reason', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/outbound/SO-3345`);
		await page.locator('[data-live]').waitFor();
		const line = page.locator('section').filter({ hasText: 'WM · serial' }).first();
		await line.getByRole('button', { name: 'Promise as suggested…' }).click();
		const dialog = page.getByRole('dialog');
		await dialog.getByText('Nobody else is offered it then.').waitFor();
		await accessible(page);
		await dialog.getByRole('button', { name: 'Promise', exact: true }).click();
		await line.getByText('until it has gone').waitFor();
		const held = await numbers('SO-3345');
		expect(held).toHaveLength(4);

		// Another order, while this one stays open in its own tab.
		const code = await createDocument(app.sql, 'ines', {
			...{ kind: 'sale', partner: 'THORNMERE', place: 'QS' },
			lines: [{ item: 'WM', qty: '1' }]
		});
		const other = await page.context().newPage();
		await other.goto(`${app.base}/outbound/${code}`);
		await other.locator('[data-live]').waitFor();
		// It can be scanned nowhere but at the desk, with a reason.
		await scan(other, held[0]);
		await other.getByRole('log').getByText(`${held[0]} is promised to SO-3345. Take another`).waitFor();
		await other.getByRole('button', { name: 'Choose from what is there' }).click();
		await other.getByLabel(/^Find in/).fill(held[0]);
		await other.getByText('promised to SO-3345').last().waitFor();
		await other.getByRole('button', { name: `Take ${held[0]}` }).click();
		await foot(other)
			.getByText(`Serial ${held[0]} is promised to SO-3345. Take another, or say why it is taken over`)
			.waitFor();
		expect(await other.getByRole('button', { name: 'Ship' }).isDisabled()).toBe(true);
		await other.getByLabel('Reason, kept in the ledger').fill('Their line stands still');
		await other.getByRole('button', { name: 'Ship' }).click();
		await other.getByText(`Booked on ${code}: 1`).waitFor();
		// The first order says so by itself, at once.
		await line.getByText(`Ines Falk took over it for ${code}`).waitFor();
		await line.getByText('Their line stands still').waitFor();
		expect(await numbers('SO-3345')).toEqual(held.slice(1));

		await other.goto(`${app.base}/register`);
		await scan(other, held[1]);
		await other.getByText('Promised to').waitFor();
		expect(await other.getByRole('link', { name: 'SO-3345' }).first().getAttribute('href')).toBe('/outbound/SO-3345');
		await line.getByRole('button', { name: `Release ${held[1]}` }).click();
		await expect.poll(() => numbers('SO-3345')).toEqual([]);
	});
});

describe('the pick list', () => {
	it('goes through the bins on a phone; a scan takes, swaps, or says why not; and is printed', async () => {
		const page = await app.signIn('tobi');
		await page.setViewportSize({ width: 400, height: 800 });
		await page.goto(`${app.base}/outbound/SO-3344`);
		await page.locator('[data-live]').waitFor();
		await page.getByRole('link', { name: 'Pick list' }).click();
		await page.getByRole('heading', { name: 'Pick SO-3344' }).waitFor();
		await page.locator('[data-live]').waitFor();
		const said = page.getByRole('status').first();
		await said.getByText('Scan what you take. 2 bins to go to.').waitFor();
		expect(await page.locator('h2').allInnerTexts()).toEqual(['QS/A5', 'QS/A6']);
		const kits = page.getByRole('region', { name: 'QS/A6' });
		expect(await kits.getByText('suggested').count()).toBe(1);
		await accessible(page);
		expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(400);

		// A swap: the next one in the same bin; then one that may not go.
		const [{ number: swap }] = await app.sql<{ number: string }[]>`
			SELECT k.number FROM mark_now k JOIN item i ON i.id = k.item_id AND i.code = 'FK' JOIN balance b ON b.mark_id = k.id AND b.qty > 0 JOIN place p ON p.id = b.place_id AND p.code = 'QS/A6'
			WHERE k.status = 'released' ORDER BY k.number DESC LIMIT 1`;
		await scan(page, swap);
		await said.getByText(`Serial ${swap} from QS/A6 into line 1`).waitFor();
		await kits.getByText('picked', { exact: true }).waitFor();
		expect(await kits.getByText('suggested').count()).toBe(1);
		const [{ number: held }] = await app.sql<{ number: string }[]>`
			SELECT k.number FROM mark_now k JOIN item i ON i.id = k.item_id AND i.code = 'FK' JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual WHERE k.status = 'held' LIMIT 1`;
		await scan(page, held);
		await said.getByText(`${held} is on hold and stays here. Take another, or have it released.`).waitFor();
		await page.getByRole('button', { name: 'Undo the last scan' }).click();
		await said.getByText(`Undone: Serial ${swap}`).waitFor();
		expect(await kits.getByText('picked', { exact: true }).count()).toBe(0);
		expect(
			await app.sql`SELECT 1 FROM draft_row d JOIN orders o ON o.id = d.order_id WHERE o.code = 'SO-3344'`
		).toHaveLength(0);

		const paper = await page.request.get(`${app.base}/orders/SO-3344/packing-list`);
		expect([paper.status(), paper.headers()['content-type']]).toEqual([200, 'application/pdf']);
	});
});
