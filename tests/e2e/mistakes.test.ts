import { parseDay, showDay } from '../../src/lib/core/dates/dates.ts';
import type { Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { startApp } from './app.ts';
import { entry, foot, paste, seek, type } from './sheet.ts';

const app = startApp();
/** A field of a row that holds this. */
const holding = (page: Page, value: string) =>
	page.waitForFunction(
		(v) => [...document.querySelectorAll('td input')].some((i) => (i as HTMLInputElement).value === v),
		value
	);
const events = async () => (await app.sql<{ n: number }[]>`SELECT count(*)::int AS n FROM event`)[0].n;
/** What the rule of chemicals asks besides: typed, each with Enter. */
const papers = async (page: Page, temperature = '5') => {
	await type(page, 'Buffer salt', 'Certificate no.', 'CoA-1');
	await type(page, 'Buffer salt', 'Temperature on arrival', temperature);
};

describe('mistakes at a delivery', () => {
	it('a wrong date, a negative and an over-precise quantity, a text of 10,000 characters: each says what and how, none is booked', async () => {
		const page = await app.signIn('tobi');
		const before = await events();
		await page.goto(app.base + '/inbound/PO-2215');
		const salt = async (lot: string, qty: string, expires: string) => {
			await type(page, 'Buffer salt', 'Lot', lot);
			await type(page, 'Buffer salt', 'Quantity, kg', qty);
			await type(page, 'Buffer salt', 'Expires', expires);
			await papers(page);
		};
		await salt('B-1', '25', '31.02.2027');
		await page
			.getByText('Expiry: There is no 31.02.2027 in the calendar. Type it as 31 Mar 2027 or 2027-03-31.')
			.first()
			.waitFor();
		await salt('B-2', '-5', '2027-03-31');
		await page.getByText('-5 is below zero. A quantity is more than zero.').first().waitFor();
		await salt('B-3', '1.2345', '2027-03-31');
		await page.getByText('1.2345 has 4 decimals; kg has 3.').first().waitFor();
		await salt('X'.repeat(10_000), '1', '2027-03-31');
		await page
			.getByText(/has 200 characters; a number has at most 60/)
			.first()
			.waitFor();
		await salt('B-4', '1', '2020-01-01');
		await page.getByText('Expired on 1 Jan 2020. Say why it is taken in, or send it back.').first().waitFor();
		await salt('B-5', '1', '');
		await page.getByText('Lot B-5 needs an expiry date at receipt. Type it from the label.').first().waitFor();
		expect(await foot(page).getByRole('button', { name: 'Book in' }).isDisabled()).toBe(true);
		await page.keyboard.press('Control+Enter');
		expect(await events()).toBe(before);
		// Everything typed is still there after a reload, mistakes and all.
		await page.reload();
		await page.getByText('1.2345 has 4 decimals; kg has 3.').first().waitFor();
		for (;;) {
			const n = await page.getByRole('button', { name: /^Remove/ }).count();
			if (!n) break;
			await page
				.getByRole('button', { name: /^Remove/ })
				.first()
				.click();
			await page.waitForFunction(
				(k) =>
					[...document.querySelectorAll('button')].filter((b) => b.textContent!.trim().startsWith('Remove')).length < k,
				n
			);
		}
	});

	it('half a delivery is booked, with the reason that one finding asks for; the rest stays expected', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/inbound/PO-2215');
		await type(page, 'Buffer salt', 'Lot', 'B-PART');
		await type(page, 'Buffer salt', 'Quantity, kg', '30');
		await type(page, 'Buffer salt', 'Expires', '2026-01-31');
		await papers(page);
		await foot(page)
			.getByText(/expired on 31 Jan 2026/)
			.waitFor();
		// Each kind of finding is given its own reason; nothing is booked before all of them are said.
		await foot(page).getByRole('button', { name: 'Book in…' }).click();
		const dialog = page.getByRole('dialog');
		const button = dialog.getByRole('button', { name: 'Book in' });
		expect(await button.isDisabled()).toBe(true);
		await dialog.getByLabel(/expired on 31 Jan 2026/).fill('for the drains only');
		expect(await button.isDisabled()).toBe(true);
		for (const field of await dialog.getByPlaceholder('Why, kept in the ledger').all())
			if (!(await field.inputValue())) await field.fill('it is what they had');
		await button.click();
		await page.getByText(/Booked on \S+: \d/).waitFor();
		await foot(page).getByText('Line 1: 20 kg missing').waitFor();
		const [event] = await app.sql<{ reason: string }[]>`SELECT reason FROM event WHERE document = 'PO-2215'`;
		expect(event.reason).toMatch(
			/expired on 31 Jan 2026.*: for the drains only.*it is what they had|it is what they had.*: for the drains only/
		);
	});

	it('a pasted column with blanks and duplicates: runs are folded, each duplicate is named', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/inbound/PO-2214');
		await entry(page, 'Sensor board VB').getByLabel('Lot', { exact: true }).fill('26W46-A');
		await paste(page, 'Sensor board VB', 'First serial, count', 'VB-8001\nVB-8002\n\nVB-8003\nVB-8002\n   \nVB-7401\n');
		await page.getByText('5 numbers read, 2 blank lines skipped.').waitFor();
		await page.getByText('VB-8001 … VB-8003').first().waitFor();
		await page.getByText('VB-8002 stands here twice. Remove one.').first().waitFor();
		await page
			.getByText(/VB-7401 was built in on .*Check the number\./)
			.first()
			.waitFor();
		await page.getByRole('button', { name: 'Remove VB-7401' }).click();
		await page
			.getByText(/VB-7401 was built in on/)
			.first()
			.waitFor({ state: 'detached' });
		await page.getByRole('button', { name: 'Remove VB-8002' }).click();
		await foot(page).getByText('Line 1: 37 serials missing').waitFor();
	});

	it('too many ask for a reason', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/inbound/PO-2214');
		await type(page, 'Battery cell BC', 'Lot', 'C-OVER');
		await type(page, 'Battery cell BC', 'Quantity, pcs', '120');
		await foot(page).getByText('Line 2: 20 more than ordered: say why, or remove them').waitFor();
	});

	it('two people in one delivery see each other’s rows arrive, and never overwrite each other', async () => {
		const [tobi, ines] = [await app.signIn('tobi'), await app.signIn('ines')];
		await Promise.all([tobi, ines].map((p) => p.goto(app.base + '/inbound/PO-2216')));
		await type(tobi, 'Glass membrane', 'Lot', 'M-1');
		await type(tobi, 'Glass membrane', 'Quantity, pcs', '10');
		const row = (p: Page) =>
			p.locator('section', { hasText: 'Glass membrane' }).getByRole('textbox', { name: /^Quantity, row/ });
		await row(ines).waitFor();
		await ines.getByText('entered by Tobi Marsh').waitFor();
		// Ines holds an older version: her connection was away while Tobi changed the row.
		await ines.route('**/live', (r) => r.abort());
		await ines.route('**/sheet?*', (r) => (r.request().method() === 'GET' ? r.abort() : r.continue()));
		await ines.evaluate(() => (window.EventSource = class {} as never));
		await ines.context().setOffline(true);
		await row(tobi).fill('12');
		await row(tobi).press('Tab');
		await foot(tobi).getByText('Line 2: 12 missing').waitFor();
		await row(ines).fill('15');
		await row(ines).press('Tab');
		await foot(ines)
			.getByText(/Earmark does not answer/)
			.waitFor();
		await ines.unroute('**/sheet?*');
		await ines.context().setOffline(false);
		await ines.getByText(/Tobi Marsh changed this row on .* Theirs stands/).waitFor();
		expect(await row(tobi).inputValue()).toBe('12');
		await ines.waitForFunction(
			() => (document.querySelector('input[aria-label^="Quantity, row"]') as HTMLInputElement)?.value === '12'
		);
	});

	it('a session that ended while typing: said plainly, kept, and saved after signing in again', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/inbound/PO-2216');
		await app.sql`DELETE FROM session`;
		await type(page, 'Amber bottle 30 mL', 'Lot', 'OB-LATE');
		await type(page, 'Amber bottle 30 mL', 'Quantity, pcs', '500');
		await foot(page).getByText('Your session has ended. What you typed is kept; sign in again to save it.').waitFor();
		const [tab] = await Promise.all([
			page.context().waitForEvent('page'),
			foot(page).getByRole('link', { name: 'Sign in' }).click()
		]);
		await tab.getByLabel('Sign-in name').fill('tobi');
		await tab.getByLabel('Password', { exact: true }).fill('pellwater-2026');
		await tab.getByRole('button', { name: 'Sign in' }).click();
		await tab.waitForURL(app.base + '/');
		await tab.close();
		await holding(page, 'OB-LATE');
		const [{ n }] = await app.sql<
			{ n: number }[]
		>`SELECT count(*)::int AS n FROM draft_row WHERE data ->> 'lot' = 'OB-LATE'`;
		expect(n).toBe(1);
	});

	it('a killed server loses nothing that was shown as saved', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/inbound/PO-2216');
		await type(page, 'Amber bottle 30 mL', 'Lot', 'OB-KILL');
		await type(page, 'Amber bottle 30 mL', 'Quantity, pcs', '100');
		await holding(page, 'OB-KILL');
		await app.restart();
		await page.reload();
		await holding(page, 'OB-KILL');
	});
});

describe('orders', () => {
	it('a line that is removed takes nothing of the lines after it along', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/inbound/new');
		await page.getByRole('button', { name: 'Add a line' }).click();
		await seek(page, 'Item of line 1', 'case shell');
		await seek(page, 'Item of line 2', 'battery');
		await page.getByLabel('Quantity of line 1').fill('11');
		await page.getByLabel('Quantity of line 2').fill('22');
		await page.getByRole('button', { name: 'Remove' }).first().click();
		const item = page.getByRole('combobox', { name: 'Item of line 1' });
		await expect.poll(() => item.inputValue()).toBe('CELL');
		expect(await page.getByLabel('Quantity of line 1').inputValue()).toBe('22');
		const sent = JSON.parse(await page.locator('input[name=lines]').inputValue());
		expect(sent).toEqual([{ item: 'CELL', qty: '22' }]);
		// What was chosen can be typed over, and stays typed.
		await item.fill('BOARD');
		await page.getByLabel('Quantity of line 1').click();
		await page.waitForTimeout(300);
		expect(await item.inputValue()).toBe('BOARD');
		expect(JSON.parse(await page.locator('input[name=lines]').inputValue())).toEqual([{ item: 'BOARD', qty: '22' }]);
	});
	it('a delivery without an order can be entered, numbered and booked', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/inbound/new');
		await seek(page, 'Supplier', 'dunmarrow');
		await page.getByLabel('Arrives at').selectOption('QS/DOCK');
		await seek(page, 'Item of line 1', 'case shell');
		await page.getByLabel('Quantity of line 1').fill('1.5');
		await page.getByRole('button', { name: 'Start receiving' }).click();
		await page.getByText('CASE: 1.5 is not a whole number; each comes in whole pieces.').waitFor();
		expect(await page.getByRole('combobox', { name: 'Item of line 1' }).inputValue()).toBe('CASE');
		await page.getByLabel('Quantity of line 1').fill('12');
		await page.getByRole('button', { name: 'Start receiving' }).click();
		await page.waitForURL(/\/inbound\/PO-/);
		await type(page, 'Case shell', 'Lot', 'DC-ADHOC');
		await type(page, 'Case shell', 'Quantity, pcs', '12');
		await foot(page).getByRole('button', { name: 'Book in' }).click();
		await page.getByText(/Booked on \S+: \d/).waitFor();
	});

	it('a CSV with an unknown item names the row and makes nothing; mended, it makes all', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/orders');
		const csv =
			'order,kind,partner,place,due,item,qty\nPO-9001,purchase,QUILLMERE,QS/DOCK,2027-03-01,DPD,500\nPO-9001,purchase,QUILLMERE,QS/DOCK,2027-03-01,DBD,500\nSO-9002,sale,THORNMERE,QS,32 Mar 2027,FK,1\n,sale,THORNMERE,QS,,FK,1\n';
		await page.getByLabel('CSV, pasted or typed').fill(csv);
		await page.getByRole('button', { name: 'Check' }).click();
		await page.getByText('There is no item DBD. Add it in Setup, or correct the code.').waitFor();
		const rows = await page.locator('.said tbody tr').allInnerTexts();
		expect(rows.map((r) => r.split('\t')[0])).toEqual(['row 3', 'row 4', 'row 5']);
		expect(await page.getByRole('button', { name: 'Add the orders' }).isDisabled()).toBe(true);
		expect(await app.sql`SELECT 1 FROM orders WHERE code IN ('PO-9001', 'SO-9002')`).toHaveLength(0);
		await page
			.getByLabel('CSV, pasted or typed')
			.fill(csv.replace('DBD', 'KI').replace('32 Mar', '31 Mar').replace('\n,sale', '\nSO-9003,sale'));
		await page.getByRole('button', { name: 'Check' }).click();
		await page.getByText('4 rows: 3 orders, nothing to correct').waitFor();
		await page.getByRole('button', { name: 'Add the orders' }).click();
		await page.getByText('Added 3 orders from 4 rows').waitFor();
		expect(await app.sql`SELECT 1 FROM orders WHERE code LIKE '%-900_'`).toHaveLength(3);
	});
});

describe('shortage, hold, and what comes first', () => {
	it('a held lot is left out and says so; a shortage is said at once', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/outbound/SO-3344');
		await page
			.getByText(/Skipped:/)
			.first()
			.waitFor();
		expect(
			await page
				.getByText(/Skipped:/)
				.first()
				.innerText()
		).toContain('on hold');
		const reagent = page.locator('section', { hasText: 'Chlorine reagent 30 mL' });
		const now = reagent.getByLabel('Ship now, pcs');
		await now.fill('999999');
		await now.press('Enter');
		await foot(page)
			.getByText(/Line 2: .* short: .* can go, the rest stays ordered/)
			.waitFor();
		await foot(page)
			.getByText(/999,999 go, 240 are ordered: say why/)
			.waitFor();
		await now.fill('abc');
		await now.press('Enter');
		await foot(page)
			.getByText(/“abc” is not a quantity/)
			.waitFor();
		await now.fill('');
		await now.press('Enter');
		await foot(page).getByText('Nobody has looked at what is suggested in 2 lines.').waitFor();
	});
	it('quality puts a lot on hold with a reason, and the picker sees it', async () => {
		const page = await app.signIn('oskar');
		const [{ id }] = await app.sql<{ id: string }[]>`
			SELECT k.id FROM mark k JOIN item i ON i.id = k.item_id AND i.code = 'PH7-50' JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual ORDER BY k.expires_on LIMIT 1`;
		await page.goto(app.base + `/register/${id}`);
		await page.getByRole('button', { name: 'Put on hold…' }).click();
		await page.getByLabel('Why, in one line; it is kept in the ledger').fill('pH off by 0.2');
		await page.getByRole('button', { name: 'Put on hold', exact: true }).click();
		await page.getByRole('heading', { level: 1 }).getByText('on hold').waitFor();
		await page.getByText('put on hold', { exact: true }).waitFor();
		const tobi = await app.signIn('tobi');
		await tobi.goto(app.base + '/outbound/SO-3345');
		expect(
			await tobi
				.locator('section', { hasText: 'pH 7 buffer 50 mL' })
				.getByText(/Skipped:/)
				.innerText()
		).toContain('on hold');
	});
});

describe('the scan line', () => {
	it('goes where the text leads, asks when it is several, offers the nearest when it is none', async () => {
		const page = await app.signIn('mina');
		const scan = page.getByRole('textbox', { name: 'Scan line' });
		const go = async (text: string) => {
			await page.keyboard.press('/');
			await scan.fill(text);
			await scan.press('Enter');
		};
		await go('PO-2214');
		await page.waitForURL(/inbound\/PO-2214/);
		await go('qs/a5');
		await page.waitForURL(/register\?place=QS%2FA5/);
		await go('wm');
		await page.waitForURL(/register\?item=WM/);
		await go('88-1302');
		await page.waitForURL(/register\/\d+/);
		await page.getByRole('heading', { name: /QR-26-0417/ }).waitFor();
		await go('FK-00999');
		await page.getByText('Nothing is called “FK-00999”. The nearest:').waitFor();
		await scan.press('ArrowDown');
		await scan.press('Enter');
		await page.waitForURL(/register\/\d+/);
		await go('zz%%\'";--');
		await page.getByText(/Nothing is called/).waitFor();
	});
	it('a scan made while a page is still coming keeps its answer', async () => {
		const page = await app.signIn('mina');
		const scan = page.getByRole('textbox', { name: 'Scan line' });
		let came = () => {};
		const held = new Promise<void>((done) => (came = done));
		await page.route(/\/inbound\/PO-2214\/__data/, async (route) => {
			await held;
			await route.continue();
		});
		await scan.fill('PO-2214');
		const asked = page.waitForRequest(/\/inbound\/PO-2214\/__data/);
		await scan.press('Enter');
		await asked;
		await scan.fill('zz-nothing');
		await scan.press('Enter');
		await page.getByText(/Nothing is called “zz-nothing”/).waitFor();
		came();
		await page.waitForURL(/inbound\/PO-2214/);
		await page.getByRole('heading', { level: 1 }).getByText('PO-2214').waitFor();
		await page.waitForTimeout(300);
		expect(await page.getByText(/Nothing is called “zz-nothing”/).count()).toBe(1);
	});
});

describe('roles', () => {
	it('a screen does not offer what is not allowed, and the server refuses it anyway', async () => {
		const page = await app.signIn('auditor');
		// An auditor finds nothing to set up, and the head of the ledger.
		await page.getByRole('link', { name: 'Setup' }).click();
		await page.getByRole('heading', { name: 'Head of the ledger' }).waitFor();
		expect(await page.getByRole('navigation', { name: 'Setup' }).getByRole('link').allInnerTexts()).toEqual(['Ledger']);
		await page.goto(app.base + '/inbound/PO-2214');
		expect(await page.getByRole('button', { name: /Book in/ }).count()).toBe(0);
		expect(await page.getByRole('group', { name: /Enter numbers/ }).count()).toBe(0);
		const send = (path: string, method: string, data: unknown, origin = app.base) =>
			page.request.fetch(app.base + path, { method, data, headers: { origin, 'content-type': 'application/json' } });
		const put = await send('/orders/PO-2214/sheet', 'PUT', []);
		expect(put.status()).toBe(403);
		expect((await put.json()).errors[0].message).toBe('Only a coordinator or receiving and shipping can book inbound.');
		expect((await send('/orders/PO-2214/sheet', 'POST', { key: crypto.randomUUID(), stamp: 'x' })).status()).toBe(403);
		expect((await page.goto(app.base + '/setup/items'))!.status()).toBe(403);
		expect((await page.goto(app.base + '/setup/people'))!.status()).toBe(403);
		// A request that another page sends with this person's cookie.
		const tobi = await app.signIn('tobi');
		const forged = await tobi.request.fetch(app.base + '/orders/PO-2214/sheet', {
			method: 'PUT',
			data: [],
			headers: { origin: 'http://elsewhere.example', 'content-type': 'application/json' }
		});
		expect(forged.status()).toBe(403);
	});
	it('after eight wrong passwords the name has to wait, whoever types it', async () => {
		const context = await app.browser.newContext();
		const page = await context.newPage();
		const attempt = async () => {
			await page.goto(app.base + '/sign-in');
			await page.getByLabel('Sign-in name').fill('mina');
			await page.getByLabel('Password', { exact: true }).fill('wrong');
			await page.getByRole('button', { name: 'Sign in' }).click();
			return page.getByRole('alert').innerText();
		};
		for (let i = 0; i < 8; i++) expect(await attempt()).toContain('do not go together');
		expect(await attempt()).toMatch(/Wait \d+ seconds/);
		await context.close();
	});
	it('a signed-out session opens nothing', async () => {
		const page = await app.signIn('rhea');
		const [cookie] = await page.context().cookies();
		expect([cookie.httpOnly, cookie.sameSite]).toEqual([true, 'Lax']);
		await page.getByRole('button', { name: 'Sign out' }).click();
		await page.waitForURL(/sign-in/);
		await page.context().addCookies([cookie]);
		await page.goto(app.base + '/register');
		await page.waitForURL(/sign-in\?to=%2Fregister/);
	});
	it('a password that somebody else gave opens nothing but the setting of one’s own', async () => {
		const boss = await app.signIn('admin');
		await boss.goto(app.base + '/setup/people');
		await boss.getByLabel('Sign-in name').fill('jonas');
		await boss.getByLabel('Name', { exact: true }).fill('Jonas Pell');
		await boss.getByLabel('Role').selectOption('coordinator');
		await boss.getByLabel('First password').fill('given by Mina');
		await boss.getByRole('button', { name: 'Add person' }).click();
		await boss.getByText('Jonas Pell can sign in as jonas.').waitFor();

		const signIn = async (password: string) => {
			const context = await app.browser.newContext();
			const page = await context.newPage();
			await page.goto(app.base + '/register');
			await page.getByLabel('Sign-in name').fill('jonas');
			await page.getByLabel('Password', { exact: true }).fill(password);
			await page.getByRole('button', { name: 'Sign in' }).click();
			return page;
		};
		const own = async (page: Page, now: string, next: string, again = next) => {
			await page.locator('[name=now]').fill(now);
			await page.locator('[name=next]').fill(next);
			await page.locator('[name=again]').fill(again);
			await page.getByRole('button', { name: /^(Set|Change) password/ }).click();
		};
		const first = await signIn('given by Mina');
		await first.waitForURL(/own-password\?to=%2Fregister/);
		// No other door is open: no page, no list, no call.
		expect((await first.request.get(app.base + '/find?text=FK-0100')).url()).toContain('/own-password');
		expect((await first.request.get(app.base + '/api/v1/items')).status()).toBe(403);
		const post = await first.request.post(app.base + '/setup/items?/add', {
			headers: { origin: app.base },
			form: { code: 'MINE' }
		});
		expect([post.status(), await post.text()]).toEqual([403, expect.stringContaining('Set a password of your own')]);
		await first.goto(app.base + '/register');
		await own(first, 'given by Mina', 'given by Mina');
		await first.getByText('This is the password that you have.').waitFor();
		await own(first, 'not that one', 'one of my own');
		await first.getByText('This is not the password that you signed in with.').waitFor();
		await own(first, 'given by Mina', 'one of my own', 'one of my owm');
		await first.getByText('The two are not the same. Type').waitFor();
		await own(first, 'given by Mina', 'one of my own');
		await first.waitForURL(app.base + '/register');

		// Two more sessions: one is ended by itself, the other by a new password.
		const [second, third] = [await signIn('one of my own'), await signIn('one of my own')];
		for (const page of [second, third]) await page.waitForURL(app.base + '/register');
		await first.goto(app.base + '/you');
		const sessions = first.getByRole('row').filter({ hasText: '127.0.0.1' });
		expect(await sessions.count()).toBe(3);
		expect(await sessions.filter({ hasText: 'here' }).count()).toBe(1);
		await sessions.first().getByRole('button', { name: 'Sign out' }).click();
		await first.getByText('That session has ended.').waitFor();
		await third.goto(app.base + '/register');
		await third.waitForURL(/sign-in/);
		await second.goto(app.base + '/register');
		expect(second.url()).toBe(app.base + '/register');
		await own(first, 'one of my own', 'another of my own');
		await first.getByText('Your password is changed.').waitFor();
		await second.goto(app.base + '/register');
		await second.waitForURL(/sign-in/);
		await first.goto(app.base + '/register');
		expect(first.url()).toBe(app.base + '/register');

		// Dates in one's own language are nobody else's, drawn on the server and in the browser.
		await first.goto(app.base + '/you');
		await first.getByLabel('Language').selectOption('Deutsch');
		await first.getByRole('button', { name: 'Use this language' }).click();
		const other = await app.signIn('ines');
		await other.goto(app.base + '/you');
		const english = (await other.getByText(/^Today is/).innerText()).slice(9).split('.')[0];
		const read = parseDay(english);
		if ('problem' in read) throw new Error(read.problem);
		const german = showDay(read.day, 'de');
		await first.getByText(`Today is ${german}.`).waitFor();
		for (const [page, today, month] of [
			[first, german, /\d\. (Jan|Feb|März|Apr|Mai|Juni|Juli|Aug|Sept|Okt|Nov|Dez)/],
			[other, english, /\d (Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec) /]
		] as const) {
			expect(await (await page.request.get(app.base + '/you')).text()).toContain(`Today is ${today}.`);
			await page.goto(app.base + '/register');
			await page.getByRole('cell').filter({ hasText: month }).first().waitFor();
		}
		await other.context().close();
		for (const page of [first, second, third]) await page.context().close();
	});
	it('the administrator adds a person and makes a token, which works until it is revoked', async () => {
		const page = await app.signIn('admin');
		await page.goto(app.base + '/setup/people');
		await page.getByLabel('Sign-in name').fill('lena');
		await page.getByLabel('Name', { exact: true }).fill('Lena Voss');
		await page.getByLabel('First password').fill('short-no-more');
		await page.getByRole('button', { name: 'Add person' }).click();
		await page.getByText('Lena Voss can sign in as lena.').waitFor();
		await page.goto(app.base + '/setup/tokens');
		await page.getByLabel('Program', { exact: true }).fill('scale');
		await page.getByLabel('Role').selectOption('receiving and shipping');
		await page.getByRole('button', { name: 'Add access' }).click();
		const secret = (await page.locator('.secret code').innerText()).trim();
		const trace = () =>
			fetch(`${app.base}/api/v1/trace?direction=forward&item=DPD&lot=QR-26-0417`, {
				headers: { authorization: `Bearer ${secret}` }
			});
		expect((await trace()).status).toBe(200);
		await page.getByRole('button', { name: 'Withdraw the access of scale' }).click();
		await page.getByText('Withdrawn.').waitFor();
		expect((await trace()).status).toBe(401);
		const [{ hit }] = await app.sql<
			{ hit: boolean }[]
		>`SELECT bool_or(token_hash LIKE ${'%' + secret.slice(3, 20) + '%'}) AS hit FROM api_token`;
		expect(hit).toBe(false);
	});
});

describe('what was typed into a form', () => {
	it('stays, whatever else on the page changes meanwhile', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/items/BOARD');
		await page.waitForLoadState('networkidle');
		await page.getByLabel('Name', { exact: true }).fill('Sensor board, new name');
		await page.getByLabel('The supplier’s number').selectOption('is used as ours');
		await page.getByLabel('lot at receipt').selectOption('asked');
		await page.getByText('asked at receipt (leaving it out wants a reason)').waitFor();
		expect(await page.getByLabel('Name', { exact: true }).inputValue()).toBe('Sensor board, new name');
		expect(await page.getByLabel('The supplier’s number').inputValue()).toBe('ours');

		await page.goto(app.base + '/inbound/new');
		await page.waitForLoadState('networkidle');
		await page.getByLabel('Order or delivery note no.').fill('PO-TYPED');
		await page.locator('input[name=note]').fill('by hand');
		await page.getByRole('combobox', { name: 'Item of line 1' }).fill('CELL');
		await page.getByLabel('Quantity of line 1').fill('3');
		expect(await page.locator('input[name=code]').inputValue()).toBe('PO-TYPED');
		expect(await page.locator('input[name=note]').inputValue()).toBe('by hand');
	});
	it('into a cell of a sheet stays while a colleague’s row comes in', async () => {
		const code = 'PO-2216';
		const [mine, theirs] = [await app.signIn('tobi'), await app.signIn('ines')];
		for (const page of [mine, theirs]) {
			await page.goto(`${app.base}/inbound/${code}`);
			await foot(page).waitFor();
		}
		await type(theirs, 'Glass membrane', 'Lot', 'OM-FIRST');
		await type(theirs, 'Glass membrane', 'Quantity, pcs', '4');
		await mine.reload();
		await mine.waitForLoadState('domcontentloaded');
		const cell = mine.locator('td[data-column="lot"] input').first();
		await cell.waitFor();
		await mine.waitForTimeout(500);
		await cell.fill('OM-FIRST-TYPING');
		await type(theirs, 'Glass membrane', 'Lot', 'OM-SECOND');
		await type(theirs, 'Glass membrane', 'Quantity, pcs', '3');
		await mine.locator('td[data-column="lot"] input').nth(1).waitFor();
		expect(await cell.inputValue()).toBe('OM-FIRST-TYPING');
		await cell.press('Tab');
		await holding(theirs, 'OM-FIRST-TYPING');
	});
});
