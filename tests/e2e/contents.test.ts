import { describe, expect, it } from 'vitest';

import { startApp } from './app.ts';
import { accessible } from './sheet.ts';

const app = startApp();

describe('what is in what', () => {
	it('leads from a parts list to what really went in, by keyboard', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/trace');
		await page.getByRole('link', { name: 'Parts lists' }).press('Enter');
		await page.getByRole('heading', { name: 'Parts lists' }).waitFor();
		await page.getByRole('combobox', { name: 'Item' }).fill('FK');
		await page.getByRole('combobox', { name: 'Item' }).press('Enter');
		await page.getByLabel('How many').fill('10');
		await page.getByLabel('How many').press('Enter');
		await page.getByRole('heading', { name: 'What goes into 10 of Field kit FK' }).waitFor();
		// Ten kits: 60 bottles of reagent of 0.03 L, 1.8 L of bulk, 20 g of powder a litre (by hand, from the demo's catalogue).
		await page.getByRole('row', { name: 'DPD DPD powder 20 g 36 g' }).waitFor();
		await page.getByRole('row', { name: 'DPD DPD powder 36 g' }).waitFor();
		await accessible(page);
		await page.getByRole('link', { name: 'What really went into it' }).press('Enter');
		await page.getByRole('heading', { name: 'Parts in units' }).waitFor();
		expect(new URL(page.url()).searchParams.get('item')).toBe('FK');
		const made = await page.getByRole('table').locator('tbody tr td:first-child').allInnerTexts();
		expect([...new Set(made.map((t) => t.trim()))]).toEqual(['Field kit FK']);
		await accessible(page);
	});
	it('says what cannot be read, and what is in no list', async () => {
		const page = await app.signIn('auditor');
		await page.goto(app.base + '/trace/parts?item=NOTHING');
		await page.getByText('There is no item NOTHING. Choose one of the list.').waitFor();
		await page.goto(app.base + '/trace/parts?item=FK&qty=1.5');
		await page.getByText('1.5 is not a whole number').waitFor();
		await page.goto(app.base + '/trace/parts?item=DPD');
		await page.getByText('It has no parts list.').waitFor();
		await page.getByRole('link', { name: 'CR-BULK' }).waitFor();
	});
	it('is told to programs, by pages', async () => {
		const headers = { authorization: `Bearer ${await app.token('auditor')}` };
		const ask = async (query: string) => {
			const answer = await fetch(`${app.base}/api/v1/pairings?${query}`, { headers });
			return {
				status: answer.status,
				body: (await answer.json()) as { rows: { item: string }[]; next: string | null }
			};
		};
		const all = await ask('item=FK&count=1000');
		expect(all.body.next).toBeNull();
		const pieces: { item: string }[] = [];
		for (let after = ''; ;) {
			const { body } = await ask(`item=FK&count=50${after && `&after=${after}`}`);
			pieces.push(...body.rows);
			if (!body.next) break;
			after = body.next;
		}
		expect(pieces).toEqual(all.body.rows);
		expect(pieces.length).toBeGreaterThan(50);
		for (const wrong of ['count=0', 'count=1001', 'after=x', 'after=1', `item=${'X'.repeat(99)}`])
			expect((await ask(wrong)).status, wrong).toBe(422);
		expect((await fetch(`${app.base}/api/v1/pairings`)).status).toBe(401);
	});
});
