import { readFileSync, writeFileSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import bwipjs from 'bwip-js/node';
import { PNG } from 'pngjs';
import { chromium, type Page } from 'playwright';
import { describe, expect, it } from 'vitest';
import { PASSWORD } from '../../demo/firm.ts';
import { noticeDocument } from '../epcis.ts';
import { startApp } from './app.ts';
import { booked, entry, foot, log, openOrder, paste, type, typed, wedge } from './sheet.ts';

const app = startApp();
const pdf = (text: string) => ({ name: 'certificate.pdf', mimeType: 'application/pdf', buffer: Buffer.from(`%PDF-1.4 ${text}`) }); // prettier-ignore
const rowsOf = async (code: string) => (await app.sql<{ data: Record<string, unknown> }[]>`SELECT d.data FROM draft_row d JOIN orders o ON o.id = d.order_id WHERE o.code = ${code} ORDER BY d.created_at, d.id`).map((r) => r.data); // prettier-ignore
const markOf = async (number: string) => (await app.sql<{ id: string; facts: Record<string, string> }[]>`SELECT id, facts FROM mark WHERE number = ${number}`)[0]; // prettier-ignore
const accessible = async (page: Page) => expect((await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze()).violations).toEqual([]); // prettier-ignore

describe('facts of the firm', () => {
	it('one is defined, asked by the rule of a kind, and what that means is said before it is saved', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/facts');
		await page.getByLabel('Code', { exact: true }).fill('MELT');
		await page.getByLabel('Name', { exact: true }).fill('Melt number');
		await page.getByRole('combobox', { name: 'Is a', exact: true }).selectOption('number');
		await page.getByLabel('At least').fill('9');
		await page.getByLabel('At most').fill('5');
		await page.getByRole('button', { name: 'Define it' }).click();
		await page.getByText('The lower limit 9 is above the upper limit 5. Turn them round.').waitFor();
		await page.getByLabel('At least').fill('1');
		await page.getByRole('button', { name: 'Define it' }).click();
		await page.getByText('Melt number is defined.').waitFor();
		await accessible(page);

		await page.goto(app.base + '/setup/kinds/new');
		await page.getByLabel('Code', { exact: true }).fill('METAL');
		await page.getByLabel('Name', { exact: true }).fill('Metal parts');
		await page.getByLabel('Start from').selectOption('everywhere');
		await page.getByLabel('Ask a fact too').selectOption('Melt number');
		await page.getByLabel('Melt number at receipt').selectOption('required');
		await page.getByText('Melt number is required at receipt.').waitFor();
		await page.getByRole('button', { name: 'Make the kind' }).click();
		await page.waitForURL(/kinds\/METAL/);
		await accessible(page);

		await openOrder(app, { lines: [['CASE', '3']], partner: 'DUNMARROW' });
		await page.goto(app.base + '/setup/items/CASE');
		await page.getByLabel('Kind of item').selectOption('Metal parts');
		await page.getByLabel('Goes by').selectOption('the rule of its kind');
		await page.getByRole('button', { name: 'Save', exact: true }).click();
		await page.getByText(/Melt number is required at receipt\. PO-\d+ is open and keeps to it from now on/).waitFor();
		expect((await app.sql`SELECT own_rule FROM item WHERE code = 'CASE'`)[0].own_rule).toBe(true);
		await page.getByRole('button', { name: 'Save the new rule' }).click();
		await page.getByText('Saved. It counts from the next booking on.').waitFor();
		await page.getByText('Melt number is required at receipt.').waitFor();
		await accessible(page);
	});

	it('typed with the keyboard alone, a file chosen, copied down, checked, and kept with the lot', async () => {
		const { page, code } = await openOrder(app, { lines: [['BUFFER-SALT', '75']], partner: 'QUILLMERE' });
		await entry(page, 'Buffer salt').getByLabel('Lot', { exact: true }).focus();
		for (const text of ['E-1', '25', '2029-01-31', 'CoA-9']) {
			await typed(page, text);
			await page.keyboard.press('Enter');
		}
		await typed(page, '40');
		await page.keyboard.press('Enter');
		await foot(page).getByText('Temperature on arrival 40 °C is outside 2 to 25 °C').waitFor();
		await paste(page, 'Buffer salt', 'Lot', 'Lot\tQuantity\tExpires\nE-2\t25\t2029-01-31\nE-3\t25\t2029-02-28');
		await foot(page).getByText('Certificate no. is missing. Type it in. (2 rows)').waitFor();
		// Ctrl+D copies a fact into the rows after it; the arrow in a cell does the same.
		const cell = (fact: string, n: number) => page.locator(`td[data-column="fact ${fact}"]`).nth(n);
		await cell('CERT', 0).locator('input').press('Control+d');
		await foot(page).getByText('Certificate no. is missing').waitFor({ state: 'detached' });
		await cell('TEMP', 0).hover();
		await page.getByRole('button', { name: 'Copy Temperature on arrival of E-1 into the rows after it' }).click();
		await foot(page).getByText('Temperature on arrival 40 °C is outside 2 to 25 °C. Say why it is taken. (3 rows)').waitFor(); // prettier-ignore
		// One act is taken back by one key.
		await page.locator('h1').click();
		await page.keyboard.press('Control+z');
		await foot(page).getByText('Temperature on arrival is missing. Type it in. (2 rows)').waitFor();
		await page.keyboard.press('Control+y');
		await foot(page).getByText('Temperature on arrival 40 °C is outside 2 to 25 °C. Say why it is taken. (3 rows)').waitFor(); // prettier-ignore
		// The arrows walk the column.
		await cell('TEMP', 0).locator('input').focus();
		await page.keyboard.press('ArrowDown');
		await page.keyboard.press('ArrowDown');
		await page.keyboard.type('4.5');
		await page.keyboard.press('ArrowUp');
		await foot(page).getByText('Say why it is taken. (2 rows)').waitFor();
		await cell('COA', 0).locator('input[type=file]').setInputFiles(pdf('salt'));
		await cell('COA', 0).getByRole('link', { name: 'certificate.pdf' }).waitFor();
		await cell('COA', 1).locator('input[type=file]').setInputFiles({ name: 'x.pdf', mimeType: 'application/pdf', buffer: Buffer.from('<script>') }); // prettier-ignore
		await page.getByText('x.pdf is no PDF, PNG or JPEG. Save it as one of these.').waitFor();
		await foot(page).getByLabel('Reason, kept in the ledger').fill('the lorry stood in the sun');
		await page.keyboard.press('Control+Enter');
		expect(await booked(app, page, code)).toBe(3);
		const [one, three] = [await markOf('E-1'), await markOf('E-3')];
		expect(one.facts).toMatchObject({ CERT: 'CoA-9', TEMP: '40', COA: expect.stringMatching(/^[0-9a-f]{64} certificate\.pdf$/) }); // prettier-ignore
		expect(three.facts).toEqual({ CERT: 'CoA-9', TEMP: '4.5' });
		await page.goto(`${app.base}/register/${one.id}`);
		await page.getByText('40 °C').first().waitFor();
		const file = await page.request.get(app.base + (await page.getByRole('link', { name: 'certificate.pdf' }).first().getAttribute('href'))!); // prettier-ignore
		expect((await file.body()).toString()).toBe('%PDF-1.4 salt');
		expect(file.headers()['content-security-policy']).toContain('sandbox');
	});

	it('one is recorded later on the page of a lot, and changed with a reason; the life says both', async () => {
		const page = await app.signIn('oskar');
		const { id } = await markOf('E-3');
		await page.goto(`${app.base}/register/${id}`);
		const record = async (fact: string, value: string, reason = '') => {
			await page.getByRole('button', { name: 'Record a fact…' }).click();
			await page.getByRole('combobox', { name: 'Fact', exact: true }).selectOption(fact);
			const field = page.getByLabel(fact, { exact: true });
			if ((await field.evaluate((e) => e.tagName)) === 'SELECT') await field.selectOption(value);
			else await field.fill(value);
			await page.getByLabel(/^Why/).fill(reason);
			await page.getByRole('button', { name: 'Record it' }).click();
		};
		await record('Packaging', 'wet');
		await page.getByText(/Recorded as event \d+/).waitFor();
		await page.locator('dd', { hasText: 'wet' }).getByText('Oskar Lind').waitFor();
		await record('Temperature on arrival', '5');
		await page.getByText('Temperature on arrival is recorded as 4.5 °C. Say why it is changed, in one line.').waitFor();
		await page.getByLabel(/^Why/).fill('read off the wrong line');
		await page.getByRole('button', { name: 'Record it' }).click();
		await page.getByText('Temperature on arrival: 4.5 °C → 5 °C').waitFor();
		await page.getByText('read off the wrong line').waitFor();
		await accessible(page);
	});

	it('notes and files are kept with who and when; a second copy of a file is refused', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/register/${(await markOf('E-2')).id}`);
		await page.getByLabel('Note', { exact: true }).fill('Sack 3 was damp outside.');
		await page.getByRole('button', { name: 'Keep note' }).click();
		await page.getByText('Sack 3 was damp outside.').waitFor();
		for (const sentence of ['certificate.pdf is kept.', 'certificate.pdf is kept here already.']) {
			await page.getByLabel('Certificate or picture').setInputFiles(pdf('second'));
			await page.getByRole('button', { name: 'Keep file' }).click();
			await page.getByText(sentence).waitFor();
		}
		const auditor = await app.signIn('auditor');
		await auditor.goto(`${app.base}/register/${(await markOf('E-2')).id}`);
		await auditor.getByText('Sack 3 was damp outside.').waitFor();
		expect(await auditor.getByRole('button', { name: 'Keep note' }).count()).toBe(0);
		expect(await auditor.getByRole('button', { name: 'Record a fact…' }).count()).toBe(0);
	});

	it('are asked of what is shipped, and of what is put away, where the rule says so', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/items/CR-30');
		for (const step of ['shipment', 'move']) {
			if (step === 'shipment') await page.getByLabel('Ask a fact too').selectOption('Packaging');
			await page.getByLabel(`Packaging at ${step}`).selectOption('required');
		}
		await page.getByRole('button', { name: 'Save', exact: true }).click();
		await page.getByRole('button', { name: 'Save the new rule' }).click();
		await page.getByText('Saved. It counts').waitFor();
		const { page: out, code } = await openOrder(app, { kind: 'sale', place: 'QS', lines: [['CR-30', '5']] });
		await foot(out)
			.getByText(/Packaging is missing/)
			.waitFor();
		expect(await foot(out).getByRole('button', { name: 'Ship' }).isDisabled()).toBe(true);
		await out
			.getByLabel(/^Packaging of CR-/)
			.first()
			.selectOption('sound');
		await foot(out).getByText('Nothing is missing.').waitFor();
		await foot(out).getByRole('button', { name: 'Ship' }).click();
		expect(await booked(app, out, code)).toBe(1);

		await page.goto(app.base + '/stock?place=QS%2FA5');
		const [{ number }] = await app.sql<{ number: string }[]>`
			SELECT k.number FROM balance b JOIN place p ON p.id = b.place_id AND p.code = 'QS/A5' JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id AND i.code = 'CR-30'
			WHERE b.qty > 0 AND NOT k.facts ? 'PACK' ORDER BY k.id DESC LIMIT 1`;
		await page.getByLabel(`Bin for ${number}, part 1`).fill('QS/A6');
		await page.getByLabel(`Bin for ${number}, part 1`).press('Tab');
		await page.getByRole('button', { name: 'Move', exact: true }).click();
		await page.getByText(`Lot ${number}: Packaging is missing.`).waitFor();
		await page.getByLabel(`Packaging of ${number}, part 1`).selectOption('dented');
		await page.getByRole('button', { name: 'Move', exact: true }).click();
		await page
			.getByText(/moved|put away/i)
			.first()
			.waitFor();
		expect((await markOf(number)).facts.PACK).toBe('dented');
	});
});

describe('how strongly a check is taken', () => {
	it('is the firm’s matter: an expired lot stops when the policy says so', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/checks');
		await page.getByLabel('what arrives has expired already').selectOption('stop: it cannot be booked');
		await page.getByRole('button', { name: 'Save' }).click();
		await page.getByText('Saved. It counts from now on').waitFor();
		await accessible(page);
		const { page: dock } = await openOrder(app, { lines: [['SALT-1', '5']], partner: 'QUILLMERE' });
		await type(dock, 'Buffer salt jar 1 kg', 'Lot', 'OLD-1');
		await type(dock, 'Buffer salt jar 1 kg', 'Quantity, each', '5');
		await type(dock, 'Buffer salt jar 1 kg', 'Expires', '2020-01-01');
		await foot(dock).getByText('Expired on 1 Jan 2020. It cannot be booked so').waitFor();
		await page.getByLabel('what arrives has expired already').selectOption('reason: one line of why');
		await page.getByRole('button', { name: 'Save' }).click();
		await page.getByText('Saved. It counts from now on').waitFor();
		await dock.reload();
		await foot(dock).getByText('Expired on 1 Jan 2020. Say why it is taken in').waitFor();
	});
});

describe('from the dock to the shelf', () => {
	it('a lot is split over bins at booking; what is left at the dock is put away in one step', async () => {
		const { page, code } = await openOrder(app, { lines: [['CELL', '60']] });
		await entry(page, 'Battery cell BC').getByLabel('To bin').fill('QS/A4');
		await type(page, 'Battery cell BC', 'Lot', 'C-DOCK');
		await type(page, 'Battery cell BC', 'Quantity, each', '20');
		await page.locator('td[data-column="place"] input').first().waitFor();
		await entry(page, 'Battery cell BC').getByLabel('To bin').fill('ND/B1');
		await type(page, 'Battery cell BC', 'Lot', 'C-DOCK');
		await entry(page, 'Battery cell BC').getByLabel('Quantity, each').press('Enter');
		await foot(page).getByText('ND/B1 is not at QS, where this arrives').waitFor();
		const bin = page.locator('td[data-column="place"] input').nth(1);
		await bin.fill('');
		await bin.press('Tab');
		await foot(page).getByText('Nothing is missing.').waitFor();
		await page.keyboard.press('Control+Enter');
		expect(await booked(app, page, code)).toBe(2);
		const where = async () => (await app.sql<{ at: string }[]>`SELECT p.code || ' ' || trim_scale(b.qty) AS at FROM balance b JOIN place p ON p.id = b.place_id AND NOT p.virtual JOIN mark k ON k.id = b.mark_id AND k.number = 'C-DOCK' WHERE b.qty > 0 ORDER BY 1`).map((r) => r.at); // prettier-ignore
		expect(await where()).toEqual(['QS/A4 20', 'QS/DOCK 40']);

		await page.goto(app.base + '/stock?place=QS%2FDOCK');
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
			.getByText(/Put away|put away|moved/)
			.first()
			.waitFor();
		await expect.poll(where).toEqual(['QS/A4 45', 'QS/A6 15']);
	});

	it('a dock is what Setup says is one', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/places');
		await page.getByRole('button', { name: 'Say so for QS/QC' }).click();
		await page.getByText('QS/QC is a dock: what arrives there is offered to be put away.').waitFor();
		await page.goto(app.base + '/stock?place=QS%2FQC');
		await page.getByRole('button', { name: 'Put away' }).waitFor();
		await page.goto(app.base + '/setup/places');
		await page.getByRole('button', { name: 'No longer for QS/QC' }).click();
		await page.getByText('QS/QC is no dock any more.').waitFor();
	});
});

describe('an advance notice', () => {
	it('as EPCIS becomes ticking off by scan; a pallet enters all that is on it, and has a label', async () => {
		const [{ board, cell }] = await app.sql<{ board: string; cell: string }[]>`
			SELECT (SELECT gtin FROM item WHERE code = 'BOARD') AS board, (SELECT gtin FROM item WHERE code = 'CELL') AS cell`;
		const { page, code } = await openOrder(app, { lines: [['BOARD', '4'], ['CELL', '50']] }); // prettier-ignore
		const pallet = '376104250021234569';
		const notice = noticeDocument({ gtin: board, serials: ['VB-9101', 'VB-9102', 'VB-9103', 'VB-9104'], lot: '26W48-N', expires: '2099-01-31', bulk: { gtin: cell, lot: 'C-N1', quantity: 50 }, pallet, packed: 2 }); // prettier-ignore
		await page.getByLabel('Advance notice: CSV, XLSX or EPCIS JSON').setInputFiles({ name: 'notice.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(notice)) }); // prettier-ignore
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
		await page.getByRole('button', { name: 'Enter all that is missing' }).first().click();
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
		await page.getByLabel('Advance notice: CSV, XLSX or EPCIS JSON').setInputFiles({ name: 'n.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) }); // prettier-ignore
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
		await foot(page).getByText('No serials. Scan or type them, or say why there are none').waitFor();
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
		const [{ n }] = await app.sql<{ n: number }[]>`SELECT count(*)::int AS n FROM movement m JOIN run r ON r.id = m.run_id WHERE m.mark_id = ${id} AND m.role = 'use'`; // prettier-ignore
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
		expect((await rowsOf('MO-734'))[0]).toMatchObject({ count: 4, serial: expect.stringMatching(/^WM-\d{4}$/) });
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
		await foot(page).getByText('Nothing is missing.').waitFor({ timeout: 30_000 });
		expect(await rowsOf(code)).toEqual([{ lot: 'L-KILL', serial: 'VB-97001', count: 3 }]);
	}, 180_000);
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
		const code = PNG.sync.read(await bwipjs.toBuffer({ bcid: 'datamatrix', text, scale: 4, padding: 20, backgroundcolor: 'FFFFFF' })); // prettier-ignore
		const [w, h] = [640, 480];
		const light = Buffer.alloc(w * h, 235);
		for (let y = 0; y < code.height; y++)
			for (let x = 0; x < code.width; x++)
				if (code.data[(y * code.width + x) * 4] < 128) light[(y + 100) * w + x + 100] = 16;
		const picture = Buffer.concat([Buffer.from('FRAME\n'), light, Buffer.alloc((w * h) / 2, 128)]);
		const path = join(mkdtempSync(join(tmpdir(), 'earmark-film-')), 'label.y4m');
		writeFileSync(path, Buffer.concat([Buffer.from(`YUV4MPEG2 W${w} H${h} F10:1 Ip A1:1 C420jpeg\n`), ...Array(10).fill(picture)])); // prettier-ignore
		return path;
	}
	it('reads a label into the sheet once, however long it is held there', async () => {
		const { code } = await openOrder(app, { lines: [['BOARD', '2']] });
		const path = await film('VB-99001');
		expect(readFileSync(path).subarray(0, 9).toString()).toBe('YUV4MPEG2');
		const browser = await chromium.launch({
			executablePath: '/usr/bin/chromium',
			args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync', '--use-fake-ui-for-media-stream', '--use-fake-device-for-media-stream', `--use-file-for-fake-video-capture=${path}`] // prettier-ignore
		});
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
			await log(page).getByText('VB-99001 into line 1').first().waitFor({ timeout: 30_000 });
			await page.waitForTimeout(2500);
			expect(await rowsOf(code)).toEqual([{ lot: 'L-CAM', serial: 'VB-99001', count: 1 }]);
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
