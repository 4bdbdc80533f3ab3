import type { Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { startApp } from './app.ts';
import { foot, type } from './sheet.ts';
import { findingsOf } from '../db/cluster.ts';

const app = startApp();
const press = async (page: Page, name: string | RegExp) => {
	const button = foot(page).getByRole('button', { name }).last();
	await button.click();
	await page.getByText(/Booked on \S+: \d/).waitFor();
};
const hidden = (page: Page, name: string) => page.getByText(name, { exact: true }).first().waitFor();

describe('the whole way of a piece', () => {
	it('forty serials and two lots come in', async () => {
		const page = await app.signIn('tobi');
		await page.getByRole('link', { name: /PO-2214/ }).click();
		await foot(page).getByText('Line 1: 40 serials missing').waitFor();
		expect(await foot(page).getByRole('button', { name: 'Book in' }).isDisabled()).toBe(true);
		await type(page, 'Sensor board VB', 'Lot', '26W46-A');
		await type(page, 'Sensor board VB', 'First serial, count', 'VB-7731, 25');
		await foot(page).getByText('Line 1: 15 serials missing').waitFor();
		await page
			.getByRole('group', { name: 'Enter numbers for Sensor board VB' })
			.getByLabel('Lot', { exact: true })
			.fill('26W46-B');
		await type(page, 'Sensor board VB', 'First serial, count', 'VB-7756 … VB-7770');
		await type(page, 'Battery cell BC', 'Lot', 'C-611');
		await type(page, 'Battery cell BC', 'Quantity, pcs', '60');
		await hidden(page, 'VB-7756 … VB-7770');
		await foot(page).getByText('Line 2: 40 missing').waitFor();
		await type(page, 'Battery cell BC', 'Lot', 'C-612');
		await type(page, 'Battery cell BC', 'Quantity, pcs', '');
		await foot(page).getByText('Nothing is missing.').waitFor();
		await press(page, 'Book in');
		const [{ n }] = await app.sql<
			{ n: number }[]
		>`SELECT count(*)::int AS n FROM movement m JOIN event e ON e.id = m.event_id WHERE e.document = 'PO-2214'`;
		expect(n).toBe(42);
		await page.getByText('complete').first().waitFor();
	});

	it('three meters are built exactly: each shows its own board and probe, and one is changed', async () => {
		const page = await app.signIn('rhea');
		await page.goto(app.base + '/production/MO-733');
		await type(page, 'Meter WM', 'First serial, count', 'WM-0207, 3');
		await page.getByRole('button', { name: 'Choose Sensor board VB of WM-0207' }).click();
		await page.getByRole('button', { name: 'Choose from what is there' }).click();
		await page.getByLabel('Find in Sensor board VB').fill('VB-7731');
		await page.getByRole('button', { name: 'Take VB-7731' }).click();
		await page.locator('tr', { hasText: 'WM-0207' }).getByRole('link', { name: 'VB-7731' }).first().waitFor();
		// Every other cell is said by hand too: what is at hand is offered, and one press takes it.
		for (let left = 5; left; left--) {
			const offers = page.getByRole('button', { name: /^Take \S+ for WM-/ });
			await expect.poll(() => offers.count()).toBe(left);
			await offers.first().click();
		}
		await press(page, /Complete/);
		const parts = await app.sql<{ unit: string; part: string }[]>`
			SELECT w.number AS unit, k.number AS part FROM run r JOIN mark w ON w.id = r.unit_mark JOIN movement m ON m.run_id = r.id AND m.role = 'use'
			JOIN mark k ON k.id = m.mark_id AND k.kind = 'serial' WHERE w.number LIKE 'WM-020%' AND r.code LIKE 'MO-733%' ORDER BY 1, 2`;
		expect(parts.filter((p) => p.unit === 'WM-0207').map((p) => p.part)).toContain('VB-7731');
		expect(parts).toHaveLength(6);
		expect(new Set(parts.map((p) => p.part)).size).toBe(6);
		await foot(page).getByText('Line 1: 3 still to make').waitFor();
	});

	it('two of them are shipped, the rest stays ordered, and the papers name them', async () => {
		const page = await app.signIn('tobi');
		await page.goto(app.base + '/outbound/SO-3345');
		const meters = page.locator('section', { hasText: 'Meter WM' });
		await meters.getByLabel('Ship now, pcs').fill('2');
		await meters.getByLabel('Ship now, pcs').press('Enter');
		await meters.getByText('2 of 4 go now').waitFor();
		await meters.getByRole('button', { name: 'Choose from what is there' }).click();
		for (const n of ['WM-0207', 'WM-0208']) {
			await meters.getByLabel('Find in Meter WM').fill(n);
			await meters.getByRole('button', { name: `Take ${n}` }).click();
			await meters.locator('tr', { hasText: n }).getByText('taken').waitFor();
		}
		// What was chosen takes the place of what was suggested.
		await meters.getByText('WM-0207 … WM-0208').waitFor();
		// The rest of the order is only suggested: it stays.
		await foot(page).getByRole('button', { name: 'Ship as suggested…' }).click();
		await page.getByRole('dialog').getByRole('button', { name: 'Ship only what is named' }).click();
		await page.getByText(/Booked on \S+: \d/).waitFor();
		const papers = page.getByRole('link', { name: 'Packing list (PDF)' });
		const pdf = await page.request.get(app.base + (await papers.getAttribute('href')));
		expect(pdf.headers()['content-type']).toBe('application/pdf');
		expect((await pdf.body()).subarray(0, 5).toString()).toBe('%PDF-');
		const went = await app.sql<{ number: string }[]>`
			SELECT k.number FROM movement m JOIN event e ON e.id = m.event_id AND e.kind = 'shipment' AND e.document = 'SO-3345' JOIN mark k ON k.id = m.mark_id AND k.kind = 'serial' ORDER BY 1`;
		expect(went.map((w) => w.number)).toEqual(['WM-0207', 'WM-0208']);
		await meters.getByText(/, 2 booked/).waitFor();
	});

	it('a component of one is traced forward to its customer and back to its supplier', async () => {
		const page = await app.signIn('auditor');
		const scan = page.getByRole('textbox', { name: 'Scan line' });
		await scan.fill('vb-7731');
		await scan.press('Enter');
		await page.waitForURL(/\/register\/\d+/);
		await page
			.getByText(/^used for /)
			.first()
			.waitFor();
		// A meter that was built into a kit was used too, though it also came out of production.
		const [{ id: inner }] = await app.sql<{ id: string }[]>`
			SELECT u.mark_id AS id FROM run r JOIN mark f ON f.id = r.unit_mark AND f.number = 'FK-0090' JOIN movement u ON u.run_id = r.id JOIN mark k ON k.id = u.mark_id AND k.number LIKE 'WM-%'`;
		await page.goto(app.base + `/register/${inner}`);
		await page
			.getByText(/^used for /)
			.first()
			.waitFor();
		await page.goBack();
		await page.getByRole('link', { name: 'Trace forward' }).click();
		await page.getByText('100 %').waitFor();
		const row = page.locator('tr', { hasText: 'WM-0207' });
		expect((await row.innerText()).replace(/\s+/g, ' ')).toContain(
			'WM-0207 Meter WM shipped Sken Island Fisheries SO-3345'
		);
		await page.getByRole('link', { name: /By generation/ }).click();
		await page.locator('tr', { hasText: 'WM-0207' }).getByText('piece by piece').waitFor();
		const csv = await page.request.get(
			app.base + (await page.getByRole('link', { name: 'Where it is now as CSV' }).getAttribute('href'))
		);
		expect(await csv.text()).toMatch(
			/number,item,lot,state,where,document,date,quantity,unit,content,content_unit\r\nWM-0207,WM,,shipped,Sken Island Fisheries,SO-3345,/
		);
		await page.getByRole('link', { name: 'Back', exact: true }).click();
		await page.getByRole('link', { name: /Suppliers/ }).click();
		await page.getByText('Varnholt Electronics').waitFor();
		expect((await page.locator('tr', { hasText: 'Varnholt' }).textContent())!.replace(/\s+/g, ' ')).toContain(
			'PO-2214'
		);
		// And from the finished meter down to the boards' supplier.
		await page.goto(app.base + '/trace?q=WM-0207&direction=back');
		await page.locator('tr', { hasText: 'VB-7731' }).getByText('MO-733/WM-0207').waitFor();
	});

	it('parts first, output later: a kit in work is finished from its recorded parts', async () => {
		const page = await app.signIn('rhea');
		await page.goto(app.base + '/production/MO-731');
		await page.getByText('Output only').click();
		await page.getByRole('button', { name: 'Finish it' }).click();
		await press(page, /Record output/);
		await page.getByText('Parts recorded, not finished yet').waitFor({ state: 'detached' });
	});

	it('a pooled order: suggested over the lots that are there, completed with a new lot', async () => {
		const page = await app.signIn('rhea');
		await page.goto(app.base + '/production/MO-732');
		await page.locator('section', { hasText: 'DPD powder' }).getByText('expires first').first().waitFor();
		await type(page, 'Chlorine reagent bulk', 'Lot', 'CB-99W01-1');
		await type(page, 'Chlorine reagent bulk', 'Quantity, L', '30');
		await foot(page).getByText('Line 1: 10 L still to make').waitFor();
		await press(page, /Complete/);
		const used = await app.sql<{ code: string; qty: string }[]>`
			SELECT i.code, trim_scale(sum(m.qty))::text AS qty FROM movement m JOIN run r ON r.id = m.run_id AND r.code = 'MO-732' JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
			WHERE m.role = 'use' GROUP BY 1 ORDER BY 1`;
		expect(used.map((u) => `${u.code} ${u.qty}`)).toEqual(['DPD 600', 'KI 4.5']);
		const [lot] = await app.sql<
			{ expires: string }[]
		>`SELECT expires_on AS expires FROM mark WHERE lot_no = 'CB-99W01-1'`;
		expect(Number(lot.expires.slice(0, 4))).toBe(new Date().getFullYear() + 1);
	});

	it('an undo takes the shipment back and opens the order again', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/outbound/SO-3345');
		await page.getByRole('button', { name: /^Undo/ }).click();
		await page.getByLabel('Why it is undone').fill('picked for the wrong island');
		await page.getByRole('button', { name: 'Undo it' }).click();
		await page.getByText(/Undone: what it booked/).waitFor();
		await page.goto(app.base + '/trace?q=VB-7731&direction=forward');
		expect(await page.locator('tr', { hasText: 'WM-0207' }).textContent()).toContain('on hand');
	});

	it('the ledger holds all invariants afterwards', async () => {
		expect(await findingsOf(app.sql)).toEqual([]);
	});
});

describe('every screen', () => {
	it('asks for nothing off this machine', () => expect(app.outside).toEqual([]));
	it('comes with a strict content security policy', async () => {
		const page = await app.signIn('ines');
		const csp = (await page.request.get(app.base + '/')).headers()['content-security-policy'];
		expect(csp).toContain("default-src 'self'");
		expect(csp).toMatch(/script-src 'self' 'nonce-/);
		expect(csp).not.toContain('unsafe-eval');
	});
});
