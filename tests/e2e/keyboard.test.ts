import type { Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { startApp } from './app.ts';
import { scan, toScanLine } from './sheet.ts';

const app = startApp();
/** Watches the focus: from the first key on, it must never fall to the page. */
const watch = (page: Page) =>
	page.addInitScript(() => {
		const w = window as unknown as { fell: string[] };
		w.fell = [];
		let last = '';
		addEventListener(
			'keydown',
			(e) => (last = `${e.key} in ${(e.target as HTMLElement).outerHTML?.slice(0, 90)}`),
			true
		);
		setInterval(() => {
			if (!document.documentElement.hasAttribute('data-live') || !last) return;
			const lost = document.activeElement === document.body || document.activeElement === null;
			// One look may fall between an act and where it leads; two in a row may not.
			if (lost && (w as unknown as { was: boolean }).was) w.fell.push(`after ${last}`);
			(w as unknown as { was: boolean }).was = lost;
		}, 250);
	});
const fell = (page: Page) => page.evaluate(() => (window as unknown as { fell: string[] }).fell);
const focused = (page: Page) =>
	page.evaluate(() => {
		const el = document.activeElement as HTMLElement;
		const label = el.id ? document.querySelector(`label[for="${CSS.escape(el.id)}"]`)?.textContent : '';
		const words = (t: string | null | undefined) => (t ?? '').replace(/\s+/g, ' ').trim();
		return words(el.getAttribute('aria-label') || label) || words(el.textContent) || el.tagName;
	});
/** Tabs on until something of this name has the focus. */
async function tabTo(page: Page, name: RegExp | string, most = 60) {
	const passed: string[] = [];
	for (let i = 0; i < most; i++) {
		const at = await focused(page);
		passed.push(at.slice(0, 40));
		if (typeof name === 'string' ? at === name : name.test(at)) return;
		await page.keyboard.press('Tab');
	}
	throw new Error(`${name} was not reached by Tab; it passed ${passed.join(' | ')}`);
}
/** Holds the page's script back, as on a slow line, until what is returned is called. */
async function holdBack(page: Page) {
	let go = () => {};
	const held = new Promise<void>((done) => (go = done));
	await page.route('**/_app/immutable/entry/*.js', async (r) => {
		await held;
		await r.continue();
	});
	return go;
}
const type = (page: Page, text: string) => page.keyboard.type(text, { delay: 40 });

describe('with the keyboard alone', () => {
	it('a delivery is received', async () => {
		const page = await app.signIn('tobi');
		await watch(page);
		await page.goto(app.base + '/');
		expect(await focused(page)).toBe('Scan line');
		await type(page, 'PO-2214');
		await page.keyboard.press('Enter');
		await page.waitForURL(/PO-2214/);
		await expect.poll(() => focused(page)).toBe('Lot');
		await type(page, 'L-KEYS');
		await page.keyboard.press('Enter');
		expect(await focused(page)).toBe('First serial, count');
		await type(page, 'KEY-0001, 40');
		await page.getByText('Enter adds 40: KEY-0001 … KEY-0040').waitFor();
		// Pressed twice, it enters the run once.
		await page.keyboard.press('Enter');
		await page.keyboard.press('Enter');
		await page.getByText('40 of 40').first().waitFor();
		await expect
			.poll(
				async () =>
					(await app.sql`SELECT 1 FROM draft_row d JOIN orders o ON o.id = d.order_id WHERE o.code = 'PO-2214'`).length
			)
			.toBe(1);
		await tabTo(page, /^Remove ?KEY-0001$/);
		await page.keyboard.press('Enter');
		await page.getByText('0 of 40').first().waitFor();
		expect(await focused(page)).not.toBe('BODY');
		await tabTo(page, 'First serial, count', 90);
		await type(page, 'KEY-0001, 40');
		await page.keyboard.press('Enter');
		await page.getByText('40 of 40').first().waitFor();
		await tabTo(page, 'Lot');
		await type(page, 'C-KEYS');
		await page.keyboard.press('Enter');
		expect(await focused(page)).toBe('Quantity, pcs');
		await type(page, '100');
		await page.keyboard.press('Enter');
		await page.getByText('Nothing is missing.').waitFor();
		await page.keyboard.press('Control+Enter');
		await page.getByText(/Booked on PO-2214: \d/).waitFor();
		expect(await focused(page)).toContain('Booked on PO-2214');
		expect(await fell(page)).toEqual([]);
	});
	it('an order is made', async () => {
		const page = await app.signIn('rhea');
		await watch(page);
		await page.goto(app.base + '/production');
		await tabTo(page, 'MO-732');
		await page.keyboard.press('Enter');
		await page.waitForURL(/MO-732/);
		await page
			.getByRole('button', { name: /Complete|Record/ })
			.first()
			.waitFor();
		await tabTo(page, /^Take the next lot of/, 90);
		await page.keyboard.press('Enter');
		await page.getByText(/drawn from/).waitFor();
		await expect.poll(() => focused(page)).not.toBe('BODY');
		expect(await fell(page)).toEqual([]);
	});
	it('an order is shipped', async () => {
		const page = await app.signIn('tobi');
		await watch(page);
		await page.goto(app.base + '/outbound');
		await tabTo(page, 'SO-3345');
		await page.keyboard.press('Enter');
		await page.waitForURL(/SO-3345/);
		await page.getByRole('button', { name: /Ship/ }).waitFor();
		const reason = page.getByLabel('Reason, kept in the ledger');
		if (await reason.count()) {
			await tabTo(page, 'Reason, kept in the ledger', 120);
			await type(page, 'agreed by telephone');
		}
		await page.keyboard.press('Control+Enter');
		// Nobody has looked at what is suggested: that is said once more, and its button has the focus.
		await page.getByRole('dialog').waitFor();
		await page.waitForFunction(() => document.activeElement?.textContent?.includes('Ship all of it'));
		await page.keyboard.press('Enter');
		await page.getByText(/Booked on SO-3345: \d/).waitFor();
		expect(await fell(page)).toEqual([]);
	});
	it('a lot is traced and put on hold: its form takes the focus and gives it back', async () => {
		const page = await app.signIn('ines');
		await watch(page);
		await page.goto(app.base + '/register');
		await toScanLine(page);
		await type(page, 'QR-26-0417');
		await page.keyboard.press('Enter');
		await page.waitForURL(/register\/\d+/);
		await tabTo(page, 'Put on hold…', 90);
		await page.keyboard.press('Enter');
		await expect.poll(() => focused(page)).toBe('Why, in one line; it is kept in the ledger');
		await type(page, 'looked odd');
		await tabTo(page, 'Cancel');
		await page.keyboard.press('Enter');
		await expect.poll(() => focused(page)).toBe('Put on hold…');
		for (let i = 0; i < 6 && (await focused(page)) !== 'Trace forward'; i++) await page.keyboard.press('Shift+Tab');
		await page.keyboard.press('Enter');
		await page.getByText('100 %').waitFor();
		await tabTo(page, /^By generation/, 90);
		await page.keyboard.press('Enter');
		await page.getByRole('columnheader', { name: 'Proven' }).waitFor();
		expect(await fell(page)).toEqual([]);
	});
	it('what is typed before the page answers is not lost', async () => {
		const page = await app.signIn('ines');
		const go = await holdBack(page);
		await page.evaluate((to) => (location.href = to), app.base + '/events');
		await page.getByRole('heading', { name: 'Everything booked' }).waitFor();
		await type(page, 'QR-26-0417');
		await page.keyboard.press('Enter');
		go();
		await page.waitForURL(/register\/\d+/);
	});
	it('what is scanned before the page answers is one scan, however slow the page is when it does', async () => {
		const page = await app.signIn('ines');
		const go = await holdBack(page);
		const slow = await page.context().newCDPSession(page);
		await slow.send('Emulation.setCPUThrottlingRate', { rate: 10 });
		await page.evaluate((to) => (location.href = to), app.base + '/events');
		await page.getByRole('heading', { name: 'Everything booked' }).waitFor();
		expect(await page.locator('html[data-live]').count()).toBe(0);
		await scan(page, 'QR-26-0417');
		go();
		await page.waitForURL(/register\/\d+/);
		await page.getByRole('heading', { name: /QR-26-0417/ }).waitFor();
	});
	it('a number that is not known offers what comes near it', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/');
		for (const typed of ['QR-26-0471', 'QR-26-047', 'QR-26-O4I8', 'QR-26-0418']) {
			await page.getByLabel('Scan line').fill(typed);
			await page.keyboard.press('Enter');
			await page.getByText('The nearest:').waitFor();
			await page
				.getByRole('search', { name: 'Scan or find anything' })
				.getByRole('link', { name: /QR-26-0417/ })
				.waitFor();
			await page.keyboard.press('Escape');
		}
	});
});

describe('what a screen reader hears', () => {
	it('of a sheet: each cell by its column and its row', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/inbound/PO-2216');
		const group = page.getByRole('group', { name: 'Enter numbers for Glass membrane' });
		for (const n of [1, 2]) {
			await group.getByLabel('Lot', { exact: true }).fill(`HEARD-${n}`);
			await group.getByLabel('Lot', { exact: true }).press('Enter');
			await group.getByLabel('Quantity, pcs').fill('3');
			await group.getByLabel('Quantity, pcs').press('Enter');
			await page.getByRole('textbox', { name: `Lot, row ${n}`, exact: true }).waitFor();
		}
		await page.getByRole('table', { name: 'Glass membrane: entered' }).waitFor();
		await page.getByRole('textbox', { name: 'Quantity, row 2', exact: true }).waitFor();
		await page.getByRole('button', { name: 'Remove HEARD-1' }).waitFor();
	});
	it('of a tag, a life line and the stages of a trace', async () => {
		const page = await app.signIn('ines');
		const [{ id }] = await app.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'QR-26-0417'`;
		await page.goto(`${app.base}/register/${id}`);
		expect(await page.getByRole('heading', { level: 1 }).ariaSnapshot()).toMatch(/QR-26-0417.*DPD powder/s);
		const life = await page.getByRole('figure', { name: /^Life of/ }).ariaSnapshot();
		expect(life).toMatch(/received/);
		await page.goto(`${app.base}/trace?mark=${id}&direction=forward`);
		const stages = page.getByRole('figure', { name: /^Stages/ });
		expect(await stages.ariaSnapshot()).toMatch(/QR-26-0417/);
	});
});
