import { expect, it } from 'vitest';
import { findingsOf } from '../db/cluster.ts';
import { startApp } from './app.ts';
import { accessible, entry, foot } from './sheet.ts';

const app = startApp();

it('an item comes to carry serials: what lies there is numbered bin by bin, as many as there are pieces', async () => {
	const bins = await app.sql<{ place: string; qty: number }[]>`
		SELECT p.code AS place, sum(b.qty)::int AS qty FROM balance b JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id AND i.code = 'CAP' JOIN place p ON p.id = b.place_id
		WHERE b.qty > 0 AND NOT b.virtual GROUP BY p.code ORDER BY 1`;
	const page = await app.signIn('ines');
	await page.goto(app.base + '/setup/items/CAP');
	await page.locator('html[data-live]').waitFor();
	await page.getByLabel('Carries').selectOption('from now on serial');
	await page.getByRole('button', { name: 'Save' }).first().click();
	await page.getByText('on hand have no number of it yet').waitFor();
	await page.goto(app.base + '/stock/numbering');
	await page.getByRole('link', { name: 'Number what lies there' }).first().click();
	await page.waitForURL(/numbering\/new/);
	await page.locator('html[data-live]').waitFor();
	await accessible(page);
	await page.getByRole('button', { name: /^Number it bin by bin.*CAP/ }).click();
	await page.waitForURL((url) => !url.pathname.endsWith('/new'));
	const made = await app.sql<{ code: string; place: string; qty: number }[]>`
		SELECT o.code, p.code AS place, l.qty::int AS qty FROM orders o JOIN place p ON p.id = o.place_id JOIN order_line l ON l.order_id = o.id JOIN item i ON i.id = l.item_id AND i.code = 'CAP' WHERE o.kind = 'numbering' ORDER BY p.code`;
	expect(made.map(({ place, qty }) => ({ place, qty }))).toEqual([...bins]);
	const [first] = made;
	await page.goto(`${app.base}/stock/numbering/${first.code}`);
	await page.locator('html[data-live]').waitFor();
	// Too many: said, and nothing is booked.
	const field = entry(page, 'Caps').first().getByLabel('First serial, count');
	await field.fill(`KA-0001, ${first.qty + 1}`);
	await field.press('Enter');
	await foot(page)
		.getByText(`${first.qty.toLocaleString('en')} lie at ${first.place} without`)
		.waitFor();
	expect(
		await foot(page)
			.getByRole('button', { name: /^Number/ })
			.isDisabled()
	).toBe(true);
	await page
		.getByRole('button', { name: /^Remove/ })
		.first()
		.click();
	await field.fill(`KA-0001, ${first.qty}`);
	await field.press('Enter');
	await foot(page).getByText('Nothing is missing').waitFor();
	await accessible(page);
	await page.keyboard.press('Control+Enter');
	await page
		.getByText(/^Booked on/)
		.first()
		.waitFor();
	const [{ n }] = await app.sql<{ n: number }[]>`
		SELECT count(*)::int AS n FROM mark k JOIN item i ON i.id = k.item_id AND i.code = 'CAP' JOIN balance b ON b.mark_id = k.id AND b.qty = 1 JOIN place p ON p.id = b.place_id AND p.code = ${first.place} WHERE k.kind = 'serial'`;
	expect(n).toBe(first.qty);
	// A piece that was given its number has no parts by that: it is in no list of what is in what.
	const asked = await fetch(`${app.base}/api/v1/pairings?item=CAP&serial=KA-0001`, {
		headers: { authorization: `Bearer ${await app.token('auditor')}` }
	});
	expect([asked.status, ((await asked.json()) as { rows: unknown[] }).rows]).toEqual([200, []]);
	await page.goto(`${app.base}/trace/contents?find=KA-0001`);
	await page
		.getByText(/^0 rows|No |Nothing/)
		.first()
		.waitFor();
	expect(await page.getByRole('cell', { name: 'KA-0001' }).count()).toBe(0);
	expect(await findingsOf(app.sql)).toEqual([]);
});
