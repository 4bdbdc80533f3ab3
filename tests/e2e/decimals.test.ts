import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { saveFirm } from '../../src/lib/server/setup/firm.ts';
import { startApp } from './app.ts';
import { entry, foot, openOrder, paste, rowsOf, type } from './sheet.ts';

const app = startApp();
const quantity = (row: number) => `Quantity, row ${row}`;
/** A lot of the demo firm of which part of a litre is left, whatever its week is called. */
let bulk: { number: string; qty: string };
beforeAll(async () => {
	[bulk] = await app.sql<(typeof bulk)[]>`
		SELECT k.number, trim_scale(sum(b.qty))::text AS qty FROM mark k JOIN item i ON i.id = k.item_id AND i.code = 'CR-BULK'
		JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual GROUP BY k.id, k.number HAVING sum(b.qty) % 1 <> 0 ORDER BY k.id DESC LIMIT 1`;
});
afterAll(() => saveFirm(app.sql, 'ines', { sign: '.' }));

describe('where decimals come after a comma', () => {
	it('the firm says so in Setup, and lists write it so', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/places');
		await page.getByLabel('Numbers are written').selectOption('1.250,5');
		await page.getByLabel('Numbers are written').press('Tab');
		await page.getByRole('button', { name: 'Save' }).first().click();
		await page.getByText(/numbers are written 1\.250,5\./).waitFor();
		await page.goto(app.base + '/register?find=' + bulk.number);
		await page.getByRole('cell', { name: `${bulk.qty.replace('.', ',')} L` }).waitFor();
		await page.goto(app.base + '/setup/items?find=CR-BULK');
		await page.getByRole('cell', { name: /20 g DPD, 0,15 kg KI/ }).waitFor();
		// A span is typed the same way, and stands in the address as programs write it.
		await page.goto(app.base + '/register');
		await page.getByRole('button', { name: 'Filters' }).click();
		await page.getByLabel('On hand, from').fill(bulk.qty.replace('.', ','));
		await page.getByLabel('On hand, from').press('Tab');
		await page.waitForURL((url) => url.searchParams.get('qty.from') === bulk.qty);
		expect(await page.getByLabel('On hand, from').inputValue()).toBe(bulk.qty.replace('.', ','));
	});
	it('a quantity is typed so, shown so, kept with a point, and never taken for another', async () => {
		const { page, code } = await openOrder(app, {
			partner: 'QUILLMERE',
			place: 'QS/DOCK',
			lines: [['GEL', '2500']]
		});
		const add = async (lot: string, qty: string) => {
			await type(page, 'Reference gel', 'Lot', lot);
			await entry(page, 'Reference gel').getByLabel('Quantity, g', { exact: true }).fill(qty);
			await entry(page, 'Reference gel').getByRole('button', { name: 'Add', exact: true }).click();
		};
		const row = (n: number) => page.getByLabel(quantity(n), { exact: true });
		await add('G-1', '1.000,5');
		await row(1).waitFor();
		expect(await row(1).inputValue()).toBe('1000,5');
		await add('G-2', '1.250');
		await page
			.getByText('“1.250” can be read as 1250 or as 1,250. Type it without a sign between thousands.')
			.first()
			.waitFor();
		await add('G-3', '1.5');
		await page.getByText('“1.5”: decimals come after a comma here. Type 1,5.').first().waitFor();
		expect((await rowsOf(app, code)).map((r) => r.qty)).toEqual(['1000.5', '1.250?', '1.5?']);
		expect(await foot(page).getByRole('button', { name: 'Book in' }).isDisabled()).toBe(true);
		// What stands there is mended where it stands.
		await row(2).fill('1250');
		await row(2).press('Tab');
		await row(3).fill('1,5');
		await row(3).press('Tab');
		await page.getByText('“1.5”: decimals').first().waitFor({ state: 'detached' });
		expect((await rowsOf(app, code)).map((r) => r.qty)).toEqual(['1000.5', '1250', '1.5']);
		await page.getByText('2.252 of 2.500').first().waitFor();
		// A pasted table is read in the same way: what cannot be is named before it goes in.
		await paste(page, 'Reference gel', 'Lot', 'G-4\t0,25\nG-5\t0.25\n');
		await page.getByText('“0.25”: decimals come after a comma here. Type 0,25.').first().waitFor();
		expect(await rowsOf(app, code)).toHaveLength(3);
		// Where a quantity stands inside a text it is written so too.
		await page.goto(`${app.base}/inbound?find=${code}`);
		await page.getByRole('cell', { name: 'Reference gel 2.500 g' }).waitFor();
	});
	it('a detail that is a number is read in the same way, typed with Enter as the last field too', async () => {
		const { page, code } = await openOrder(app, { partner: 'QUILLMERE', lines: [['BUFFER-SALT', '20']] });
		for (const [field, text] of [
			['Lot', 'B-COMMA'],
			['Quantity, kg', '12,5'],
			['Expires', '31.3.29'],
			['Certificate no.', 'CoA-1'],
			['Temperature on arrival', '4,5']
		])
			await type(page, 'Buffer salt', field, text);
		const row = page.getByLabel('Temperature on arrival, row 1');
		await row.waitFor();
		expect(await row.inputValue()).toBe('4,5');
		const [data] = await rowsOf(app, code);
		expect(data).toMatchObject({ qty: '12.5', facts: { TEMP: '4.5' } });
	});
	it('programs send and get numbers with a point all the same', async () => {
		const token = await app.token('coordinator');
		const answer = await fetch(`${app.base}/api/v1/trace?direction=forward&item=CR-BULK&lot=${bulk.number}`, {
			headers: { authorization: `Bearer ${token}` }
		});
		expect(answer.status).toBe(200);
		const text = await answer.text();
		expect(text).toMatch(/"\d+\.\d+"/);
		expect(text).not.toMatch(/"\d+,\d+"/);
	});
	it('a sheet that was begun with a point is the same number after the firm changes its sign', async () => {
		const { page, code } = await openOrder(app, { partner: 'QUILLMERE', lines: [['GEL', '20']] });
		await type(page, 'Reference gel', 'Lot', 'G-9');
		await entry(page, 'Reference gel').getByLabel('Quantity, g', { exact: true }).fill('12,5');
		await entry(page, 'Reference gel').getByRole('button', { name: 'Add', exact: true }).click();
		await page.getByLabel(quantity(1), { exact: true }).waitFor();
		await saveFirm(app.sql, 'ines', { sign: '.' });
		await page.reload();
		await page.getByLabel(quantity(1), { exact: true }).waitFor();
		expect(await page.getByLabel(quantity(1), { exact: true }).inputValue()).toBe('12.5');
		expect((await rowsOf(app, code))[0].qty).toBe('12.5');
	});
});
