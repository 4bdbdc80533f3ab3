import type { Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { startApp } from './app.ts';
import { booked, entry, foot, log, openOrder, paste, scan, type } from './sheet.ts';

const app = startApp();
/** Answers to what the page sends for its sheet, how large each was. */
function sizes(page: Page): { method: string; part: boolean; size: number }[] {
	const seen: { method: string; part: boolean; size: number }[] = [];
	page.on('response', async (r) => {
		if (!/\/orders\/[^/]+\/(sheet|scan)\?/.test(r.url())) return;
		const size = (await r.text().catch(() => '')).length;
		seen.push({ method: r.request().method(), part: r.url().includes('part=1'), size });
	});
	return seen;
}
const checked = (page: Page) => expect.poll(() => foot(page).getByText('Checking all of it').count()).toBe(0);

describe('a sheet of thousands of serials', () => {
	it('is typed, scanned and taken back row by row, checked behind, and booked', async () => {
		const { page, code } = await openOrder(app, { lines: [['BOARD', '3000']] });
		await type(page, 'Sensor board VB', 'Lot', 'LNG-1');
		await paste(
			page,
			'Sensor board VB',
			'First serial, count',
			Array.from({ length: 2990 }, (_, n) => `LNG-${String(3 * n).padStart(5, '0')}`).join('\n')
		);
		await page.getByText('2,990 numbers read.').waitFor();
		await page.getByText('40 of 2,990 rows shown').waitFor();
		const seen = sizes(page);
		await page.reload();
		await page.locator('html[data-live]').waitFor();
		await page.getByText('40 of 2,990 rows shown').waitFor();
		await foot(page).getByText('Line 1: 10 serials missing').waitFor();
		// A row is there before all of it is checked, and the button waits for that.
		await page.route('**/sheet?*', async (r) => {
			if (r.request().method() === 'GET') await new Promise((done) => setTimeout(done, 600));
			await r.continue();
		});
		await type(page, 'Sensor board VB', 'Lot', 'LNG-1');
		await type(page, 'Sensor board VB', 'First serial, count', 'NEXT-01, 8');
		await page.getByText('40 of 2,991 rows shown').waitFor();
		await foot(page).getByText('Checking all of it').waitFor();
		expect(await foot(page).getByRole('button', { name: 'Book in' }).isDisabled()).toBe(true);
		await foot(page).getByText('Line 1: 2 serials missing').waitFor();
		// Twice: the scan is refused with the same words as in a short one.
		await entry(page, 'Sensor board VB').getByLabel('Lot', { exact: true }).fill('LNG-1');
		await entry(page, 'Sensor board VB').getByLabel('First serial, count').focus();
		await scan(page, 'LNG-00003');
		await log(page).getByText('LNG-00003 looked at').first().waitFor();
		await scan(page, 'NEXT-09');
		await log(page).getByText('NEXT-09 into line 1, Sensor board VB: 2,999 of 3,000').first().waitFor();
		await scan(page, 'LNG-00003');
		await log(page).getByText('Serial LNG-00003 stands here twice. Remove one.').first().waitFor();
		await checked(page);
		await foot(page).getByText('Line 1: 1 serial missing').waitFor();
		// A wrong number is found by the check behind, and stands first.
		await type(page, 'Sensor board VB', 'First serial, count', 'LNG-00006');
		await foot(page).getByText('LNG-00006 stands here twice').waitFor();
		await page
			.getByRole('row', { name: /LNG-00006/ })
			.first()
			.getByText('stands here twice')
			.waitFor();
		await page.keyboard.press('Escape');
		await page.locator('h1').click();
		await page.keyboard.press('Control+z');
		await foot(page).getByText('Line 1: 1 serial missing').waitFor();
		await checked(page);
		const changes = seen.filter((s) => s.part);
		expect(changes.length).toBeGreaterThan(4);
		expect(Math.max(...changes.map((s) => s.size))).toBeLessThan(12_000);
		// What changed comes back of the check, not the three thousand rows.
		expect(
			Math.max(
				...seen
					.filter((s) => s.method === 'GET')
					.slice(1)
					.map((s) => s.size)
			)
		).toBeLessThan(20_000);
		await page.keyboard.press('Control+Enter');
		expect(await booked(app, page, code)).toBe(2999);
	});

	it('shows a shipment of thousands a hundred rows at a time', async () => {
		const serials = Array.from({ length: 900 }, (_, n) => `FAR-${String(7 * n).padStart(5, '0')}`);
		const { page, code } = await openOrder(app, { lines: [['BOARD', '900']] });
		await type(page, 'Sensor board VB', 'Lot', 'FAR');
		await paste(page, 'Sensor board VB', 'First serial, count', serials.join('\n'));
		await foot(page).getByText('Nothing is missing.').waitFor();
		await page.keyboard.press('Control+Enter');
		expect(await booked(app, page, code)).toBe(900);
		const ship = await openOrder(app, { kind: 'sale', place: 'QS', lines: [['BOARD', '800']] }, 'oskar');
		await ship.page.getByText(/^100 of [\d,]+ rows shown/).waitFor();
		await checked(ship.page);
		expect(await ship.page.getByRole('row').count()).toBeLessThan(120);
		await ship.page.getByRole('button', { name: 'Show more' }).first().click();
		await expect.poll(() => ship.page.getByRole('row').count()).toBeGreaterThan(300);
	});
});
