import { expect, describe, it } from 'vitest';
import { startApp } from './app.ts';
import { accessible, foot, seek, wedge } from './sheet.ts';
import { findingsOf } from '../db/cluster.ts';

const app = startApp();

describe('an issue to a job', () => {
	it('a job is added, closed and opened in Setup, and the page says who did it', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/jobs');
		await page.getByLabel('Code').fill('BRIDGE');
		await page.getByLabel('What it is').fill('Bridge lights');
		await page.getByLabel('Kind').selectOption('project');
		await page.getByRole('button', { name: 'Add job' }).click();
		await page
			.getByText(/customer/i)
			.first()
			.waitFor();
		await page.getByLabel('For the customer').selectOption({ index: 1 });
		await page.getByRole('button', { name: 'Add job' }).click();
		const row = page.locator('tr', { hasText: 'BRIDGE' });
		await row.first().waitFor();
		const [job] = await app.sql<
			{ customer: string }[]
		>`SELECT p.name AS customer FROM job j JOIN partner p ON p.id = j.partner_id WHERE j.code = 'BRIDGE'`;
		expect(await row.first().textContent()).toContain(job.customer);
		await accessible(page);
	});

	it('suggests, takes a scan, and books with the keyboard; a trace forward ends at the job with its customer', async () => {
		const [known] = await app.sql<{ number: string; item: string; site: string; other: string }[]>`
			SELECT min(k.number COLLATE natural_order) AS other, max(k.number COLLATE natural_order) AS number, i.code AS item, s.code AS site
			FROM balance b JOIN mark_now k ON k.id = b.mark_id AND k.kind = 'serial' AND k.status = 'released' JOIN item i ON i.id = k.item_id
			JOIN place p ON p.id = b.place_id AND NOT p.virtual JOIN place s ON s.id = coalesce(p.site_id, p.id) WHERE b.qty = 1 AND b.mark_id NOT IN (SELECT mark_id FROM promise)
				AND NOT EXISTS (SELECT 1 FROM pairing u JOIN mark_now s ON s.id = u.part_id AND s.status <> 'released' WHERE u.made_id = k.id AND NOT u.formerly)
			GROUP BY i.code, s.code HAVING count(*) > 3 ORDER BY count(*) DESC LIMIT 1`;
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/stock');
		await page.getByRole('link', { name: 'Issues to jobs' }).click();
		await page.getByRole('link', { name: 'New issue to a job' }).click();
		await seek(page, 'Job', 'BRIDGE');
		await page.getByLabel('From site').selectOption(known.site);
		await page.getByRole('combobox', { name: 'Item of line 1' }).fill(known.item);
		await page.keyboard.press('Tab');
		await page.getByLabel('Quantity of line 1').fill('2');
		await page.getByLabel('Quantity of line 1').press('Enter');
		await page.waitForURL(/\/stock\/issues\/JI-/);
		await foot(page).getByText('Nobody has looked at what is suggested in line 1.').waitFor();
		await accessible(page);
		// A scan says which one goes: what was suggested gives way to it.
		const line = page.getByRole('textbox', { name: 'Scan line' });
		await line.focus();
		await wedge(page, known.number);
		await page.getByRole('log').getByText(known.number).first().waitFor();
		await page.getByText('1 picked, 1 suggested of 2').waitFor();
		await line.focus();
		await wedge(page, known.other);
		await page.getByRole('log').getByText(known.other).first().waitFor();
		await foot(page).getByText('Nothing is missing').waitFor();
		await foot(page).getByRole('button', { name: 'Issue', exact: true }).waitFor();
		await page.keyboard.press('Control+Enter');
		await page.getByText(/Booked on \S+: \d/).waitFor();

		await page.goto(`${app.base}/find?q=${known.number}`);
		const [{ id }] = await app.sql<
			{ id: string }[]
		>`SELECT k.id FROM mark k JOIN item i ON i.id = k.item_id WHERE k.number = ${known.number} AND i.code = ${known.item}`;
		await page.goto(`${app.base}/register/${id}`);
		await page
			.getByText(/issued to|Bridge lights/)
			.first()
			.waitFor();
		await page.goto(`${app.base}/trace?mark=${id}&direction=forward`);
		await page
			.locator('tr', { hasText: known.number })
			.filter({ hasText: /Bridge lights, for / })
			.first()
			.waitFor();
	});

	it('is not offered to an auditor, and refused to one who asks anyway', async () => {
		const page = await app.signIn('auditor');
		await page.goto(app.base + '/stock/issues');
		expect(await page.getByRole('link', { name: 'New issue to a job' }).count()).toBe(0);
		expect((await page.request.get(app.base + '/stock/issues/new')).status()).toBe(403);
	});

	it('and the ledger holds', async () => expect(await findingsOf(app.sql)).toEqual([]));
});
