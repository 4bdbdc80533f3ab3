import { readFileSync, writeFileSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import bwipjs from 'bwip-js/node';
import { PNG } from 'pngjs';
import { describe, expect, it } from 'vitest';
import { PASSWORD } from '../../demo/firm.ts';
import { noticeDocument } from '../epcis.ts';
import { launch, startApp } from './app.ts';
import { accessible, booked, entry, foot, log, openOrder, rowsOf, type, wedge } from './sheet.ts';

const app = startApp();

describe('from the dock to the shelf', () => {
	it('a lot is split over bins at booking; what is left at the dock is put away in one step', async () => {
		const { page, code } = await openOrder(app, { lines: [['CELL', '60']] });
		await entry(page, 'Battery cell BC').getByLabel('To bin').fill('QS/A4');
		await type(page, 'Battery cell BC', 'Lot', 'C-DOCK');
		await type(page, 'Battery cell BC', 'Quantity, pcs', '20');
		await page.locator('td[data-column="place"] input').first().waitFor();
		await entry(page, 'Battery cell BC').getByLabel('To bin').fill('ND/B1');
		await type(page, 'Battery cell BC', 'Lot', 'C-DOCK');
		await entry(page, 'Battery cell BC').getByLabel('Quantity, pcs').press('Enter');
		await foot(page).getByText('ND/B1 is not at QS, where this arrives').waitFor();
		const bin = page.locator('td[data-column="place"] input').nth(1);
		await bin.fill('');
		await bin.press('Tab');
		await foot(page).getByText('Nothing is missing.').waitFor();
		await page.keyboard.press('Control+Enter');
		expect(await booked(app, page, code)).toBe(2);
		const where = async () =>
			(
				await app.sql<
					{ at: string }[]
				>`SELECT p.code || ' ' || trim_scale(b.qty) AS at FROM balance b JOIN place p ON p.id = b.place_id AND NOT p.virtual JOIN mark k ON k.id = b.mark_id AND k.number = 'C-DOCK' WHERE b.qty > 0 ORDER BY 1`
			).map((r) => r.at);
		expect(await where()).toEqual(['QS/A4 20', 'QS/DOCK 40']);

		await page.goto(app.base + '/stock/move?place=QS%2FDOCK');
		await page.getByLabel('Quantity of C-DOCK, part 1').fill('25');
		await page.getByLabel('Quantity of C-DOCK, part 1').press('Tab');
		await page.getByRole('button', { name: 'Split: 15 elsewhere' }).click();
		await page.getByLabel('Bin for C-DOCK, part 1').fill('QS/A4');
		await page.getByLabel('Bin for C-DOCK, part 2').fill('QS/NOWHERE');
		await page.keyboard.press('Tab');
		await page.keyboard.press('Control+Enter');
		await page.getByText('There is no place QS/NOWHERE').waitFor();
		expect(await where()).toEqual(['QS/A4 20', 'QS/DOCK 40']);
		await page.getByLabel('Bin for C-DOCK, part 2').fill('QS/A6');
		await page.keyboard.press('Tab');
		await page.keyboard.press('Control+Enter');
		await page
			.getByText(/^Moved: \d/)
			.first()
			.waitFor();
		await expect.poll(where).toEqual(['QS/A4 45', 'QS/A6 15']);
	});

	it('of a full bin the first lines are shown; one that is not among them is found, and what was said of another stays', async () => {
		const answer = await fetch(app.base + '/api/v1/events?create=places', {
			method: 'POST',
			headers: { authorization: `Bearer ${await app.token('coordinator')}`, 'content-type': 'application/json' },
			body: JSON.stringify({
				...{ key: 'full-bin', kind: 'receipt', at: new Date().toISOString(), partner: 'QUILLMERE' },
				movements: Array.from({ length: 230 }, (_, i) => ({
					...{ item: 'CELL', lot: `FULL-${i + 1}`, qty: '3', from: '@supplier', to: 'QS/A7' }
				}))
			})
		});
		expect(answer.status, await answer.text()).toBe(201);
		const page = await app.signIn('ines');
		await page.goto(app.base + '/stock/move?place=QS%2FA7');
		await page.getByText('The first 200 lines are shown; find the others by what is on them.').waitFor();
		await page.getByLabel('Bin for FULL-2, part 1').fill('QS/A4');
		await page.keyboard.press('Tab');
		await page.getByLabel('Find a number, lot or item at QS/A7').fill('full-229');
		await page.keyboard.press('Enter');
		await page.getByLabel('Bin for FULL-229, part 1').fill('QS/A6');
		await page.keyboard.press('Tab');
		await page.keyboard.press('Control+Enter');
		await page.getByText(/^Moved: .* in 1 lot\.$/).waitFor();
		await page.getByText('Nothing here is called “full-229”.').waitFor();
		await page.getByRole('link', { name: 'All that lies here' }).click();
		await expect.poll(() => page.getByLabel('Bin for FULL-2, part 1').inputValue()).toBe('QS/A4');
		await accessible(page);
	});

	it('a dock is what Setup says is one', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/places');
		await page.getByRole('switch', { name: 'Goods arrive at QS/QC' }).press('Space');
		await page.getByText('QS/QC is a dock: what arrives there is offered to be put away.').waitFor();
		await page.goto(app.base + '/stock/move?place=QS%2FQC');
		await page.getByRole('button', { name: 'Put away' }).waitFor();
		await page.goto(app.base + '/setup/places');
		await page.getByRole('switch', { name: 'Goods arrive at QS/QC' }).press('Space');
		await page.getByText('QS/QC is no dock any more.').waitFor();
	});
});

describe('an advance notice', () => {
	it('as EPCIS becomes ticking off by scan; a pallet enters all that is on it, and has a label', async () => {
		const [{ board, cell }] = await app.sql<{ board: string; cell: string }[]>`
			SELECT (SELECT gtin FROM item WHERE code = 'BOARD') AS board, (SELECT gtin FROM item WHERE code = 'CELL') AS cell`;
		const { page, code } = await openOrder(app, {
			lines: [
				['BOARD', '4'],
				['CELL', '50']
			]
		});
		const pallet = '376104250021234569';
		const notice = noticeDocument({
			gtin: board,
			serials: ['VB-9101', 'VB-9102', 'VB-9103', 'VB-9104'],
			lot: '26W48-N',
			expires: '2099-01-31',
			bulk: { gtin: cell, lot: 'C-N1', quantity: 50 },
			pallet,
			packed: 2
		});
		await page.getByLabel('Advance notice: CSV, XLSX or EPCIS JSON').setInputFiles({
			name: 'notice.json',
			mimeType: 'application/json',
			buffer: Buffer.from(JSON.stringify(notice))
		});
		await page.getByText('0 of 4 announced have arrived').waitFor();
		await accessible(page);
		await entry(page, 'Sensor board VB').getByLabel('First serial, count').focus();
		await wedge(page, `(00)${pallet}`);
		await log(page).getByText(`Pallet ${pallet}: 3 announced numbers entered`).first().waitFor();
		await page.getByText('2 of 4 announced have arrived').waitFor();
		await wedge(page, 'VB-9103');
		await page.getByText('3 of 4 announced have arrived').waitFor();
		await wedge(page, 'VB-9999');
		await page.getByText('VB-9999 was not announced. Check the label.').first().waitFor();
		await page.getByText('not announced: VB-9999').waitFor();
		// The pallet's code names lots of the serials, so the loose ones lack theirs: put into it in one act.
		await page.getByLabel(/Put (it|them) in lot/).fill('26W48-N');
		await page.getByRole('button', { name: 'Put in' }).click();
		await page.getByText('have no lot yet').waitFor({ state: 'detached' });
		await page.locator('h1').click();
		await page.keyboard.press('Control+z');
		await page.getByText('2 serials have no lot yet.').waitFor();
		await page.keyboard.press('Control+y');
		await page.getByText('have no lot yet').waitFor({ state: 'detached' });
		await page.getByRole('button', { name: 'Enter all announced' }).first().click();
		await page.getByText('4 of 4 announced have arrived').waitFor();
		await foot(page).getByText('1 more than ordered').waitFor();
		await foot(page).getByLabel('Reason, kept in the ledger').fill('one more came');
		await page.keyboard.press('Control+Enter');
		expect(await booked(app, page, code)).toBe(6);
		await page
			.getByRole('button', { name: `Print label of pallet ${pallet}` })
			.first()
			.waitFor({ state: 'detached' });
	});
	it('prints a pallet’s label before it is unloaded', async () => {
		const { page } = await openOrder(app, { lines: [['CELL', '5']] });
		const csv = 'item,sscc,lot,quantity\nCELL,106141412345678908,C-P,5\n';
		await page
			.getByLabel('Advance notice: CSV, XLSX or EPCIS JSON')
			.setInputFiles({ name: 'n.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) });
		await page.getByRole('button', { name: 'Print label of pallet 106141412345678908' }).click();
		await page.getByText('Printed: one label').waitFor();
		await page.getByText('106141412345678908').first().waitFor();
	});
});

describe('serials that come late, or not at all', () => {
	it('asked and not to be had: entered without, with the reason that is kept', async () => {
		const setup = await app.signIn('ines');
		await setup.goto(app.base + '/setup/items/BOARD');
		await setup.getByLabel('serial at receipt').selectOption('asked');
		await setup.getByRole('button', { name: 'Save', exact: true }).click();
		await setup.getByRole('button', { name: 'Save the new rule' }).click();
		await setup.getByText('Saved. It counts').waitFor();
		const { page, code } = await openOrder(app, { lines: [['BOARD', '5']] });
		await type(page, 'Sensor board VB', 'Lot', 'L-BARE');
		await type(page, 'Sensor board VB', 'First serial, count', 'VB-95001, 3');
		await page.getByRole('button', { name: 'Enter 2 without serials' }).click();
		await foot(page)
			.getByText(/needs a serial at receipt\. Type it, or say why there is none/)
			.waitFor();
		expect(await foot(page).getByRole('button', { name: 'Book in' }).isDisabled()).toBe(true);
		await foot(page).getByLabel('Reason, kept in the ledger').fill('labels torn off');
		await page.keyboard.press('Control+Enter');
		expect(await booked(app, page, code)).toBe(4);
		// They are given at shipment, to the pieces that lie here with their lot; the rule asks from the first moment.
		const { page: out, code: sale } = await openOrder(app, { kind: 'sale', place: 'QS', lines: [['BOARD', '2']] });
		const [{ id }] = await app.sql<{ id: string }[]>`SELECT id FROM mark WHERE lot_no = 'L-BARE'`;
		await out.getByRole('button', { name: 'Choose from what is there' }).click();
		await out
			.getByRole('button', { name: /Take L-BARE|L-BARE/ })
			.first()
			.click();
		await foot(out).getByText('2 serials missing: they are given at shipment').waitFor();
		await entry(out, 'Sensor board VB').getByLabel('First serial, count').fill('VB-96001, 2');
		await entry(out, 'Sensor board VB').getByLabel('First serial, count').press('Enter');
		await foot(out).getByText('Nothing is missing.').waitFor();
		await foot(out).getByRole('button', { name: 'Ship' }).click();
		expect(await booked(app, out, sale)).toBe(5);
		const [{ n }] = await app.sql<
			{ n: number }[]
		>`SELECT count(*)::int AS n FROM movement m JOIN run r ON r.id = m.run_id WHERE m.mark_id = ${id} AND m.role = 'use'`;
		expect(n).toBe(1);
	});
	it('drawn at release they wait for the sheet', async () => {
		const page = await app.signIn('rhea');
		await page.goto(app.base + '/production/MO-734');
		await page.getByRole('button', { name: /Take the 4 drawn at release, from WM-\d+/ }).click();
		await page
			.getByText(/WM-\d+ … WM-\d+/)
			.first()
			.waitFor();
		expect((await rowsOf(app, 'MO-734'))[0]).toMatchObject({ count: 4, serial: expect.stringMatching(/^WM-\d{4}$/) });
		await type(page, 'Meter WM', 'First serial, count', 'WM-9900');
		await page.getByText('WM-9900 was not drawn when the order was released.').first().waitFor();
	});
});

describe('nothing that was scanned is lost', () => {
	it('scans wait in the browser while the server is killed, and go in when it is back', async () => {
		const { page, code } = await openOrder(app, { lines: [['BOARD', '3']] });
		await entry(page, 'Sensor board VB').getByLabel('Lot', { exact: true }).fill('L-KILL');
		await entry(page, 'Sensor board VB').getByLabel('First serial, count').focus();
		await wedge(page, 'VB-97001');
		await log(page).getByText('VB-97001 into line 1').first().waitFor();
		const restarted = app.restart();
		await page.waitForTimeout(300);
		await wedge(page, 'VB-97002');
		await wedge(page, 'VB-97003');
		await page.getByText('Earmark does not answer. What you typed is kept here').first().waitFor();
		await restarted;
		await page.evaluate(() => dispatchEvent(new Event('online')));
		await foot(page).getByText('Nothing is missing.').waitFor();
		expect(await rowsOf(app, code)).toEqual([{ lot: 'L-KILL', serial: 'VB-97001', count: 3, scanned: '0-2' }]);
	});
	it('and a killed browser finds the sheet as it was', async () => {
		const { page, code } = await openOrder(app, { lines: [['BOARD', '3']] });
		await entry(page, 'Sensor board VB').getByLabel('Lot', { exact: true }).fill('L-GONE');
		await entry(page, 'Sensor board VB').getByLabel('First serial, count').focus();
		await wedge(page, 'VB-98001');
		await log(page).getByText('VB-98001 into line 1').first().waitFor();
		await page.context().close();
		const again = await app.signIn('tobi');
		await again.goto(`${app.base}/inbound/${code}`);
		await again.getByText('VB-98001').first().waitFor();
		await log(again).getByText('VB-98001 into line 1').first().waitFor();
		await foot(again).getByText('Line 1: 2 serials missing').waitFor();
	});
});

describe('the camera', () => {
	/** A film that shows one label, as the browser's false camera plays it: YUV4MPEG2, ten pictures. */
	async function film(text: string): Promise<string> {
		const code = PNG.sync.read(
			await bwipjs.toBuffer({ bcid: 'datamatrix', text, scale: 4, padding: 20, backgroundcolor: 'FFFFFF' })
		);
		const [w, h] = [640, 480];
		const light = Buffer.alloc(w * h, 235);
		for (let y = 0; y < code.height; y++)
			for (let x = 0; x < code.width; x++)
				if (code.data[(y * code.width + x) * 4] < 128) light[(y + 100) * w + x + 100] = 16;
		const picture = Buffer.concat([Buffer.from('FRAME\n'), light, Buffer.alloc((w * h) / 2, 128)]);
		const path = join(mkdtempSync(join(tmpdir(), 'earmark-film-')), 'label.y4m');
		writeFileSync(
			path,
			Buffer.concat([Buffer.from(`YUV4MPEG2 W${w} H${h} F10:1 Ip A1:1 C420jpeg\n`), ...Array(10).fill(picture)])
		);
		return path;
	}
	it('reads a label into the sheet once, however long it is held there', async () => {
		const { code } = await openOrder(app, { lines: [['BOARD', '2']] });
		const path = await film('VB-99001');
		expect(readFileSync(path).subarray(0, 9).toString()).toBe('YUV4MPEG2');
		const browser = await launch(
			'--use-fake-ui-for-media-stream',
			'--use-fake-device-for-media-stream',
			`--use-file-for-fake-video-capture=${path}`
		);
		try {
			const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
			await page.goto(app.base + '/sign-in');
			await page.getByLabel('Sign-in name').fill('tobi');
			await page.getByLabel('Password', { exact: true }).fill(PASSWORD);
			await page.getByRole('button', { name: 'Sign in' }).click();
			await page.waitForURL(app.base + '/');
			await page.goto(`${app.base}/inbound/${code}`);
			await entry(page, 'Sensor board VB').getByLabel('Lot', { exact: true }).fill('L-CAM');
			await entry(page, 'Sensor board VB').getByLabel('First serial, count').focus();
			await page.getByRole('button', { name: 'Camera', exact: true }).click();
			await log(page).getByText('VB-99001 into line 1').first().waitFor();
			await page.waitForTimeout(2500);
			expect(await rowsOf(app, code)).toEqual([{ lot: 'L-CAM', serial: 'VB-99001', count: 1, scanned: '0' }]);
			await page.getByRole('button', { name: 'Close the camera' }).click();
			expect(await page.getByRole('complementary', { name: 'Camera' }).count()).toBe(0);
		} finally {
			await browser.close();
		}
	});
	it('is not offered where there is none', async () => {
		const page = await app.signIn('tobi');
		await page.getByRole('button', { name: 'Scanner' }).waitFor();
		expect(await page.getByRole('button', { name: 'Camera', exact: true }).count()).toBe(0);
	});
});
