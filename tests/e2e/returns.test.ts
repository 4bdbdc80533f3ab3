import { describe, expect, it } from 'vitest';
import { findingsOf } from '../db/cluster.ts';
import { startApp } from './app.ts';
import { accessible, foot, scan } from './sheet.ts';

const app = startApp();
/** Serials that a customer has, the latest first. */
const withCustomer = (partner: string, item: string, count: number) => app.sql<{ id: string; number: string }[]>`
	SELECT k.id, k.number FROM customer_has h JOIN partner q ON q.id = h.partner_id AND q.code = ${partner} JOIN mark k ON k.id = h.mark_id AND k.kind = 'serial'
	JOIN item i ON i.id = k.item_id AND i.code = ${item} WHERE h.qty > 0 AND k.id::text NOT IN (SELECT data ->> 'mark' FROM draft_row WHERE data ? 'mark') ORDER BY h.shipped_at DESC, k.id DESC LIMIT ${count}`;
const placesOf = async (id: string) =>
	(
		await app.sql<
			{ code: string }[]
		>`SELECT p.code FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = ${id} AND b.qty > 0`
	).map((p) => p.code);

describe('taking back from a customer', () => {
	it('what is scanned makes its lines; each is looked over, and goes its way; the credit is ticked off', async () => {
		const [held, broken] = await withCustomer('SKEN', 'WM', 2);
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/inbound');
		await page.getByRole('link', { name: 'Returns from customers' }).click();
		await page.getByRole('link', { name: 'Take back from a customer' }).click();
		await page.waitForURL(/returns\/new/);
		await page.getByRole('combobox', { name: 'Customer' }).fill('Sken');
		for (const key of ['ArrowDown', 'Enter', 'Tab']) await page.keyboard.press(key);
		await page.getByLabel('Arrives at').selectOption('QS/QC');
		await page.getByLabel('Reason').selectOption('Faulty');
		await page.getByRole('button', { name: 'Next: enter what came back' }).click();
		await page.waitForURL(/\/inbound\/returns\/RT-/);
		await page.locator('html[data-live]').waitFor();
		await scan(page, held.number);
		await page.getByLabel(`What becomes of ${held.number}`).waitFor();
		// The second without a scanner.
		await page.getByLabel('Scan or type a number').fill(broken.number);
		await page.keyboard.press('Enter');
		await page.getByLabel(`What becomes of ${broken.number}`).waitFor();
		await page.getByLabel('Scan or type a number').fill('NOBODY-1');
		await page.keyboard.press('Enter');
		await page.getByText('No lot or serial is called NOBODY-1').first().waitFor();
		await foot(page).getByText('say what becomes of them').waitFor();
		expect(await foot(page).getByRole('button', { name: 'Take back' }).isDisabled()).toBe(true);
		await accessible(page);
		await page.getByLabel(`Found on ${held.number}`).fill('Reads 0.3 too high');
		await page.getByLabel(`Found on ${held.number}`).press('Tab');
		await page.getByLabel(`What becomes of ${held.number}`).selectOption('on hold');
		await page.getByLabel(`What becomes of ${broken.number}`).selectOption('scrapped');
		await foot(page).getByText('Nothing is missing').waitFor();
		await page.keyboard.press('Control+Enter');
		await page.getByText(/Booked on RT-\S+: 2 serials/).waitFor();
		expect(await placesOf(held.id)).toEqual(['QS/QC']);
		expect(await placesOf(broken.id)).toEqual(['@scrap']);
		await page.getByRole('button', { name: /^Tick off/ }).click();
		await page.getByLabel(/What came of it/).fill('CN-900');
		await page.getByRole('button', { name: 'It is done' }).click();
		await page.getByText('CN-900').waitFor();
		await page.getByText('all done').waitFor();
		await accessible(page);
		// The number says why it came back, and what was found.
		await page.goto(`${app.base}/register/${held.id}`);
		await page
			.getByText(/Faulty: Reads 0.3 too high, on hold/)
			.first()
			.waitFor();
	});

	it('from a number’s page the customer and the number stand there already', async () => {
		const [unit] = await withCustomer('LINDOW', 'WM', 1);
		const page = await app.signIn('tobi');
		await page.goto(`${app.base}/register/${unit.id}`);
		await page.getByRole('link', { name: 'Take back…' }).click();
		await page.waitForURL(/returns\/new/);
		expect(await page.getByRole('combobox', { name: 'Customer' }).inputValue()).toBe('Upper Lindow Schools Pool');
		await page.getByLabel('Reason').selectOption('Wrong goods sent');
		await page.getByRole('button', { name: 'Next: enter what came back' }).click();
		await page.waitForURL(/\/inbound\/returns\/RT-/);
		await page.getByLabel(`What becomes of ${unit.number}`).selectOption('into stock');
		await foot(page).getByText('Nothing is missing').waitFor();
		await foot(page).getByRole('button', { name: 'Take back' }).click();
		await page.getByText(/Booked on RT-\S+: 1 serial/).waitFor();
	});

	it('at 400 px the box on the bench can be looked over; who only reads sees and changes nothing', async () => {
		const page = await app.signIn('auditor');
		await page.goto(app.base + '/inbound/returns/RT-130');
		await page.getByRole('heading', { level: 1 }).getByText('Faulty: RT-130').waitFor();
		expect(await page.getByLabel('Scan or type a number').count()).toBe(0);
		expect((await page.request.get(app.base + '/inbound/returns/new')).status()).toBe(403);
		const tobi = await app.signIn('tobi');
		await tobi.setViewportSize({ width: 400, height: 800 });
		await tobi.goto(app.base + '/inbound/returns/RT-130');
		await tobi.getByText('2 not looked over yet').waitFor();
		await tobi.getByRole('button', { name: 'on hold', exact: true }).click();
		await foot(tobi).getByText('Nothing is missing').waitFor();
		expect(await tobi.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(400);
	});
});

describe('sending back to a supplier', () => {
	it('from what was booked of a delivery, with a packing list; what is owed stays to be done', async () => {
		const page = await app.signIn('tobi');
		const [order] = await app.sql<{ code: string }[]>`
			SELECT o.code FROM orders o JOIN event e ON e.order_id = o.id AND e.kind = 'receipt' JOIN movement m ON m.event_id = e.id
			JOIN balance b ON b.mark_id = m.mark_id AND b.place_id = m.to_place AND b.qty = m.qty WHERE NOT EXISTS (SELECT 1 FROM promise p WHERE p.mark_id = m.mark_id) ORDER BY e.id DESC LIMIT 1`;
		await page.goto(`${app.base}/inbound/${order.code}`);
		await page.getByRole('link', { name: /^Send back…/ }).click();
		await page.waitForURL(/outbound\/returns\/new/);
		await page.getByLabel('Reason').selectOption('Faulty on arrival');
		await page.getByRole('button', { name: 'Next: enter numbers' }).click();
		await page.waitForURL(/\/outbound\/returns\/SR-/);
		await foot(page).getByRole('button', { name: 'Send back' }).and(page.locator(':enabled')).waitFor();
		await accessible(page);
		await page.keyboard.press('Control+Enter');
		await page.getByText(/Booked on SR-\S+: \d/).waitFor();
		const paper = page.getByRole('link', { name: 'Packing list (PDF)' });
		const pdf = await page.request.get(app.base + (await paper.getAttribute('href')));
		expect(pdf.headers()['content-type']).toBe('application/pdf');
		await page.getByRole('cell', { name: 'Credit or replacement received', exact: true }).waitFor();
	});
});

it('leaves a ledger that adds up', async () => {
	expect(await findingsOf(app.sql)).toEqual([]);
});
