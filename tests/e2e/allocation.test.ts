import { describe, expect, it } from 'vitest';
import { startApp } from './app.ts';
import { accessible, foot } from './sheet.ts';

const app = startApp();

describe('what a customer asks of what it gets', () => {
	it('is set on its page by keyboard; what does not fit is skipped with why, and wants a reason when it is chosen', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/setup/partners`);
		await page.getByRole('link', { name: 'SKEN' }).click();
		const days = page.getByLabel('Days left at shipment, at least');
		await days.fill('3000');
		await days.press('Enter');
		await page.getByText('Saved. It counts from the next suggestion on.').waitFor();
		await accessible(page);

		await page.goto(`${app.base}/outbound/SO-3345`);
		await page.locator('[data-live]').waitFor();
		await page
			.getByText(/days left, 3000 are asked/)
			.first()
			.waitFor();
		await foot(page).getByText('Line 2: 120 short').waitFor();
		const line = page.locator('section').filter({ hasText: 'PH7-50' }).first();
		await line.getByRole('button', { name: 'Choose from what is there' }).click();
		await line.getByRole('button', { name: /^Take/ }).first().click();
		await foot(page)
			.getByText(/days left; 3000 are asked at shipment/)
			.waitFor();
		const [{ n }] = await app.sql<
			{ n: number }[]
		>`SELECT count(*)::int AS n FROM event WHERE kind = 'shipment' AND document = 'SO-3345'`;
		expect(n).toBe(0);
	});
});

describe('what is not ours', () => {
	it('comes on a delivery that says so, is not offered, and is ours once that is corrected', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/inbound/new`);
		await page.locator('[data-live]').waitFor();
		await page.getByRole('combobox', { name: 'Supplier' }).fill('Ostrel');
		await page.keyboard.press('Tab');
		await page.getByLabel('Arrives at').selectOption('QS/A5');
		await page.getByLabel('What comes').selectOption('stays theirs');
		await page.getByRole('combobox', { name: 'Item of line 1' }).fill('BOTTLE-50');
		await page.keyboard.press('Tab');
		await page.getByLabel('Quantity of line 1').fill('60');
		await page.getByLabel('Quantity of line 1').press('Enter');
		await page.waitForURL(/\/inbound\/PO-/);
		await page.getByText('What comes stays the property of Ostrel Glassworks').waitFor();
		await page.getByRole('textbox', { name: /^Lot/ }).first().fill('OF-THEIRS');
		await page.keyboard.press('Tab');
		await page.keyboard.type('60');
		await page.keyboard.press('Enter');
		await foot(page).getByRole('button', { name: 'Book in' }).and(page.locator(':enabled')).waitFor();
		await page.keyboard.press('Control+Enter');
		await page.getByText(/Booked on \S+: \d/).waitFor();
		// Stock says whose it is, and finds all that is theirs.
		await page.goto(`${app.base}/stock?owner=OSTREL`);
		const row = page.locator('tbody tr', { hasText: 'OF-THEIRS' });
		await row.getByText('belongs to Ostrel Glassworks').waitFor();
		await page.locator('tbody tr', { hasText: 'OF-CONS-1' }).waitFor();
		await accessible(page);
		await row.getByRole('link', { name: /OF-THEIRS/ }).click();
		await page.getByRole('link', { name: 'Correct whose it is' }).click();
		await page.waitForURL(/correct\?field=owner/);
		await page.locator('[data-live]').waitFor();
		// The cursor stands in the field; left empty, it is ours.
		expect(await page.evaluate(() => document.activeElement?.getAttribute('role'))).toBe('combobox');
		await accessible(page);
		await page.getByLabel('Why, in one line; it is kept in the ledger').fill('Bought from them');
		await page.keyboard.press('Enter');
		await page.getByText('Corrected. The old value stands in its history.').waitFor();
		await page.getByText('belongs to: OSTREL → nobody else').waitFor();
		await page.goto(`${app.base}/stock?find=OF-THEIRS`);
		expect(await row.innerText()).not.toContain('belongs to');
	});
});
