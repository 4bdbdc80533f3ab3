import { describe, expect, it } from 'vitest';
import { startApp } from './app.ts';
import { accessible, booked, entry, foot, openOrder, paste, type, typed } from './sheet.ts';

const app = startApp();
const pdf = (text: string) => ({
	name: 'certificate.pdf',
	mimeType: 'application/pdf',
	buffer: Buffer.from(`%PDF-1.4 ${text}`)
});
const markOf = async (number: string) =>
	(
		await app.sql<{ id: string; facts: Record<string, string> }[]>`SELECT id, facts FROM mark WHERE number = ${number}`
	)[0];

describe('facts of the firm', () => {
	it('one is defined, asked by the rule of a kind, and what that means is said before it is saved', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/facts');
		await page.getByLabel('Code', { exact: true }).fill('MELT');
		await page.getByLabel('Name', { exact: true }).fill('Melt number');
		await page.getByRole('combobox', { name: 'Is a', exact: true }).selectOption('number');
		await page.getByLabel('At least').fill('9');
		await page.getByLabel('At most').fill('5');
		await page.getByRole('button', { name: 'Add field' }).click();
		await page.getByText('The lower limit 9 is above the upper limit 5. Turn them round.').waitFor();
		await page.getByLabel('At least').fill('1');
		await page.getByRole('button', { name: 'Add field' }).click();
		await page.getByText('Melt number is added.').waitFor();
		await accessible(page);

		await page.goto(app.base + '/setup/kinds/new');
		await page.getByLabel('Code', { exact: true }).fill('METAL');
		await page.getByLabel('Name', { exact: true }).fill('Metal parts');
		await page.getByLabel('Start from').selectOption('everywhere');
		await page.getByLabel('Ask another field too').selectOption('Melt number');
		await page.getByLabel('Melt number at receipt').selectOption('required');
		await page.getByText('Melt number is required at receipt.').waitFor();
		await page.getByRole('button', { name: 'Add kind' }).click();
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
		await foot(page).getByText('Lots E-2 … E-3: Certificate no. is missing. Type it in').waitFor();
		// What is missing, clicked, has the cursor in its own field, in the first row that lacks it.
		await foot(page).getByText('Lots E-2 … E-3: Certificate no. is missing. Type it in').click();
		const cursor = () =>
			page.evaluate(() => {
				const [at, row] = [document.activeElement?.closest('td'), document.activeElement?.closest('tr')];
				const holds = [...(row?.querySelectorAll('input') ?? [])].map((i) => i.value);
				return [at?.dataset.column, `${row?.textContent} ${holds}`];
			});
		await expect.poll(cursor).toEqual(['fact CERT', expect.stringContaining('E-2')]);
		// Ctrl+D copies a fact into the rows after it; the arrow in a cell does the same.
		const cell = (fact: string, n: number) => page.locator(`td[data-column="fact ${fact}"]`).nth(n);
		await cell('CERT', 0).locator('input').press('Control+d');
		await foot(page).getByText('Certificate no. is missing').waitFor({ state: 'detached' });
		await cell('TEMP', 0).hover();
		await page.getByRole('button', { name: 'Copy Temperature on arrival of E-1 into the rows after it' }).click();
		await foot(page)
			.getByText('Lots E-1 … E-3: Temperature on arrival 40 °C is outside 2 to 25 °C. Say why it is taken')
			.waitFor();
		// One act is taken back by one key.
		await page.locator('h1').click();
		await page.keyboard.press('Control+z');
		await foot(page).getByText('Lots E-2 … E-3: Temperature on arrival is missing. Type it in').waitFor();
		await page.keyboard.press('Control+y');
		await foot(page)
			.getByText('Lots E-1 … E-3: Temperature on arrival 40 °C is outside 2 to 25 °C. Say why it is taken')
			.waitFor();
		// The arrows walk the column.
		await cell('TEMP', 0).locator('input').focus();
		await page.keyboard.press('ArrowDown');
		await page.keyboard.press('ArrowDown');
		await page.keyboard.type('4.5');
		await page.keyboard.press('ArrowUp');
		await foot(page)
			.getByText(/Lots E-1 … E-2: .*Say why it is taken/)
			.waitFor();
		await cell('COA', 0).locator('input[type=file]').setInputFiles(pdf('salt'));
		await cell('COA', 0).getByRole('link', { name: 'certificate.pdf' }).waitFor();
		await cell('COA', 1)
			.locator('input[type=file]')
			.setInputFiles({ name: 'x.pdf', mimeType: 'application/pdf', buffer: Buffer.from('<script>') });
		await page.getByText('x.pdf is no PDF, PNG or JPEG. Save it as one of these.').waitFor();
		await foot(page).getByLabel('Reason, kept in the ledger').fill('the lorry stood in the sun');
		await page.keyboard.press('Control+Enter');
		expect(await booked(app, page, code)).toBe(3);
		const [one, three] = [await markOf('E-1'), await markOf('E-3')];
		expect(one.facts).toMatchObject({
			CERT: 'CoA-9',
			TEMP: '40',
			COA: expect.stringMatching(/^[0-9a-f]{64} certificate\.pdf$/)
		});
		expect(three.facts).toEqual({ CERT: 'CoA-9', TEMP: '4.5' });
		await page.goto(`${app.base}/register/${one.id}`);
		// Outside its limits it is red, and says so; what lies within them is not.
		const red = page.locator('dd', { hasText: 'outside 2 to 25 °C' }).locator('b', { hasText: '40 °C' });
		await red.waitFor();
		const colour = (e: Element) => getComputedStyle(e).color;
		const plain = page.locator('dd', { hasText: 'CoA-9' }).first();
		expect(await red.evaluate(colour)).not.toBe(await plain.evaluate(colour));
		await page.goto(`${app.base}/register/${three.id}`);
		await page.locator('dd', { hasText: '4.5 °C' }).first().waitFor();
		expect(await page.locator('dd b').filter({ hasText: '4.5 °C' }).count()).toBe(0);
		await page.goto(`${app.base}/register/${one.id}`);
		const file = await page.request.get(
			app.base + (await page.getByRole('link', { name: 'certificate.pdf' }).first().getAttribute('href'))!
		);
		expect((await file.body()).toString()).toBe('%PDF-1.4 salt');
		expect(file.headers()['content-security-policy']).toContain('sandbox');
	});

	it('one is recorded later on the page of a lot, and changed with a reason; the life says both', async () => {
		const page = await app.signIn('oskar');
		const { id } = await markOf('E-3');
		await page.goto(`${app.base}/register/${id}`);
		const record = async (fact: string, value: string, reason = '') => {
			await page.getByRole('button', { name: 'Add a detail…' }).click();
			await page.getByRole('combobox', { name: 'Detail', exact: true }).selectOption(fact);
			const field = page.getByLabel(fact, { exact: true });
			if ((await field.evaluate((e) => e.tagName)) === 'SELECT') await field.selectOption(value);
			else await field.fill(value);
			await page.getByLabel(/^Why/).fill(reason);
			await page.getByRole('button', { name: 'Save' }).click();
		};
		await record('Packaging', 'wet');
		await page.getByText(/Saved. It stands/).waitFor();
		await page.locator('dd', { hasText: 'wet' }).getByText('Oskar Lind').waitFor();
		await record('Temperature on arrival', '5');
		await page.getByText('Temperature on arrival is recorded as 4.5 °C. Say why it is changed, in one line.').waitFor();
		await page.getByLabel(/^Why/).fill('read off the wrong line');
		await page.getByRole('button', { name: 'Save' }).click();
		await page.getByText('Temperature on arrival: 4.5 °C → 5 °C').waitFor();
		await page.getByText('read off the wrong line').waitFor();
		await accessible(page);
	});

	it('notes and files are kept with who and when; a second copy of a file is refused', async () => {
		const page = await app.signIn('ines');
		await page.goto(`${app.base}/register/${(await markOf('E-2')).id}`);
		await page.getByLabel('Note', { exact: true }).fill('Sack 3 was damp outside.');
		await page.getByRole('button', { name: 'Add note' }).click();
		await page.getByText('Sack 3 was damp outside.').waitFor();
		for (const sentence of ['certificate.pdf is kept.', 'certificate.pdf is kept here already.']) {
			await page.getByLabel('Choose a certificate or picture').setInputFiles(pdf('second'));
			await page.getByRole('button', { name: 'Add file' }).click();
			await page.getByText(sentence).waitFor();
		}
		const auditor = await app.signIn('auditor');
		await auditor.goto(`${app.base}/register/${(await markOf('E-2')).id}`);
		await auditor.getByText('Sack 3 was damp outside.').waitFor();
		expect(await auditor.getByRole('button', { name: 'Add note' }).count()).toBe(0);
		expect(await auditor.getByRole('button', { name: 'Add a detail…' }).count()).toBe(0);
	});

	it('are asked of what is shipped, and of what is put away, where the rule says so', async () => {
		const page = await app.signIn('ines');
		await page.goto(app.base + '/setup/items/CR-30');
		for (const step of ['shipment', 'move']) {
			if (step === 'shipment') await page.getByLabel('Ask another field too').selectOption('Packaging');
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

		await page.goto(app.base + '/stock/move?place=QS%2FA5');
		const [{ number }] = await app.sql<{ number: string }[]>`
			SELECT k.number FROM balance b JOIN place p ON p.id = b.place_id AND p.code = 'QS/A5' JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id AND i.code = 'CR-30'
			WHERE b.qty > 0 AND NOT k.facts ? 'PACK' ORDER BY k.id DESC LIMIT 1`;
		await page.getByLabel(`Bin for ${number}, part 1`).fill('QS/A6');
		await page.getByLabel(`Bin for ${number}, part 1`).press('Tab');
		await page.getByRole('button', { name: 'Move', exact: true }).click();
		await page.getByText(`Lot ${number}: Packaging is missing.`).waitFor();
		await page.getByLabel(`Packaging of ${number}, part 1`).selectOption('dented');
		await page.getByRole('button', { name: 'Move', exact: true }).click();
		await page.getByText(/^Moved: \d/).waitFor();
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
		await type(dock, 'Buffer salt jar 1 kg', 'Quantity, pcs', '5');
		await type(dock, 'Buffer salt jar 1 kg', 'Expires', '2020-01-01');
		await foot(dock).getByText('Expired on 1 Jan 2020. It cannot be booked like this').waitFor();
		await page.getByLabel('what arrives has expired already').selectOption('reason: one line of why');
		await page.getByRole('button', { name: 'Save' }).click();
		await page.getByText('Saved. It counts from now on').waitFor();
		await dock.reload();
		await foot(dock).getByText('Expired on 1 Jan 2020. Say why it is taken in').waitFor();
	});
});
