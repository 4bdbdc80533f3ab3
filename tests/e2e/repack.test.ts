import { describe, expect, it } from 'vitest';
import { findingsOf } from '../db/cluster.ts';
import { startApp } from './app.ts';
import { accessible, foot, scan, seek } from './sheet.ts';

const app = startApp();
const markOf = async (item: string, number: string) => {
	const [{ id }] = await app.sql<{ id: string }[]>`
		SELECT k.id FROM mark k JOIN item i ON i.id = k.item_id WHERE i.code = ${item} AND k.number = ${number}`;
	return id;
};
const standing = async (number: string) => {
	const rows = await app.sql<{ at: string }[]>`
		SELECT i.code || ' ' || p.code || ' ' || trim_scale(b.qty) AS at FROM mark k JOIN item i ON i.id = k.item_id JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual
		JOIN place p ON p.id = b.place_id WHERE k.number = ${number} ORDER BY 1`;
	return rows.map((r) => r.at);
};

describe('repacking', () => {
	it('from a lot’s page into jars: what is lost is written, each lot adds up, and what comes out keeps its number', async () => {
		const [sack] = await app.sql<{ id: string; number: string; qty: string }[]>`
			SELECT k.id, k.number, trim_scale(b.qty)::text AS qty FROM mark_now k JOIN item i ON i.id = k.item_id JOIN balance b ON b.mark_id = k.id AND b.qty >= 12 AND NOT b.virtual
			WHERE i.code = 'BUFFER-SALT' AND k.status = 'released' ORDER BY k.id DESC LIMIT 1`;
		const page = await app.signIn('rhea');
		await page.goto(`${app.base}/register/${sack.id}`);
		await page.getByRole('link', { name: 'Repack…' }).click();
		await page.waitForURL(/\/stock\/repacking\/new/);
		await page.getByLabel('Packs go to').selectOption('QS/A6');
		await seek(page, 'Item of line 1', 'SALT-2');
		await page.getByLabel('Quantity of line 1').fill('4');
		await page.getByRole('button', { name: 'Add a line' }).click();
		await seek(page, 'Item of line 2', 'SALT-1');
		await page.getByLabel('Quantity of line 2').fill('3');
		await page.getByLabel('Quantity of line 2').press('Enter');
		await page.waitForURL(/\/stock\/repacking\/RP-/);
		const code = decodeURIComponent(page.url().split('/').pop()!);
		// A scan says which sack: what was suggested gives way to it.
		await page.locator('[data-live]').waitFor();
		await page.getByText('11 of 11 suggested').waitFor();
		await scan(page, sack.number);
		await page.getByRole('log').getByText(sack.number).first().waitFor();
		const balance = page.getByRole('region', { name: /^Balance/ });
		await page.getByText(/^[\d.]+ of 11 picked/).waitFor();
		await balance.getByRole('link', { name: `lot ${sack.number}` }).waitFor();
		const amount = page.getByLabel(/^Quantity/).first();
		await amount.fill('12');
		await amount.press('Tab');
		await foot(page).getByText(`Lot ${sack.number}: 1 kg still to place`).waitFor();
		await accessible(page);
		await balance.getByRole('button', { name: /Write as lost/ }).click();
		await foot(page).getByText('1 kg lost, 8.33 %').waitFor();
		await foot(page).getByRole('textbox').fill('Torn sack');
		await page.keyboard.press('Control+Enter');
		await page.getByText(/Booked on \S+: \d/).waitFor();
		expect(await standing(sack.number)).toEqual(
			expect.arrayContaining(['SALT-1 QS/A6 3', 'SALT-2 QS/A6 4', expect.stringMatching(/^BUFFER-SALT/)])
		);
		const record = page.getByRole('link', { name: 'Record (PDF)' });
		const pdf = await page.request.get(app.base + (await record.getAttribute('href')));
		expect([pdf.status(), pdf.headers()['content-type']]).toEqual([200, 'application/pdf']);
		await page.getByRole('button', { name: /Print labels/ }).waitFor();
		expect(code).toMatch(/^RP-/);
	});
	it('says what would mix, and mixes under a number of its own when that is chosen', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/register/${await markOf('SALT-1', 'SALT-MIX-1')}`);
		await page.getByRole('heading', { name: /Made from 2/ }).waitFor();
		for (const lot of ['QB-SACK-1', 'QB-SACK-2']) await page.getByRole('link', { name: `lot ${lot}` }).waitFor();
		await page.goto(`${app.base}/stock/repacking/RP-12`);
		await page.getByRole('link', { name: 'Record (PDF)' }).waitFor();
		await accessible(page);
	});
});

describe('what goods weigh', () => {
	it('stands on the order, with how it is sent and what that asks; another way counts at once', async () => {
		const page = await app.signIn('tobi');
		await page.goto(`${app.base}/outbound/SO-3344`);
		const weight = page.getByRole('button', { name: /^Weight:/ });
		await weight.press('Enter');
		expect(await weight.textContent()).toMatch(/kg chargeable, by Road, two days, carriage [\d.]+ GBP/);
		await page.getByLabel('Sent by').selectOption('AIR');
		await expect.poll(() => weight.textContent()).toMatch(/by Air, carriage [\d.]+ GBP/);
		await accessible(page);
		await page.getByRole('row', { name: /^Together/ }).waitFor();
	});
	it('a way of delivery is added, changed and closed in Setup; an item gets a picture', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/setup/ways`);
		await page.getByLabel('Code').fill('RAIL');
		await page.getByLabel('Name', { exact: true }).fill('Rail');
		await page.getByLabel('cm³ for a kg', { exact: true }).fill('2000');
		await page.getByRole('button', { name: 'Add way of delivery' }).click();
		await page.getByText('Give 3000 to 6000 cm³ for a kilogram.').waitFor();
		await page.getByLabel('cm³ for a kg', { exact: true }).fill('4000');
		await page.getByRole('button', { name: 'Add way of delivery' }).click();
		const row = page.locator('tr', { hasText: 'RAIL' });
		await row.first().waitFor();
		await row.getByRole('button', { name: /^Change/ }).click();
		await page.getByLabel('For a kg', { exact: true }).fill('0.8');
		await page.getByRole('button', { name: 'Save', exact: true }).last().click();
		await page.getByText('Rail is changed.').waitFor();
		await row.getByRole('button', { name: /^Close/ }).click();
		await page.getByText('RAIL is closed').waitFor();
		await page.goto(`${app.base}/setup/items/CR-30`);
		await page.setInputFiles('input[type=file]', 'demo/pictures/cell.png');
		await page.getByRole('button', { name: 'Keep picture' }).click();
		await page.getByText('The picture is kept').waitFor();
		await page.getByRole('img', { name: 'Chlorine reagent 30 mL' }).waitFor();
		await accessible(page);
	});
	it('what orders lack becomes purchase orders by one press', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/production/new`);
		await seek(page, 'Item of line 1', 'PH7-50');
		await page.getByLabel('Quantity of line 1').fill('9000');
		await page.getByLabel('Quantity of line 1').press('Enter');
		await page.waitForURL(/\/production\/MO-/);
		await page.getByRole('link', { name: 'Shortage' }).click();
		await page.waitForURL(/shortage\?order=/);
		await accessible(page);
		await page.getByRole('button', { name: /^Make (the|\d) purchase/ }).press('Enter');
		await page.getByText(/^Made: PO-/).waitFor();
		await page.getByRole('link', { name: /^PO-/ }).first().click();
		await page.waitForURL(/\/inbound\/PO-/);
	});
});

describe('a finished unit', () => {
	it('is taken apart by scan and keyboard into what is really in it, and its page shows how it was built', async () => {
		const meter = await markOf('WM', 'WM-0152');
		const parts = await app.sql<{ number: string; kind: string }[]>`
			SELECT k.number, k.kind FROM run r JOIN movement m ON m.run_id = r.id AND m.role = 'use' JOIN mark k ON k.id = m.mark_id WHERE r.unit_mark = ${meter}`;
		const serials = parts.filter((p) => p.kind === 'serial').map((p) => p.number);
		const page = await app.signIn('mina');
		await page.goto(`${app.base}/register/${meter}`);
		await page.getByRole('link', { name: 'Parts', exact: true }).click();
		await page.getByRole('heading', { name: /Parts of/ }).waitFor();
		await page.locator('[data-live]').waitFor();
		await scan(page, serials[0]);
		await page.getByText(`${serials[0]} comes out`).waitFor();
		await page.getByRole('button', { name: 'Take all of it apart' }).click();
		await page.getByLabel(/^Why/).fill('Housing cracked');
		await accessible(page);
		await page.getByRole('button', { name: /^Book: \d parts out/ }).press('Enter');
		await page.getByText('Booked. What came out').waitFor();
		await page.getByText('Nothing is in it now.').waitFor();
		for (const serial of serials) expect((await standing(serial)).join()).toContain('QS/QC 1');
		expect(await standing('WM-0152')).toEqual([]);
		await page.getByRole('tab', { name: 'As built' }).click();
		await page.getByRole('link', { name: `serial ${serials[0]}` }).waitFor();
	});
	it('shows both what was put in later and what was in it when it was built', async () => {
		const meter = await markOf('WM', 'WM-0110');
		const page = await app.signIn('auditor');
		const cells = async (at: string) => {
			await page.goto(`${app.base}/register/${meter}/parts?at=${at}`);
			return page.locator('tr', { hasText: 'Battery cell' }).getByRole('link').first().textContent();
		};
		const [now, built] = [await cells('now'), await cells('built')];
		expect(now).not.toBe(built);
		expect(await page.getByRole('button', { name: /^Book/ }).count()).toBe(0);
	});
	it('leaves a ledger that holds', async () => expect(await findingsOf(app.sql)).toEqual([]));
});
