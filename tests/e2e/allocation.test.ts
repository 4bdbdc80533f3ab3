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
