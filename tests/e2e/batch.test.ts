import { describe, expect, it } from 'vitest';
import { findingsOf } from '../db/cluster.ts';
import { startApp } from './app.ts';
import { accessible, foot, seek } from './sheet.ts';

const app = startApp();

describe('a batch', () => {
	it('has something come out beside it, gives back what was not used, and is closed short with the rest', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/production/MO-732`);
		await page.locator('[data-live]').waitFor();
		await page.getByRole('button', { name: 'Something else comes out…' }).click();
		await seek(page, 'Item', 'BUFFER-SALT');
		await page.getByLabel('How much is expected').fill('0.5');
		await page.getByRole('button', { name: 'Add it' }).click();
		await page.getByRole('heading', { name: 'What comes out beside it' }).waitFor();
		// Nobody has looked at what goes in: it is suggested, and shown so.
		expect(await page.getByText(/^[\d.,]+ of [\d.,]+ suggested$/).count()).toBe(2);
		await page.getByText('Use only').click();
		await page.getByRole('button', { name: 'Record use' }).click();
		await page.getByText(/^Booked on MO-732: .* in 4 lots/).waitFor();

		// Nothing is filled in where more will be made: only what is typed goes back.
		await page.getByRole('button', { name: 'Give back what was not used…' }).click();
		const back = page.getByRole('dialog');
		// Its lot of DPD is called by the week in which the story had it come.
		const [{ lot }] = await app.sql<{ lot: string }[]>`
			SELECT k.number AS lot FROM movement m JOIN run r ON r.id = m.run_id AND r.code = 'MO-732' JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id AND i.code = 'DPD' LIMIT 1`;
		const dpd = back.getByLabel(`Of ${lot} goes back`);
		expect(await dpd.inputValue()).toBe('');
		await dpd.fill('100');
		await accessible(page);
		await back.getByRole('button', { name: 'Give back' }).click();
		await page.getByText('Given back from MO-732: 100 g in 1 lot.').waitFor();
		await page.getByRole('cell', { name: 'given back' }).waitFor();

		await page.getByText('Output only').click();
		await page.getByLabel('Quantity, L').first().fill('20');
		await page.getByRole('button', { name: 'Take the next lot of CB-WEEK' }).click();
		await foot(page).getByText('20 L still to make').waitFor();
		await foot(page)
			.getByRole('button', { name: /^Record output/ })
			.click();
		await page.getByText(/^Booked on MO-732: 20 L in 1 lot/).waitFor();

		// 20 of 40 litres took 400 of the 700 g that stayed in, and 3 of 6 kg: the last that went in is offered first.
		await page.getByRole('button', { name: 'Close incomplete…' }).click();
		const close = page.getByRole('dialog');
		expect(await close.getByLabel(`Of ${lot} goes back`).inputValue()).toBe('300');
		await close.getByLabel('Why no more of it comes, is made or goes').fill('The tank leaks');
		await close.getByRole('button', { name: 'Close incomplete' }).click();
		await page.getByText('Closed before it was complete: The tank leaks').waitFor();
		const [{ used }] = await app.sql<{ used: string }[]>`
			SELECT sum(CASE m.role WHEN 'use' THEN m.qty ELSE -m.qty END)::text AS used FROM movement m JOIN run r ON r.id = m.run_id JOIN mark k ON k.id = m.mark_id
			WHERE r.code = 'MO-732' AND k.number = ${lot}`;
		expect(Number(used)).toBe(400);
		expect(await page.getByRole('button', { name: 'Give back what was not used…' }).count()).toBe(0);
		expect(await findingsOf(app.sql)).toEqual([]);
	});

	it('shows what really went into a lot beside its parts list', async () => {
		const page = await app.signIn('ines');
		const [{ id }] = await app.sql<
			{ id: string }[]
		>`SELECT id FROM mark WHERE number LIKE 'CR-%-1' ORDER BY id LIMIT 1`;
		await page.goto(`${app.base}/register/${id}`);
		await page.getByRole('link', { name: 'Compare with parts list' }).click();
		await page.getByRole('heading', { name: /What went into/ }).waitFor();
		const bulk = page.getByRole('row', { name: /CR-BULK/ });
		expect(await bulk.innerText()).toMatch(/L\s/);
		await accessible(page);
	});
});
