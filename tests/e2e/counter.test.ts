import type { Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { findingsOf } from '../db/cluster.ts';
import { words } from '../pdf.ts';
import { startApp } from './app.ts';
import { accessible, foot, scan } from './sheet.ts';

const app = startApp();
/** Serials at a site that nobody holds, the first of them. */
const free = (item: string, count: number) => app.sql<{ id: string; number: string; place: string }[]>`
	SELECT k.id, k.number, p.code AS place FROM mark_now k JOIN item i ON i.id = k.item_id AND i.code = ${item} JOIN balance b ON b.mark_id = k.id AND b.qty > 0 JOIN place p ON p.id = b.place_id AND p.code LIKE 'QS/%'
	WHERE k.kind = 'serial' AND k.status = 'released' AND k.id::text NOT IN (SELECT data ->> 'mark' FROM draft_row WHERE data ? 'mark')
		AND NOT EXISTS (SELECT 1 FROM promise_now n WHERE n.mark_id = k.id)
		-- Nor what holds a part that is stopped: that asks a reason.
		AND NOT EXISTS (SELECT 1 FROM pairing u JOIN mark_now s ON s.id = u.part_id AND s.status <> 'released' WHERE u.made_id = k.id AND NOT u.formerly) ORDER BY k.number DESC LIMIT ${count}`;
const at = async (id: string) =>
	(
		await app.sql<
			{ code: string }[]
		>`SELECT p.code FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = ${id} AND b.qty > 0`
	).map((p) => p.code);
async function paper(page: Page, name: RegExp): Promise<string> {
	const href = await page.getByRole('link', { name }).first().getAttribute('href');
	return words(new Uint8Array(await (await page.request.get(app.base + href)).body()));
}
/** Signs with the mouse. */
async function sign(page: Page, name: string) {
	await page.getByLabel('Name of who signs').fill(name);
	const field = (await page.locator('canvas').boundingBox())!;
	await page.mouse.move(field.x + 30, field.y + 60);
	await page.mouse.down();
	for (let i = 1; i < 20; i++) await page.mouse.move(field.x + 30 + i * 9, field.y + 60 + (i % 3) * 20);
	await page.mouse.up();
	await page.getByText('Signed.', { exact: true }).waitFor();
}
async function newSale(page: Page) {
	await page.goto(app.base + '/outbound/counter/new');
	await page.getByLabel('Counter at').selectOption('QS');
	await page.getByRole('button', { name: 'Next: enter numbers' }).click();
	await page.waitForURL(/counter\/CS-/);
	await page.locator('html[data-live]').waitFor();
	return page.url().split('/').pop()!;
}

describe('at the counter', () => {
	it('three scans and one press; later each is found with its note in two', async () => {
		const units = await free('FK', 3);
		const page = await app.signIn('tobi');
		const sold = await newSale(page);
		for (const u of units) await scan(page, u.number);
		await page.getByText('3 of 3 here').waitFor();
		await accessible(page);
		await page.keyboard.press('Control+Enter');
		await page.getByText('Handed over.').waitFor();
		for (const u of units) expect(await at(u.id)).toEqual(['@customer']);
		await accessible(page);
		const note = await paper(page, /Print the delivery note/);
		for (const says of ['Delivery note', units[0].number, 'whoever took it']) expect(note).toContain(says);
		// The next customer, and one who comes back with hers.
		await page.getByRole('button', { name: 'Next sale' }).click();
		await page.getByText('Nothing is entered yet').waitFor();
		await page.goto(app.base + '/outbound');
		await page.locator('html[data-live]').waitFor();
		await scan(page, units[1].number);
		await page.waitForURL(/\/register\/\d+/);
		expect(await paper(page, /delivery note \(PDF\)/)).toContain(sold);
	});

	it('works only while it is connected: what was scanned without is refused and not kept', async () => {
		const [unit] = await free('FK', 1);
		const page = await app.signIn('tobi');
		const code = await newSale(page);
		await page.context().setOffline(true);
		await scan(page, unit.number);
		await page.getByText(`${unit.number} was not taken`).waitFor();
		await page.context().setOffline(false);
		await page.reload();
		await page.locator('html[data-live]').waitFor();
		await page.getByText('Nothing is entered yet').waitFor();
		expect(
			await app.sql`SELECT 1 FROM draft_row d JOIN orders o ON o.id = d.order_id WHERE o.code = ${code}`
		).toHaveLength(0);
	});

	it('with a customer, a warranty, a price, and the terms and the receipt signed, on a telephone’s width', async () => {
		const [unit] = await free('WM', 1);
		const page = await app.signIn('tobi');
		await page.setViewportSize({ width: 400, height: 800 });
		await newSale(page);
		await page.getByRole('combobox', { name: 'Customer' }).fill('Carraway');
		for (const key of ['ArrowDown', 'Enter', 'Tab']) await page.keyboard.press(key);
		await page.getByText('counter at QS · Carraway Pools').waitFor();
		await page.getByLabel('Scan or type a number').fill(unit.number);
		await page.keyboard.press('Enter');
		await page.getByLabel('Warranty, line 1').selectOption('36 months');
		await page.getByLabel('Price, line 1').fill('249.00');
		await page.getByLabel('Price, line 1').press('Tab');
		await page.getByRole('button', { name: 'Sign the terms…' }).click();
		const keep = page.getByRole('button', { name: 'Keep the signature' });
		expect(await keep.isDisabled()).toBe(true);
		await page.getByLabel('Name of who signs').fill('Ada Brook');
		// A name without a signature is none.
		expect(await keep.isDisabled()).toBe(true);
		await sign(page, 'Ada Brook');
		await accessible(page);
		await keep.click();
		await page.getByRole('link', { name: 'signed by Ada Brook' }).waitFor();
		const terms = await paper(page, /signed by Ada Brook/);
		for (const says of ['Terms of sale', '36 months', '249.00', 'Agreed to by Ada Brook', 'Goods stay ours'])
			expect(terms).toContain(says);
		await foot(page).getByRole('button', { name: 'Hand over' }).click();
		await page.getByText('Handed over.').waitFor();
		await page.getByRole('button', { name: /^Sign for it/ }).click();
		await sign(page, 'Bo Lake');
		await keep.click();
		await page.getByText('signed by Bo Lake').waitFor();
		expect(await paper(page, /Print the delivery note/)).toContain('Received by Bo Lake');
		expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(400);
	});
});

describe('swapping', () => {
	it('before and after it has gone: two actions, and one more to say that it is meant; the papers say so', async () => {
		const units = await free('FK', 3);
		const page = await app.signIn('tobi');
		await newSale(page);
		await scan(page, units[0].number);
		await page.getByText('1 of 1 here').waitFor();
		// Two presses.
		await page.getByRole('button', { name: `Swap… ${units[0].number}` }).click();
		await page.getByRole('button', { name: `Take ${units[1].number}` }).click();
		await page.getByText('Swapped: the other number goes.').waitFor();
		await page.keyboard.press('Control+Enter');
		await page.getByText('Handed over.').waitFor();
		expect(await at(units[0].id)).toEqual([units[0].place]);
		expect(await at(units[1].id)).toEqual(['@customer']);
		// A press and a scan, and a press that says it is meant: what has gone comes back by it.
		await page.getByRole('button', { name: `Swap… ${units[1].number}, which was handed over` }).click();
		await page.getByText('What goes in its place?').waitFor();
		await scan(page, units[2].number);
		await page.getByText(`${units[1].number} comes back to ${units[1].place}, and`).waitFor();
		expect(await at(units[2].id)).toEqual([units[2].place]);
		await page.getByRole('dialog').getByRole('button', { name: 'Swap', exact: true }).click();
		await page.getByText('Swapped: the one came back').waitFor();
		expect(await at(units[1].id)).toEqual([units[1].place]);
		expect(await at(units[2].id)).toEqual(['@customer']);
		await page.getByText(`replaces ${units[1].number}`).waitFor();
		await page.getByRole('cell', { name: 'swapped' }).waitFor();
		expect(await paper(page, /^Delivery note/)).toContain(`replaces ${units[1].number}`);
		await accessible(page);
	});
});

describe('goods, payment, numbers, invoices', () => {
	it('an order that is signed and paid shows each for itself, and a number that is chosen is given', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/outbound/SO-3350');
		await page.locator('html[data-live]').waitFor();
		const progress = page.locator('dl.progress');
		await progress.getByText('Transfer 80-4711').waitFor();
		expect((await progress.innerText()).replace(/\s+/g, ' ')).toMatch(
			/Goods to ship .*Numbers to assign .*signed by Hanna Wick/
		);
		await progress.getByRole('button', { name: 'Note a payment…' }).click();
		await page.getByLabel('How, or its number').fill('Cash, 10');
		await page.getByRole('button', { name: 'Note it' }).click();
		await progress.getByText('Cash, 10').waitFor();
		await page
			.getByRole('button', { name: /^Swap…/ })
			.first()
			.click();
		await page
			.getByRole('button', { name: /^Take WM-/ })
			.first()
			.click();
		await page.getByText('Swapped').waitFor();
		await progress.getByText('assigned', { exact: true }).waitFor();
		await accessible(page);
	});
	it('what is shipped and not invoiced is listed until its invoice is noted', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/outbound/CS-1'.replace('/CS', '/counter/CS'));
		await page.locator('html[data-live]').waitFor();
		await page.getByRole('button', { name: /^2 lines not invoiced/ }).click();
		await page.getByRole('button', { name: 'Note an invoice…' }).click();
		await page.getByLabel('Number of the invoice').fill('INV-77');
		await page.getByRole('button', { name: 'Note it' }).click();
		await page.getByRole('button', { name: 'Invoiced: all that was shipped' }).waitFor();
		await accessible(page);
		await page.goto(app.base + '/outbound/invoices');
		await page.getByRole('link', { name: 'CS-2' }).waitFor();
		expect(await page.getByRole('link', { name: 'CS-1' }).count()).toBe(0);
		await page.goto(app.base + '/outbound/counter/CS-1');
		await page.locator('html[data-live]').waitFor();
		await page.getByRole('button', { name: /^Invoiced: all/ }).click();
		await page.getByRole('button', { name: 'Withdraw invoice INV-77' }).click();
		await page.getByRole('button', { name: /^2 lines not invoiced/ }).waitFor();
	});
	it('what customers sign is written in Setup', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/terms');
		await page.locator('html[data-live]').waitFor();
		await page.getByLabel('Terms of sale').fill('Pay within ten days.');
		await page.getByRole('button', { name: 'Save the terms' }).click();
		await page.getByText('Who signs from now on agrees to these').waitFor();
		await accessible(page);
	});
});

describe('several orders of one customer', () => {
	it('go with one press, as one event, and each says so', async () => {
		const units = await free('FK', 2);
		const page = await app.signIn('tobi');
		for (const [n, u] of units.entries()) {
			const made = await page.request.post(`${app.base}/outbound/new`, {
				headers: { origin: app.base },
				form: {
					code: `SO-T${n}`,
					partner: 'BRANDLEMOUTH',
					place: 'QS',
					dueOn: '',
					note: '',
					lines: JSON.stringify([{ item: 'FK', qty: '1' }])
				}
			});
			expect(made.ok()).toBe(true);
			await page.goto(`${app.base}/outbound/SO-T${n}`);
			await page.locator('html[data-live]').waitFor();
			await scan(page, u.number);
			await page.getByText('scanned').first().waitFor();
		}
		await page.getByRole('link', { name: /^Ship together with/ }).click();
		await page.waitForURL(/together/);
		await page.locator('html[data-live]').waitFor();
		await page.getByText(units[0].number).first().waitFor();
		await page.getByText(units[1].number).first().waitFor();
		for (const box of await page.getByRole('group', { name: /^With/ }).getByRole('checkbox').all())
			if (
				(await box.isChecked()) &&
				!(await box.evaluate((e) => e.closest('.bx--checkbox-wrapper')?.textContent))?.includes('SO-T0')
			)
				await box.evaluate((e: HTMLElement) => e.click());
		await page.getByRole('button', { name: 'Ship 2 orders' }).waitFor();
		await accessible(page);
		await page.getByRole('button', { name: 'Ship 2 orders' }).click();
		await page.waitForURL(/SO-T1$/);
		expect(await paper(page, /^Delivery note/)).toMatch(/SO-T1, SO-T0|SO-T0, SO-T1/);
		await page.goto(app.base + '/outbound/SO-T0');
		await page.getByRole('link', { name: 'Delivery note (PDF)' }).waitFor();
	});
});

it('and the ledger holds', async () => {
	expect(await findingsOf(app.sql)).toEqual([]);
});
