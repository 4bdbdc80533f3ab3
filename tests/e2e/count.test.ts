import { describe, expect, it } from 'vitest';
import { bookTest, findingsOf } from '../db/cluster.ts';
import { words } from '../pdf.ts';
import { startApp } from './app.ts';
import { accessible, foot, scan } from './sheet.ts';
import type { Page } from 'playwright';

const app = startApp();
const LOTS = Array.from({ length: 20 }, (_, n) => `CT-LOT-${String(n + 1).padStart(2, '0')}`);
const says = (page: Page) => page.getByRole('status');
/** Makes a count of a place by its form. */
async function makeCount(page: Page, place: string) {
	await page.goto(app.base + '/stock');
	await page.getByRole('link', { name: 'Counts' }).click();
	await page.getByRole('link', { name: 'New count' }).click();
	await page.waitForURL(/counts\/new/);
	await page.getByLabel('Where').selectOption(place);
	await page.getByRole('button', { name: 'Make the count' }).click();
	await page.waitForURL(/\/stock\/counts\/CT-/);
	await page.locator('html[data-live]').waitFor();
	return decodeURIComponent(new URL(page.url()).pathname.split('/').pop()!);
}

describe('counting', () => {
	it('twenty lots: twenty scans with quantities, and one press', async () => {
		await bookTest(app.sql, {
			...{ key: 'lots to count', kind: 'receipt', partner: 'QUILLMERE' },
			movements: LOTS.map((lot, n) => ({
				item: 'KI',
				lot,
				qty: String(n + 1),
				from: '@supplier',
				to: 'ND/B7',
				facts: { CERT: 'CoA-1', TEMP: '6' },
				expiresOn: '2030-01-31'
			})),
			reason: 'for the test'
		});
		const page = await app.signIn('ines');
		await makeCount(page, 'ND/B7');
		let acts = 0;
		for (const [n, lot] of LOTS.entries()) {
			await scan(page, lot);
			const field = page.getByLabel('How much, kg');
			await field.waitFor();
			// The quantity is typed where the cursor stands already.
			await page.waitForFunction(() => document.activeElement?.getAttribute('data-field') === 'fill');
			await page.keyboard.type(String(n + 1), { delay: 60 });
			await page.keyboard.press('Enter');
			await says(page)
				.getByText(`${lot}: ${n + 1} kg`)
				.waitFor();
			acts++;
		}
		await foot(page).getByText('Everything is counted.').waitFor();
		await accessible(page);
		await page.keyboard.press('Control+Enter');
		acts++;
		await says(page).getByText('Everything that was counted is as expected. The count is closed.').waitFor();
		expect(acts).toBe(21);
		// It counts for how right the counts are.
		await page.goto(app.base + '/stock/counts');
		await page.getByRole('heading', { name: 'How right the counts were' }).waitFor();
		await accessible(page);
	});

	it('differences: one reason for each, a second count by another, and the auditor finds them', async () => {
		const tobi = await app.signIn('tobi');
		const code = await makeCount(tobi, 'ND/B7');
		// Found by its row, without a scanner.
		await tobi.getByRole('button', { name: `Count… ${LOTS[9]}` }).click();
		await tobi.getByLabel('How much, kg').fill('8');
		await tobi.getByLabel('How much, kg').press('Enter');
		await says(tobi).getByText(`${LOTS[9]}: 8 kg`).waitFor();
		// What is expected stands beside it only now.
		const row = tobi.getByRole('region', { name: 'ND/B7' }).locator('tbody tr', { hasText: LOTS[9] });
		expect((await row.innerText()).replace(/\s+/g, ' ')).toContain('8 kg 10 kg');
		await tobi.getByText('another person counts it again').first().waitFor();
		expect(await tobi.getByRole('button', { name: 'Book the count' }).count()).toBe(0);
		// A number that nobody knows.
		await tobi.getByLabel('Number, item or bin').fill('KI-STRAY-1');
		await tobi.keyboard.press('Enter');
		await tobi.getByText('is in no book').waitFor();
		await accessible(tobi);
		await tobi.getByRole('button', { name: 'Leave it' }).click();
		const ines = await app.signIn('ines');
		await ines.goto(`${app.base}/stock/counts/${code}`);
		await ines.locator('html[data-live]').waitFor();
		await scan(ines, LOTS[9]);
		await ines.getByLabel('How much, kg').fill('9');
		await ines.getByLabel('How much, kg').press('Enter');
		await foot(ines).getByText('1 difference has no reason yet').waitFor();
		expect(await ines.getByRole('button', { name: 'Book the count' }).isDisabled()).toBe(true);
		await ines.getByLabel(`Why ${LOTS[9]} at ND/B7 differs`).selectOption('Cause not found');
		await accessible(ines);
		await ines.getByRole('button', { name: 'Book the count' }).click();
		await says(ines).getByText('Booked: 1 difference.').waitFor();
		// What tobi has open shows it at once.
		await tobi
			.getByText(/closed/)
			.first()
			.waitFor();
		const auditor = await app.signIn('auditor');
		await auditor.goto(`${app.base}/stock/adjusted?act=counted&find=${LOTS[9]}`);
		const said = auditor.locator('tbody tr', { hasText: LOTS[9] });
		await said.waitFor();
		expect((await said.innerText()).replace(/\s+/g, ' ')).toMatch(/counted .* − 1 kg 10 9 – Cause not found/);
		expect((await auditor.request.get(app.base + '/stock/counts/new')).status()).toBe(403);
	});

	it('a phone that loses the network keeps what was counted, and it goes in once when it is back', async () => {
		const page = await app.signIn('tobi');
		await page.setViewportSize({ width: 400, height: 800 });
		const code = await makeCount(page, 'ND/B7');
		await scan(page, LOTS[0]);
		await page.getByLabel('How much, kg').waitFor();
		await page.context().setOffline(true);
		await page.getByLabel('How much, kg').fill('1');
		await page.getByLabel('How much, kg').press('Enter');
		await says(page).getByText('cannot be reached').waitFor();
		await page.context().setOffline(false);
		await says(page).getByText(`${LOTS[0]}: 1 kg`).waitFor();
		const entries = await app.sql`SELECT 1 FROM count_entry e JOIN orders o ON o.id = e.order_id AND o.code = ${code}`;
		expect(entries).toHaveLength(1);
		expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(400);
	});

	it('only the total of an item is counted, and laid on its lots; sheets are printed with and without what is expected', async () => {
		const page = await app.signIn('ines');
		const code = await makeCount(page, 'ND/B7');
		const [before, with_] = await Promise.all(
			['', '?expected'].map(async (q) =>
				words(await (await page.request.get(`${app.base}/orders/${code}/count/sheets${q}`)).body())
			)
		);
		for (const text of [before, with_]) expect(text).toContain(LOTS[4]);
		expect(before).not.toContain('Expected');
		expect(with_).toContain('Expected');
		await page.getByRole('button', { name: /^Count only the total of/ }).click();
		// 1 to 20 kg, less one that was counted away before.
		await page.getByLabel(/^All of .* here, kg/).fill('207.5');
		await page.getByRole('button', { name: 'Lay it on the lots' }).click();
		const first = page.getByLabel(`More or less of ${LOTS[0]}`);
		await first.waitFor();
		expect(await first.inputValue()).toBe('-1');
		await first.fill('0');
		await page.getByRole('button', { name: 'Enter it', exact: true }).last().click();
		await page.getByText('What is laid on the lots adds up to 208.5, and 207.5 were counted').waitFor();
		await first.fill('-1');
		await first.press('Tab');
		await page.getByRole('button', { name: 'Enter it', exact: true }).last().click();
		await page.getByRole('heading', { name: 'Differences' }).waitFor();
		await accessible(page);
		// It is given up: nothing is booked, and it can be taken up again.
		await page.getByRole('button', { name: 'Close without booking…' }).click();
		await page.getByLabel('Why, in one line').fill('Counted at the wrong hour');
		await page.getByRole('button', { name: 'Close it' }).click();
		await page.getByText('Closed and not booked: Counted at the wrong hour').waitFor();
		expect(await app.sql`SELECT 1 FROM event e JOIN orders o ON o.id = e.order_id AND o.code = ${code}`).toHaveLength(
			0
		);
		await page.getByRole('button', { name: 'Open again…' }).click();
		await page.getByLabel('Why, in one line').fill('It was right');
		await page.getByRole('button', { name: 'Open it again' }).click();
		await page.getByRole('button', { name: 'Book the count' }).waitFor();
	});

	it('leaves a ledger that adds up', async () => {
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});
