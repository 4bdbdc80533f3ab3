import { describe, expect, it } from 'vitest';
import { findingsOf } from '../db/cluster.ts';
import { startApp } from './app.ts';
import { accessible, entry, foot, wedge } from './sheet.ts';

const app = startApp();
const scanLine = 'Scan line';

describe('adjusting stock', () => {
	it('from a number’s page: it is named already, and one press books it', async () => {
		const [{ id, number }] = await app.sql<{ id: string; number: string }[]>`
			SELECT k.id, k.number FROM mark_now k JOIN balance b ON b.mark_id = k.id AND b.qty = 1 AND NOT b.virtual JOIN item i ON i.id = k.item_id AND i.code = 'BOARD'
			WHERE k.kind = 'serial' AND k.status = 'released' AND k.id NOT IN (SELECT mark_id FROM promise) ORDER BY k.id LIMIT 1`;
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/register/${id}`);
		await page.getByRole('link', { name: 'New adjustment out' }).click();
		await page.waitForURL(/adjust-out\/new/);
		await page.getByRole('button', { name: 'Next: enter numbers' }).click();
		await page.getByText('Choose the reason.').waitFor();
		expect(await page.getByRole('combobox', { name: 'Item of line 1' }).inputValue()).toBe('BOARD');
		await page.getByLabel('Reason').selectOption('Damaged');
		await accessible(page);
		await page.getByRole('button', { name: 'Next: enter numbers' }).click();
		await page.waitForURL(/\/stock\/adjust-out\/AO-/);
		await page.getByRole('heading', { level: 1 }).getByText('Damaged: AO-').waitFor();
		await page.getByText(number).first().waitFor();
		await foot(page).getByText('Nothing is missing').waitFor();
		await accessible(page);
		await page.keyboard.press('Control+Enter');
		await page.getByText(/Booked on \S+: \d/).waitFor();
		const [{ place }] = await app.sql<
			{ place: string }[]
		>`SELECT p.code AS place FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = ${id} AND b.qty = 1`;
		expect(place).toBe('@scrap');
		// The auditor finds it, with what lay there before and after.
		const auditor = await app.signIn('auditor');
		await auditor.goto(`${app.base}/stock/adjusted?reason=Damaged&find=${encodeURIComponent(number)}`);
		const row = auditor.locator('tbody tr', { hasText: number });
		await row.waitFor();
		expect((await row.innerText()).replace(/\s+/g, ' ')).toMatch(/scrapped .* − 1 1 0 – Damaged AO-\d+ Ines Falk/);
		expect(await auditor.getByRole('link', { name: 'New adjustment out' }).count()).toBe(0);
		// From there to the event: what it says of itself, and what it moved.
		await row.getByRole('link').first().click();
		await auditor.getByRole('heading', { level: 1, name: /^Event \d+, scrap/ }).waitFor();
		const said = (await auditor.locator('dl.facts').innerText()).replace(/\s+/g, ' ');
		expect(said).toMatch(/Recorded .* by Ines Falk, on a screen Order AO-\d+ .*Reason Damaged/);
		const moved = auditor.locator('tbody tr');
		expect(await moved.count()).toBe(1);
		expect((await moved.innerText()).replace(/\s+/g, ' ')).toMatch(new RegExp(`scrap .*${number} 1 \\S+ .*scrap`, 'i'));
		await accessible(auditor);
		await auditor.goto(app.base + '/events/moved?event.from=999999&event.to=999999');
		await auditor.getByText('There is no event 999999. Look it up in what was booked.').waitFor();
		await auditor.goto(`${app.base}/stock/adjusted?reason=Damaged&find=${encodeURIComponent(number)}`);
		expect((await auditor.request.get(app.base + '/stock/adjust-out/new')).status()).toBe(403);
		await accessible(auditor);
	});

	it('what was found is put in with its number by keyboard, and stands in stock', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/stock/adjusted');
		await page.getByRole('link', { name: 'New adjustment in' }).click();
		await page.waitForURL(/adjust-in\/new/);
		await page.getByLabel('Found at').selectOption('QS/A1');
		await page.getByLabel('Reason').selectOption('Found');
		await page.getByRole('combobox', { name: 'Item of line 1' }).fill('KI');
		await page.keyboard.press('Tab');
		await page.getByLabel('Quantity of line 1').fill('0.25');
		await page.getByLabel('Quantity of line 1').press('Enter');
		await page.waitForURL(/\/stock\/adjust-in\/AI-/);
		await foot(page)
			.getByText(/0.25 kg still to enter/)
			.waitFor();
		await accessible(page);
		const lot = page.getByRole('textbox', { name: /^Lot/ }).first();
		await lot.fill('KI-FOUND-1');
		// What a delivery of it needs is asked of what was found, too.
		const fields = entry(page, 'Potassium iodide');
		await fields.getByLabel('Quantity, kg', { exact: true }).fill('0.25');
		await fields.getByLabel('Expires', { exact: true }).fill('2028-01-31');
		await fields.locator('[data-field="fact CERT"]').fill('C-1');
		await fields.locator('[data-field="fact TEMP"]').fill('8');
		await fields.locator('[data-field="fact TEMP"]').press('Enter');
		await foot(page)
			.getByText(/Certificate of analysis is not given/)
			.waitFor();
		await foot(page).getByLabel('Reason, kept in the ledger').fill('found without its papers');
		await foot(page).getByRole('button', { name: 'Book adjustment' }).and(page.locator(':enabled')).waitFor();
		// What one costs: nothing is known of it, so it is to come, or typed.
		const cost = page.getByRole('textbox', { name: 'Cost of one, row 1' });
		expect(await cost.getAttribute('placeholder')).toBe('to come');
		await cost.fill('ten');
		await cost.press('Tab');
		await foot(page)
			.getByText(/The cost of one cannot be read: ten/)
			.waitFor();
		await cost.fill('41.20');
		await cost.press('Tab');
		await foot(page).getByRole('button', { name: 'Book adjustment' }).and(page.locator(':enabled')).waitFor();
		await page.keyboard.press('Control+Enter');
		await page.getByText(/Booked on \S+: \d/).waitFor();
		const [{ cost: kept }] = await app.sql<{ cost: string }[]>`
			SELECT trim_scale(m.unit_cost)::text AS cost FROM movement m JOIN mark k ON k.id = m.mark_id WHERE k.number = 'KI-FOUND-1'`;
		expect(kept).toBe('41.2');
		await page.goto(app.base + '/stock?find=KI-FOUND-1');
		await page.locator('tbody tr', { hasText: 'KI-FOUND-1' }).getByText('0.25 kg').waitFor();
		// And in the total of its item at that site, from which its numbers are one press away.
		await page.goto(app.base + '/stock?item=KI&place=QS');
		await page.getByRole('link', { name: 'Totals by item' }).click();
		await page.waitForURL(/\/stock\/totals\?item=KI&place=QS/);
		const [{ total }] = await app.sql<{ total: string }[]>`
			SELECT trim_scale(sum(b.qty))::text || ' kg' AS total FROM balance b JOIN mark m ON m.id = b.mark_id JOIN item i ON i.id = m.item_id JOIN place p ON p.id = b.place_id
			JOIN place s ON s.id = p.site_id WHERE i.code = 'KI' AND s.code = 'QS' AND b.qty > 0`;
		const row = page.locator('tbody tr');
		expect(await row.count()).toBe(1);
		await row.getByText(total, { exact: true }).first().waitFor();
		await accessible(page);
		await row.getByRole('link', { name: 'Potassium iodide' }).press('Enter');
		await page.waitForURL(/\/stock\?item=KI&place=QS/);
		await page.locator('tbody tr', { hasText: 'KI-FOUND-1' }).waitFor();
	});

	it('a broken bottle of a known lot is scanned away; another item’s label is refused', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/stock/adjust-out/AO-4');
		await foot(page)
			.getByText(/1 not named yet/)
			.waitFor();
		const [{ number }] = await app.sql<{ number: string }[]>`
			SELECT k.number FROM mark_now k JOIN balance b ON b.mark_id = k.id AND b.qty > 1 AND NOT b.virtual JOIN item i ON i.id = k.item_id AND i.code = 'PH7-50'
			JOIN place p ON p.id = b.place_id AND p.code LIKE 'QS/%' ORDER BY k.expires_on LIMIT 1`;
		const line = page.getByRole('textbox', { name: scanLine });
		await line.focus();
		await wedge(page, 'WM-0201');
		await page
			.getByRole('log')
			.getByText(/WM-0201 stands nowhere/)
			.waitFor();
		await line.focus();
		await wedge(page, number);
		await foot(page).getByText('Nothing is missing').waitFor();
		await foot(page).getByRole('button', { name: 'Scrap', exact: true }).click();
		await page.getByText(/Booked on AO-4: 1/).waitFor();
	});

	it('a reason is added and closed in Setup', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/reasons');
		await page.getByLabel('Reason', { exact: true }).fill('Frost');
		await page.getByLabel('It is a reason to').selectOption('scrap');
		await page.getByRole('button', { name: 'Add reason' }).click();
		await page.getByText('“Frost” is added.').waitFor();
		await page.getByRole('button', { name: 'Close Frost' }).click();
		await page.getByText('“Frost” is closed').waitFor();
		await page.goto(app.base + '/stock/adjust-out/new');
		expect(await page.getByLabel('Reason').locator('option').allInnerTexts()).not.toContain('Frost, scrapped');
	});

	it('the ledger holds', async () => {
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});
